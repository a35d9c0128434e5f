"""Signing in and out, and who may call: cookie, origin and problem documents."""

from __future__ import annotations

import json
import secrets
from collections.abc import AsyncIterator, Sequence
from datetime import UTC, datetime
from typing import Annotated, Any
from urllib.parse import urlsplit

from fastapi import Depends, FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from jutrel.api.language import wording_of
from jutrel.api.server_log import log
from jutrel.api.wire import ProblemOut
from jutrel.core.errors import BadInput
from jutrel.core.refusal import refused_field
from jutrel.core.wording import Said, as_written, say
from jutrel.service.context import Here, Shop, here_of
from jutrel.service.people.people import Actor, here_and_actor
from jutrel.service.problem import Problem
from jutrel.service.site.shops import Shops
from jutrel.settings import LOOPBACK, Settings
from jutrel.store.base import StoreAway, StoreBusy

COOKIE = "jutrel"
SHOP = "jutrel-shop"
UNTOUCHED = "jutrel-untouched"
"""With it a page says that nobody has touched it for a while: what it asks by itself keeps no session open."""
TABLET_S = 400 * 24 * 3600
"""As long as browsers keep a cookie at most."""
AWAY = say("The record store does not answer. Your taps stay on this device and are sent when it is back.")
TITLES = {
    400: say("Cannot be done so"),
    401: say("Not signed in"),
    403: say("Not this role"),
    404: say("No such thing"),
    405: say("Not at this address"),
    408: say("It did not arrive in time"),
    409: say("Clashes"),
    413: say("Too large"),
    421: say("Not at this address"),
    422: say("A field is wrong"),
    429: say("Wait"),
    500: say("A fault of ours"),
    503: say("The record store does not answer"),
}
PROBLEMS: dict[int | str, dict[str, Any]] = {
    code: {"model": ProblemOut, "content": {"application/problem+json": {}}, "description": str(title)}
    for code, title in TITLES.items()
    if code not in (405, 421, 500)
}


def now() -> datetime:
    """The server's clock; the only place that reads it for a request."""
    return datetime.now(UTC)


def settings_of(request: Request) -> Settings:
    """The running settings."""
    settings: Settings = request.app.state.settings
    return settings


def shop_of(request: Request) -> Shop:
    """What lives as long as the server, of the site that was asked for."""
    shop: Shop = request.scope[SHOP]
    return shop


def public_address(request: Request) -> str:
    """Where people reach the site that was asked for, such as https://yard.example; empty: not known."""
    settings, shops = settings_of(request), request.app.state.shops
    if shops.knows(host := host_of(request.scope)):
        return f"{'https' if settings.over_tls else request.url.scheme}://{host}"
    return settings.public_address.rstrip("/")


async def work(request: Request) -> AsyncIterator[Here]:
    """A transaction for the length of a request; committed if the request succeeds."""
    shop = shop_of(request)
    async with shop.store.transaction() as db:
        yield await here_of(db, shop.books, now())


# Committed before the response leaves: what is acknowledged is kept.
Open = Annotated[Here, Depends(work, scope="function")]
"""The site, for what needs no session."""


async def signed_in(request: Request) -> AsyncIterator[tuple[Here, Actor]]:
    """A transaction and the signed-in person, or a 401 problem."""
    shop = shop_of(request)
    async with shop.store.transaction() as db:
        used = UNTOUCHED not in request.headers
        yield await here_and_actor(db, shop.books, token_of(request), now(), used)


_Both = Annotated[tuple[Here, Actor], Depends(signed_in, scope="function")]


def _here(both: _Both) -> Here:
    return both[0]


def _who(both: _Both) -> Actor:
    return both[1]


Work = Annotated[Here, Depends(_here, scope="function")]
Who = Annotated[Actor, Depends(_who, scope="function")]


def token_of(request: Request) -> str | None:
    """The session's token as the device sent it."""
    return request.cookies.get(cookie_name(settings_of(request)))


def cookie_of(scope: Scope, name: str) -> str | None:
    """A cookie of a request that nobody has taken apart yet."""
    return Request(scope).cookies.get(name)


