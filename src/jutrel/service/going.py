"""May a machine go: what the core needs of its newest looks to say so, and what pages say beside a look."""

from __future__ import annotations

from jutrel.core.machine.go import Looks, barred_said, looks_named, short_clears_not
from jutrel.core.machine.unit import Unit
from jutrel.core.wording import NOTHING, Said
from jutrel.service.context import Here
from jutrel.service.look import Standing
from jutrel.service.units import unit_of
from jutrel.store.queries import projections as rows


def titles_of(here: Here) -> dict[str, str]:
    """Names of the kinds of inspection."""
    return {k.id: k.name for k in here.catalog.kinds.values()}


async def looks_at(here: Here, unit: Unit) -> Looks:
    """The looks at a machine that count today."""
    ids = unit.newest.ids
    found = {k.id: k for _, k in await rows.looks_of(here.db, here.site.id, ids=ids)} if ids else {}
    return looks_named(unit.newest, found)


async def barred(here: Here, s: Standing) -> Said:
    """Why the machine of a look is not started whatever the look found; empty if nothing is so."""
    kind = s.walk.kind
    short = (s.heard.case.hours or s.unit.hours) if kind is not None and kind.continues else None
    looks = await looks_at(here, s.unit)
    return barred_said(s.unit.standing, looks, titles_of(here), s.id, s.heard.look.opening, short)


async def short_says(here: Here, machine: str, kind: str) -> Said:
    """Why an inspection of a kind that begins now would clear nothing; empty for kinds that stand by themselves."""
    found = here.catalog.kinds.get(kind)
    if found is None or not found.continues:
        return NOTHING
    unit = await unit_of(here, machine)
    return short_clears_not(unit.standing, await looks_at(here, unit), titles_of(here), unit.hours, here.now)
