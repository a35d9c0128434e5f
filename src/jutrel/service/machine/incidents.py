"""What happened to a machine, newest first."""

from __future__ import annotations

from jutrel.core.log.entry import Entry
from jutrel.core.machine.event import WorkedOn
from jutrel.core.machine.incident import KINDS, IncidentTold, happenings
from jutrel.core.machine.unit import Unit
from jutrel.service.context import Here
from jutrel.service.machine.find import unit_of
from jutrel.store.queries import log as log_store


async def incidents(here: Here, machine: str) -> tuple[Unit, tuple[IncidentTold, ...]]:
    """A machine with its incidents, newest first; NotFound if there is no such machine."""
    unit = await unit_of(here, machine)
    entries = await log_store.entries_of_kinds(here.db, here.site.id, machine, KINDS)
    return unit, tuple(reversed(happenings(entries)))


async def works(here: Here, machine: str) -> list[Entry]:
    """What was done to a machine, newest first: each ended its inspection."""
    found = await log_store.entries_of_kinds(here.db, here.site.id, machine, ("worked-on",))
    return [e for e in reversed(found) if isinstance(e.what, WorkedOn)]
