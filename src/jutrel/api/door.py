"""What a request works on: the site, who calls, and how it is told no."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator, Sequence
from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import Depends, Request, Response
from fastapi.responses import JSONResponse
from starlette.types import Scope

from jutrel.api.cookies import token_of
from jutrel.api.language import wording_of
from jutrel.api.wire import ProblemOut
from jutrel.core.wording import Said, say
from jutrel.service.context import Here, Shop, here_of
from jutrel.service.people.people import Actor, here_and_actor
from jutrel.settings import LOOPBACK, Settings

SHOP = "jutrel-shop"
UNTOUCHED = "jutrel-untouched"
"""With it a page says that nobody has touched it for a while: what it asks by itself keeps no session open."""
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


PHOTO_BODY = {
    "requestBody": {"required": True, "content": {"image/jpeg": {"schema": {"type": "string", "format": "binary"}}}}
}


def plain_json(data: Any) -> Response:
    """Plain data as it is: for answers that were made to their type already."""
    return Response(json.dumps(data, ensure_ascii=False, separators=(",", ":")), media_type="application/json")


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


def host_of(scope: Scope) -> str:
    """The host that a request asks for, without its port on loopback."""
    told = next((value.decode("latin-1").lower() for key, value in scope["headers"] if key == b"host"), "")
    name = told.rsplit(":", 1)[0] if not told.endswith("]") else told
    return name if name in LOOPBACK else told