PHOTO_BODY = {
    "requestBody": {"required": True, "content": {"image/jpeg": {"schema": {"type": "string", "format": "binary"}}}}
}


def plain_json(data: Any) -> Response:
    """Plain data as it is: for answers that were made to their type already."""
    return Response(json.dumps(data, ensure_ascii=False, separators=(",", ":")), media_type="application/json")


def cookie_name(settings: Settings) -> str:
    """The session cookie's name: over TLS one that no other host, path or plain page can set."""
    return f"__Host-{COOKIE}" if settings.over_tls else COOKIE


def set_cookie(response: Response, token: str, settings: Settings) -> None:
    """The session cookie: not for scripts, not for other sites."""
    response.set_cookie(
        cookie_name(settings),
        token,
        max_age=int(settings.session_hours * 3600),
        httponly=True,
        samesite="strict",
        secure=settings.over_tls,
        path="/" if settings.over_tls else "/api",
    )


def tablet_of(request: Request) -> str | None:
    """What this tablet was given when somebody signed in on it first."""
    return request.cookies.get(f"{cookie_name(settings_of(request))}-tablet")


def company_of(request: Request) -> str | None:
    """What this browser was given when it went to the company's page."""
    return request.cookies.get(f"{cookie_name(settings_of(request))}-company")


def set_company(response: Response, browser: str, settings: Settings) -> None:
    """Have the browser keep what shows that it is the one which went to the company's page."""
    response.set_cookie(
        f"{cookie_name(settings)}-company",
        browser,
        max_age=600,
        httponly=True,
        samesite="strict",
        secure=settings.over_tls,
        path="/" if settings.over_tls else "/api",
    )


def new_tablet() -> str:
    """What a tablet is known by from now on: a secret, and no name."""
    return secrets.token_urlsafe(32)


def set_tablet(response: Response, tablet: str, settings: Settings) -> None:
    """Have the tablet keep it, longer than any session."""
    response.set_cookie(
        f"{cookie_name(settings)}-tablet",
        tablet,
        max_age=TABLET_S,
        httponly=True,
        samesite="strict",
        secure=settings.over_tls,
        path="/" if settings.over_tls else "/api",
    )


def problem(
    scope: Scope,
    status: int,
    kind: str,
    detail: Said,
    field: str | None = None,
    wait_s: int | None = None,
    line: int | None = None,
    roles: Sequence[str] = (),
) -> JSONResponse:
    """A problem document (RFC 9457), in the language of the request."""
    wording = wording_of(scope)
    body = ProblemOut(
        type=f"/problems/{kind}",
        title=wording.say(TITLES.get(status, TITLES[400])),
        status=status,
        detail=wording.say(detail),
        field=field,
        wait_s=wait_s,
        line=line,
        roles=list(roles),
    )
    headers = {"Retry-After": str(wait_s)} if wait_s else None
    return JSONResponse(body.model_dump(), status, headers, media_type="application/problem+json")


def _cross_site(request: Request) -> bool:
    """Whether a writing request comes from a page of another site."""
    if request.method in ("GET", "HEAD", "OPTIONS"):
        return False
    if request.headers.get("sec-fetch-site") not in (None, "same-origin", "none"):
        return True
    origin = request.headers.get("origin")
    return origin is not None and urlsplit(origin).netloc != request.headers.get("host")


HEADERS = [
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
    (b"permissions-policy", b"camera=(self), microphone=(), geolocation=(), payment=(), usb=(), serial=()"),
    (b"cross-origin-opener-policy", b"same-origin"),
    (
        b"content-security-policy",
        b"default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'; "
        b"base-uri 'none'; form-action 'self'; object-src 'none'",
    ),
]
WATCHED = ("/api/health", "/api/ready", "/api/metrics")
"""What is asked on the machine itself, for all of its sites."""
HSTS = (b"strict-transport-security", b"max-age=31536000")


