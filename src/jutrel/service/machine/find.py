"""A machine of the site by its id."""

from __future__ import annotations

from jutrel.core.machine.unit import Unit
from jutrel.service.context import Here
from jutrel.service.problem import NotFound
from jutrel.store.queries import machines as machine_store


async def unit_of(here: Here, machine: str) -> Unit:
    """A unit of the site; NotFound if there is none."""
    unit = await machine_store.unit(here.db, here.site.id, machine)
    if unit is None:
        raise no_machine(machine)
    return unit


def no_machine(machine: str) -> NotFound:
    """What is said where there is no such machine."""
    return NotFound("no-machine", "There is no machine '{machine}' on this site.", machine=machine)
