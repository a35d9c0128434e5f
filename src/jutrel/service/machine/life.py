"""A machine's life, page by page, as far back as its log goes."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass

from jutrel.core.inspection.kinds import Undone
from jutrel.core.machine.life import KINDS_OF, LifeEvent, LifeGroup, LifeNames, life_of
from jutrel.core.machine.model import Model
from jutrel.core.procedure.greasing import Greased
from jutrel.core.wording import Said
from jutrel.service.context import Here
from jutrel.service.machine.find import unit_of
from jutrel.service.machine.models import unit_model
from jutrel.store.queries import log as log_store

BATCH, MOST_BATCHES = 300, 12
LAST = 2**31 - 1


@dataclass(frozen=True, slots=True)
class LifePage:
    """Events, newest first; `before`: the place in the log to go on from, None at its beginning."""

    name: str
    events: tuple[LifeEvent, ...]
    before: int | None


def names_for(here: Here, model: Model) -> LifeNames:
    """What things are called on a machine of this model."""
    book = here.catalog.rulebook
    return LifeNames(
        places={c.id: Said(c.name, (), "checkpoint") for c in model.family.checkpoints},
        modes={m.id: Said(m.name, (), "failure") for m in book.modes.values()},
        fluids={c.id: Said(c.label, (), "choice") for c in book.attributes["fluid"].choices},
        inspections={k.id: Said(k.name, (), "inspection") for k in here.catalog.kinds.values()},
    )


async def life(
    here: Here,
    machine: str,
    groups: Collection[LifeGroup],
    before: int | None,
    count: int,
    wanted: Callable[[LifeEvent], bool],
) -> LifePage:
    """The newest events of some groups before a place in the log, of those that are wanted.

    A search through a long log ends after some thousand entries with what it found, and says where to go on.

    Raises
    ------
    NotFound
        If there is no such machine.
    """
    unit = await unit_of(here, machine)
    names = names_for(here, await unit_model(here, unit))
    kinds = {k for g in groups for k in KINDS_OF[g]}
    words = await log_store.entries_of_kinds(here.db, here.site.id, machine, ("undone",))
    undone = {e.what.target for e in words if isinstance(e.what, Undone)}
    found: list[LifeEvent] = []
    at: int | None = before or LAST
    for _ in range(MOST_BATCHES):
        assert at is not None
        batch = await log_store.telling(here.db, here.site.id, machine, kinds, at, BATCH)
        # What is greased in one run is one event, at the last of it, wherever the others stand in the log.
        runs = {e.stream for e in batch if isinstance(e.what, Greased)}
        greased = await log_store.entries_in_streams(here.db, here.site.id, runs, "greased")
        since, until = (batch[-1].seq if batch else 0), at
        told = [e for e in life_of((*batch, *greased), names, undone) if since <= e.seq < until]
        found += [e for e in told if e.group in groups and wanted(e)]
        at = since if len(batch) == BATCH else None
        if at is None or len(found) >= count:
            break
    if len(found) > count:
        # What is left of this batch is asked for again: by the place in the log, not by time.
        found.sort(key=lambda e: e.seq, reverse=True)
        at, found = found[count - 1].seq, found[:count]
        found.sort(key=lambda e: (e.at, e.seq), reverse=True)
    return LifePage(unit.name, tuple(found), at)
