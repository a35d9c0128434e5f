"""Limits before any work: how much a request may bring, how deep and how broad, and by when.

All of a body is here before it is parsed, and before a connection to the record store is taken for it.
"""

from __future__ import annotations

import asyncio
import re
from dataclasses import dataclass

from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from jutrel.api.cookies import cookie_name, cookie_of
from jutrel.api.door import AWAY, SHOP, now, problem
from jutrel.core.wording import NOTHING, Number, Said, say
from jutrel.service.context import Shop
from jutrel.service.people.people import is_signed_in
from jutrel.store.base import StoreAway, StoreBusy

SMALL = 64_000
MOST_AT_ONCE = 96_000_000
"""Bytes of bodies held at the same time; who comes above that is asked to come again."""
DEPTH, PARTS = 16, 40_000
"""How deep lists and objects may nest, and how many of them and of their commas a document may have."""
COMMAS = 200_000
TAKES = say("This address takes {kB} kB at most.").text


@dataclass(frozen=True, slots=True)
class Limit:
    """What a request to some addresses may bring: bytes, seconds to bring them in, and whether it is JSON."""

    most: int
    seconds: float
    json: bool = True


PLAIN = Limit(SMALL, 10.0)
LIMITS = (
    (re.compile(r"/api/entries"), Limit(1_500_000, 30.0)),
    (re.compile(r"/api/models"), Limit(900_000, 30.0)),
    (re.compile(r"/api/machine-list|/api/people-list"), Limit(600_000, 30.0)),
    (re.compile(r"/api/panels"), Limit(700_000, 10.0)),
    (re.compile(r"/api/photos/[^/]+|/api/machines/[^/]+/photo"), Limit(15_000_000, 180.0, json=False)),
)
_STRINGS = re.compile(rb'"(?:[^"\\]|\\.)*"')
_BRACKETS = re.compile(rb"[\[\]{}]")


def limit_of(path: str) -> Limit:
    """What a request to this address may bring."""
    return next((limit for pattern, limit in LIMITS if pattern.fullmatch(path)), PLAIN)


def shape_problem(body: bytes) -> Said:
    """What is wrong with the shape of a JSON document, before anybody parses it; empty if nothing is.

    >>> str(shape_problem(b'{"a": [1, 2, "[["]}')), str(shape_problem(b"[" * 50))
    ('', 'lists and objects nest more than 16 deep')
    """
    if body.count(b"[") + body.count(b"{") > PARTS or body.count(b",") > COMMAS:
        return say("more than {parts} lists and objects, or {values} values", parts=PARTS, values=COMMAS)
    depth = 0
    for found in _BRACKETS.finditer(_STRINGS.sub(b"", body)):
        depth += 1 if found.group() in b"[{" else -1
        if depth > DEPTH:
            return say("lists and objects nest more than {depth} deep", depth=DEPTH)
    return NOTHING


class TooLarge(Exception):
    """The body is larger than this address takes."""


class Limits:
    """Takes the body of a request in, within its limits, before anything else is done."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app
        self.held = 0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer one request."""
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS", "DELETE"):
            await self.app(scope, receive, send)
            return
        limit = limit_of(scope["path"])
        said = _length(scope)
        reply: Response | None = None
        body = b""
        if said is not None and said > limit.most:
            reply = problem(scope, 413, "too-large", say(TAKES, kB=limit.most // 1000))
        elif self.held + (said or limit.most) > MOST_AT_ONCE:
            reply = problem(scope, 503, "busy", say("Much is coming in just now: try again in a moment."), wait_s=3)
        # An ordinary tap is small: who sends it is asked once, where it is taken.
        elif (said or limit.most) <= SMALL or (reply := await self._stranger(scope)) is None:
            reply, body = await self._bring_in(scope, receive, limit, said or limit.most)
        if reply is not None:
            # What is still on its way is not waited for.
            reply.headers["Connection"] = "close"
            await reply(scope, receive, send)
            return

        async def again() -> Message:
            nonlocal body
            given, body = body, b""
            return {"type": "http.request", "body": given, "more_body": False}

        await self.app(scope, again, send)

    async def _stranger(self, scope: Scope) -> Response | None:
        """Who is not signed in brings in nothing large."""
        shop: Shop = scope[SHOP]
        try:
            if await is_signed_in(shop, cookie_of(scope, cookie_name(scope["app"].state.settings)), now()):
                return None
        except (StoreAway, StoreBusy):
            return problem(scope, 503, "store-away", AWAY, wait_s=3)
        return problem(scope, 401, "not-signed-in", say("Sign in with your name and PIN."))

    async def _bring_in(self, scope: Scope, receive: Receive, limit: Limit, room: int) -> tuple[Response | None, bytes]:
        self.held += room
        try:
            body = await asyncio.wait_for(_whole(receive, limit.most), limit.seconds)
        except TooLarge:
            return problem(scope, 413, "too-large", say(TAKES, kB=limit.most // 1000)), b""
        except TimeoutError:
            says = say("It did not arrive within {seconds}: it is tried again.", seconds=Number(limit.seconds, 0, "s"))
            return problem(scope, 408, "too-slow", says), b""
        finally:
            self.held -= room
        if limit.json and (wrong := shape_problem(body)):
            return problem(scope, 413, "too-large", say("The document is refused: {wrong}.", wrong=wrong)), b""
        return None, body


def _length(scope: Scope) -> int | None:
    for key, value in scope["headers"]:
        if key == b"content-length" and value.isdigit():
            return int(value)
    return None


async def _whole(receive: Receive, most: int) -> bytes:
    chunks, size = [], 0
    while True:
        message = await receive()
        if message["type"] == "http.disconnect":
            return b""
        chunk = message.get("body", b"")
        size += len(chunk)
        if size > most:
            raise TooLarge
        chunks.append(chunk)
        if not message.get("more_body"):
            return b"".join(chunks)
