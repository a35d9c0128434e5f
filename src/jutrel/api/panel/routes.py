"""Routes: what a machine tells over its bus, from its reader and to every page that shows it."""

from __future__ import annotations

from collections.abc import AsyncIterator
from datetime import timedelta
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import StreamingResponse
from pydantic import AwareDatetime

from jutrel.api.cookies import token_of
from jutrel.api.door import PROBLEMS, Open, Who, Work, now, settings_of, shop_of
from jutrel.api.language import Tongue
from jutrel.api.log.live import MOST_PAGES, Crowd, ListeningPages
from jutrel.api.panel.wire import (
    BusOut,
    CourseOut,
    KeptOut,
    OrdersIn,
    OrdersOut,
    PanelIn,
    PanelOut,
    PanelsIn,
    PanelsTakenOut,
    PanelTakenOut,
    SamplesIn,
    StandInOut,
    course_out,
    orders_out,
    panel_out,
)
from jutrel.api.site.devices import KEY, is_demo, shown
from jutrel.api.wire import Slug
from jutrel.core.panel.figures import as_plain
from jutrel.core.panel.identity import as_compared
from jutrel.service.panel.course import USUAL, course, import_samples
from jutrel.service.panel.panel import PanelNow, hear_panels, on_bus_of, orders_now, panel_feed, panel_now, set_orders
from jutrel.service.site.devices import admitted

router = APIRouter(prefix="/api/machines", tags=["panel"], responses=PROBLEMS)
readers = APIRouter(prefix="/api/panels", tags=["panel"], responses=PROBLEMS)


def stale_of(request: Request) -> timedelta:
    """What a machine told longer ago than this is unknown."""
    return timedelta(seconds=settings_of(request).panel_stale_s)


@router.put("/{machine}/panel")
async def put_panel(request: Request, here: Open, machine: Slug, body: PanelIn, device_key: KEY = "") -> PanelTakenOut:
    """What a machine's reader says now, and what it could not send before. It shows its own key.

    Told twice it counts once. See docs/panel.md.
    """
    await admitted(here, shown(request, device_key), [machine])
    on_bus = (await hear_panels(here, {machine: body.heard()}, demo=is_demo(request)))[machine]
    return PanelTakenOut(now=now(), engine=on_bus.engine, figures=as_plain(on_bus.figures))


@readers.put("")
async def put_panels(request: Request, here: Open, body: PanelsIn, device_key: KEY = "") -> PanelsTakenOut:
    """What the reader of many machines says now, in one message; all of it is taken, or none.

    A reader that gets a no tells of each machine by itself: one that is refused holds up no other.
    """
    await admitted(here, shown(request, device_key), body.machines)
    heard = {machine: message.heard() for machine, message in body.machines.items()}
    found = await hear_panels(here, heard, demo=is_demo(request))
    buses = {machine: BusOut(engine=b.engine, figures=as_plain(b.figures)) for machine, b in found.items()}
    return PanelsTakenOut(now=now(), machines=buses)


@router.get("/{machine}/panel", response_model=PanelOut | None)
async def get_panel(request: Request, here: Work, who: Who, wording: Tongue, machine: Slug) -> PanelOut | None:
    """A machine's panel as its reader said last; null: its bus is not read."""
    unit, found = await panel_now(here, machine, stale_of(request))
    return None if found is None else panel_out(unit.id, found, wording)


# A stream has no end, so it is no answer that the document of the API could describe.
@router.get("/{machine}/panel/events", include_in_schema=False)
async def get_panel_events(request: Request, wording: Tongue, machine: Slug) -> StreamingResponse:
    """Server-sent events: `panel` with the same document whenever it was told, and once more when it falls silent."""
    shop = shop_of(request)
    pages = shop.books.one(ListeningPages)
    feed = panel_feed(shop, token_of(request), machine, stale_of(request), now)
    first = await anext(feed)  # who may not see it is told before the stream begins
    if pages.open >= MOST_PAGES:
        raise Crowd

    def line(found: PanelNow | None) -> bytes:
        if found is None:
            return b": still here\n\n"
        return b"event: panel\ndata: %s\n\n" % panel_out(machine, found, wording).model_dump_json().encode()

    async def told() -> AsyncIterator[bytes]:
        pages.open += 1
        try:
            yield line(first)
            async for found in feed:
                yield line(found)
        finally:
            pages.open -= 1
            await feed.aclose()

    headers = {"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    return StreamingResponse(told(), media_type="text/event-stream", headers=headers)


@router.put("/{machine}/stand-in")
async def put_orders(here: Work, who: Who, machine: Slug, body: OrdersIn) -> OrdersOut:
    """Set what the stand-in of a machine is to do; what it does then. A real machine takes no orders from here."""
    return orders_out(await set_orders(here, who, machine, body.model_dump(exclude_none=True)))


@router.get("/{machine}/stand-in")
async def get_orders(request: Request, here: Open, machine: Slug, device_key: KEY = "") -> StandInOut:
    """What the stand-in of a machine is to do, for its own process."""
    await admitted(here, shown(request, device_key), [machine])
    unit, orders = await orders_now(here, machine)
    plate = (await on_bus_of(here, unit)).plate
    return StandInOut(
        orders=orders_out(orders) if orders else None,
        hours=round(unit.hours - unit.offset, 1),
        identification=None if plate is None else as_compared(plate),
    )


@router.get("/{machine}/panel/course")
async def get_course(
    here: Work,
    who: Who,
    wording: Tongue,
    machine: Slug,
    since: AwareDatetime,
    until: AwareDatetime,
    key: Annotated[
        list[Slug] | None, Query(max_length=8, description="Which signals; left out: the usual ones.")
    ] = None,
) -> CourseOut:
    """How a machine's values went between two times, in at most 240 stretches of each signal."""
    return course_out(await course(here, machine, since, until, key or USUAL), wording)


@router.post("/{machine}/panel/samples")
async def post_samples(request: Request, here: Open, machine: Slug, body: SamplesIn, device_key: KEY = "") -> KeptOut:
    """Values of a log that was read elsewhere. Sent twice they count once; a run never goes by them."""
    await admitted(here, shown(request, device_key), [machine])
    return KeptOut(kept=await import_samples(here, machine, {s.at: s.values for s in body.samples}))