def host_of(scope: Scope) -> str:
    """The host that a request asks for, without its port on loopback."""
    told = next((value.decode("latin-1").lower() for key, value in scope["headers"] if key == b"host"), "")
    name = told.rsplit(":", 1)[0] if not told.endswith("]") else told
    return name if name in LOOPBACK else told


class Guard:
    """Around every request: nothing from other sites' pages, plain headers, and a problem document for a fault."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer one request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        api = scope["path"].startswith("/api")
        begun = False
        # What is asked for its head alone is answered as a whole, and the body left out.
        head = scope["method"] == "HEAD"
        if head:
            scope = {**scope, "method": "GET"}

        async def with_headers(message: Message) -> None:
            nonlocal begun
            if message["type"] == "http.response.start":
                begun = True
                headers = message.setdefault("headers", [])
                headers += HEADERS
                if scope["app"].state.settings.over_tls:
                    headers.append(HSTS)
                if api and not any(key == b"cache-control" for key, _ in headers):
                    headers.append((b"cache-control", b"no-store"))
            elif head:
                message = {**message, "body": b""}
            await send(message)

        reply: Response | None = None
        settings: Settings = scope["app"].state.settings
        scope[SHOP] = await self._shop(scope, settings)  # in place: who is around it finds the route there
        if scope[SHOP] is None:
            reply = problem(scope, 421, "other-host", say("This address is not served here."))
        elif api and _cross_site(Request(scope)):
            reply = problem(scope, 403, "cross-site", say("This request came from another site's page."))
        else:
            try:
                await self.app(scope, receive, with_headers)
            except Exception:
                log.exception("request failed", extra={"about": {"method": scope["method"], "path": scope["path"]}})
                if begun:
                    raise  # the answer is under way: the connection is cut, so that nobody takes it for whole
                says = say("Nothing was stored. It is in the server's log; try again.")
                reply = problem(scope, 500, "fault", says)
        if reply is not None:
            await reply(scope, receive, with_headers)

    async def _shop(self, scope: Scope, settings: Settings) -> Shop | None:
        """The shop of the site that is asked for; None: its address leads nowhere."""
        shops: Shops = scope["app"].state.shops
        host = host_of(scope)
        shop = await shops.at(host)
        if host in LOOPBACK and scope["path"] in WATCHED:
            return shop or shops.first
        return shop if not settings.hosts or host in settings.hosts or shops.knows(host) else None


def guard(app: FastAPI) -> None:
    """Fit cross-site protection and problem documents to an app."""

    app.add_middleware(Guard)

    @app.exception_handler(Problem)
    async def on_problem(request: Request, error: Problem) -> Any:
        return problem(
            request.scope, error.status, error.kind, error.says, error.field, error.wait_s, error.line, error.roles
        )

    @app.exception_handler(BadInput)
    async def on_bad_input(request: Request, error: BadInput) -> Any:
        says = say("{field}: {says}", field=error.field, says=error.says)
        return problem(request.scope, 422, "bad-input", says, error.field)

    @app.exception_handler(StoreAway)
    async def on_away(request: Request, _: StoreAway) -> Any:
        return problem(request.scope, 503, "store-away", AWAY, wait_s=3)

    @app.exception_handler(StoreBusy)
    async def on_busy(request: Request, _: StoreBusy) -> Any:
        says = say("Somebody else writes there just now. Trying again.")
        return problem(request.scope, 503, "store-busy", says, wait_s=2)

    @app.exception_handler(RequestValidationError)
    async def on_invalid(request: Request, error: RequestValidationError) -> Any:
        first = error.errors()[0]
        field = ".".join(str(x) for x in first["loc"] if x not in ("body", "query", "path"))
        wrong = refused_field(str(first["type"]), first.get("ctx", {}), str(first["msg"]))
        says = say("{field}: {says}", field=field, says=wrong) if field else wrong
        return problem(request.scope, 422, "bad-input", says, field or None)

    @app.exception_handler(HTTPException)
    async def on_http(request: Request, error: HTTPException) -> Any:
        says = TITLES.get(error.status_code, as_written(str(error.detail)))
        reply = problem(request.scope, error.status_code, "http", says)
        reply.headers.update(error.headers or {})
        return reply
