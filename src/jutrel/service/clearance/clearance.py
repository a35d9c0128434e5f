"""May a machine go: what the core needs to say so, gathered; and what pages say of it beside a look."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime

from jutrel.core.clearance.answer import Act, Clearance
from jutrel.core.clearance.looks import Looks, looks_named
from jutrel.core.clearance.prove import HELD_NO_LONGER, NO_WHOLE, Machine, clearance
from jutrel.core.machine.unit import Unit
from jutrel.core.wording import NOTHING, Said
from jutrel.service.context import Here
from jutrel.service.inspection.look import LookStanding
from jutrel.service.machine.find import unit_of
from jutrel.service.machine.standing import edition_in_force
from jutrel.service.site.shifts import timetable_about
from jutrel.store.queries import projections as rows


def titles_of(here: Here) -> dict[str, str]:
    """Names of the kinds of inspection."""
    return {k.id: k.name for k in here.catalog.kinds.values()}


async def looks_at(here: Here, unit: Unit) -> Looks:
    """The looks at a machine that count today."""
    ids = unit.newest.ids
    found = {k.id: k for _, k in await rows.looks_of(here.db, here.site.id, ids=ids)} if ids else {}
    return looks_named(unit.newest, found)


def machine_as(here: Here, unit: Unit, looks: Looks, edition: str) -> Machine:
    """A machine as clearance wants it, by the shifts about now."""
    table = timetable_about(here.site, here.now)
    return Machine(unit.standing, looks, unit.hours, edition, table, unit.active, titles_of(here))


async def machine_now(here: Here, unit: Unit) -> Machine:
    """The same, with its looks and the edition in force."""
    return machine_as(here, unit, await looks_at(here, unit), (await edition_in_force(here, unit))[0])


@dataclass(frozen=True, slots=True)
class Clears:
    """What may be done with a machine at a time, by whoever asks: it is looked up once for all of them."""

    machine: Machine
    now: datetime

    def whoever(self, asks: str = "") -> Clearance:
        """Whether it may be started now, and may work, for whoever asks; nobody named: for whoever it is."""
        return clearance(self.machine, self.now, asks)


async def clears(here: Here, unit: Unit) -> Clears:
    """What may be done with a machine now."""
    return Clears(await machine_now(here, unit), here.now)


async def clearance_of(here: Here, unit: Unit, asks: str = "") -> Clearance:
    """Whether a machine may be started now, and may work, for whoever asks."""
    return clearance(await machine_now(here, unit), here.now, asks)


BESIDE = ("hold", "unseen", "walking", "unaccepted", "accepted-earlier", "other-operator", "never", "over", "ran")
"""What a look's own verdict says by itself, or what concerns another day than the look's."""


async def barred(here: Here, s: LookStanding) -> Said:
    """Why the machine of a look is not started whatever the look found; empty if nothing is so.

    Only the looks that count today say anything of today. For a look that is not signed yet it is asked as if it were.
    """
    machine = await machine_now(here, s.unit)
    looks = machine.looks
    if s.unit.standing.locks:
        return _first(clearance(machine, here.now), ("locked",))
    mine = next((k for k in (looks.newest, looks.cleared, looks.current) if k is not None and k.id == s.id), None)
    if mine is None:
        return NOTHING
    kind = s.walk.kind
    if mine.signed_at is None and mine.clears:
        signed = replace(mine, signed_at=here.now, signed_by=mine.begun_by, signed_seq=s.unit.seq + 1)
        whole = looks.whole if kind is not None and kind.continues else signed
        looks = replace(looks, cleared=signed, whole=whole, current=None)
        missing = s.unit.standing.missing if whole is looks.whole and whole is not signed else ()
        machine = replace(machine, looks=looks, standing=replace(s.unit.standing, missing=missing))
    found = clearance(machine, here.now)
    return next((x.says for x in found.start.lacks if x.key not in BESIDE), NOTHING)


def _first(found: Clearance, keys: tuple[str, ...]) -> Said:
    return next((x.says for x in found.start.lacks if x.key in keys), NOTHING)


async def short_says(here: Here, machine: str, kind: str) -> Said:
    """Why an inspection of a kind that begins now would clear nothing; empty for kinds that stand by themselves."""
    found = here.catalog.kinds.get(kind)
    if found is None or not found.continues:
        return NOTHING
    unit = await unit_of(here, machine)
    now = await machine_now(here, unit)
    # As if the whole one that it goes on from were what clears it now.
    looks = replace(now.looks, cleared=now.looks.whole, current=None)
    lacks = clearance(replace(now, looks=looks), here.now).start.lacks
    first = next((x for x in lacks if x.act in (Act.WALK, Act.METER)), None)
    if first is None:
        return NOTHING
    return NO_WHOLE if first.key == "never" else HELD_NO_LONGER if first.key in ("over", "ran") else first.says
