"""Around every request: whose site it is, nothing from other sites' pages, plain headers, problem documents."""

from __future__ import annotations

from typing import Any
from urllib.parse import urlsplit

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from jutrel.api.door import AWAY, SHOP, TITLES, host_of, problem
from jutrel.api.server_log import log
from jutrel.core.errors import BadInput
from jutrel.core.refusal import refused_field
from jutrel.core.wording import as_written, say
from jutrel.service.context import Shop
from jutrel.service.problem import Problem
from jutrel.service.site.shops import Shops
from jutrel.settings import LOOPBACK, Settings
from jutrel.store.base import StoreAway, StoreBusy


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
