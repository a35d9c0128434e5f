"""A machine parked overnight: the look that left it and the one that found it next, out of its looks."""

from __future__ import annotations

from jutrel.core.inspection.hear import Heard
from jutrel.core.inspection.look import Status
from jutrel.core.machine.overnight import Overnight, overnight
from jutrel.service.context import Here
from jutrel.service.inspection.look import known
from jutrel.service.machine.find import unit_of
from jutrel.store.queries import projections as rows

MOST_LOOKS = 30


async def left_and_found(here: Here, machine: str, inspection: str | None = None) -> tuple[Heard, Heard | None] | None:
    """How a machine was left, and the look that found it next: the newest, or the one asked for, begun or not.

    A look that leaves a machine ends the shift; where nobody ended it so, the one before counts.
    """
    unit = await unit_of(here, machine)
    looks = [look for _, look in await rows.looks_of(here.db, here.site.id, machine, MOST_LOOKS)]
    usable = [look for look in looks if look.status is not Status.ABANDONED]
    found = next((k for k in usable if k.id == inspection), None) if inspection else next(iter(usable), None)
    if found is None and inspection is None:
        return None
    before = [k for k in usable if (found is None or k.begun_at < found.begun_at) and k.signed_at is not None]
    left = next((k for k in before if k.kind == "end-of-shift"), None)
    # Between an evening and a morning nothing else was looked at whole.
    evening = left if left is not None and before and left.id == before[0].id else next(iter(before), None)
    if evening is None:
        return None
    was = await known(here, unit, evening.id)
    now = await known(here, unit, found.id) if found is not None else None
    return (was.alone, now.alone if now else None) if was is not None else None


async def parked(here: Here, machine: str, inspection: str | None = None) -> tuple[Overnight, Heard] | None:
    """What changed the last time it stood, and the look that found it; None if it never stood between two."""
    found = await left_and_found(here, machine, inspection)
    if found is None or found[1] is None:
        return None
    return overnight(found[0], found[1]), found[1]
