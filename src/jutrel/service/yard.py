"""The yard at the start of a shift: every machine, can it go, and why not."""

from __future__ import annotations

from dataclasses import dataclass

from jutrel.core.inspection.look import Status, lapsed
from jutrel.core.machine.state import Go, Looks, LookSummary, Word, may_go
from jutrel.core.machine.unit import Unit
from jutrel.service.context import Here
from jutrel.service.people import names_of
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import projections as rows


@dataclass(frozen=True, slots=True)
class YardMachine:
    """A machine in its bay and how it stands. `last`: the newest signed look; `current`: the one under way."""

    unit: Unit
    go: Go
    word: Word
    last: LookSummary | None
    current: LookSummary | None
    signed_by: str | None
    walked_by: str | None

    @property
    def why(self) -> str:
        """The reason in a sentence."""
        return self.word.why


async def yard(here: Here) -> list[YardMachine]:
    """Every machine of the site and how it stands."""
    db, site = here.db, here.site.id
    names = await names_of(here)
    kinds = here.catalog.kinds
    last = await rows.newest_looks(db, site, signed=True)
    cleared = await rows.newest_looks(db, site, signed=True, kinds=[k.id for k in kinds.values() if k.clears])
    ended = await rows.newest_looks(db, site, kinds=[k.id for k in kinds.values() if k.ends])
    walking = await rows.newest_looks(db, site, status=Status.WALKING.value)
    titles = {k.id: k.name for k in kinds.values()}
    out = []
    for unit in await machine_store.units(db, site):
        current = walking.get(unit.id)
        if current is not None and lapsed(current.status, current.begun_at, here.now) is not Status.WALKING:
            current = None
        before = last.get(unit.id)
        looks = Looks(before, cleared.get(unit.id), ended.get(unit.id), current)
        go, word = may_go(unit.standing, looks, titles, unit.hours, here.now)
        out.append(
            YardMachine(
                unit,
                go,
                word,
                before,
                current,
                names.get(before.signed_by or "") if before else None,
                names.get(current.last_by) if current else None,
            )
        )
    return out


async def machines_of(here: Here) -> list[Unit]:
    """The machines that are on the site, in the order of their bays."""
    return await machine_store.units(here.db, here.site.id)
