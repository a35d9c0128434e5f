"""Route: that something was written, told at once to every page that is open."""

from __future__ import annotations

import asyncio
from collections import Counter
from collections.abc import AsyncIterator

from fastapi import APIRouter, Request
from fastapi.responses import StreamingResponse

from jutrel.api.cookies import token_of
from jutrel.api.door import PROBLEMS, now, shop_of
from jutrel.core.wording import say
from jutrel.service.people.people import here_and_actor
from jutrel.service.problem import Problem

router = APIRouter(prefix="/api", tags=["yard"], responses=PROBLEMS)
PATIENCE_S = 15.0
"""How often it says that it is still there: longer silence and somebody on the way cuts the line."""
BREATH_S = 0.25
"""Many changes at once are told as one."""
MOST_PAGES = 400
MOST_OF_ONE = 12
"""Pages of one person that listen: so many tablets and windows nobody has open."""


class Crowd(Problem):
    """So many pages listen to this process already that another one asks now and then instead."""

    status = 503

    def __init__(self) -> None:
        super().__init__("busy", say("Many pages are open: this one asks now and then."), wait_s=30)


class ListeningPages:
    """How many pages listen."""

    def __init__(self) -> None:
        self.open = 0
        self.by: Counter[str] = Counter()


# A stream has no end, so it is no answer that the document of the API could describe.
@router.get("/events", include_in_schema=False)
async def get_events(request: Request) -> StreamingResponse:
    """Server-sent events: `yard` whenever a machine's row was written, with a number that grows."""
    shop = shop_of(request)
    pages = shop.books.one(ListeningPages)

    async def known() -> str:
        async with shop.store.transaction() as db:
            return (await here_and_actor(db, shop.books, token_of(request), now(), used=False))[1].person.id

    async def told() -> AsyncIterator[bytes]:
        seen = -1
        pages.open += 1
        pages.by[person] += 1
        try:
            while True:
                count = await shop.live.after(shop.store.site, seen, PATIENCE_S)
                if count != seen:
                    yield b"event: yard\ndata: %d\n\n" % count
                    seen = count
                    await asyncio.sleep(BREATH_S)
                else:
                    yield b": still here\n\n"
                    await known()  # who signed out hears no more
        finally:
            pages.open -= 1
            pages.by[person] -= 1

    person = await known()
    if pages.open >= MOST_PAGES or pages.by[person] >= MOST_OF_ONE:
        raise Crowd
    headers = {"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    return StreamingResponse(told(), media_type="text/event-stream", headers=headers)
