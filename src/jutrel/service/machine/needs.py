"""What the shift ahead needs of a machine."""

from __future__ import annotations

from jutrel.core.reading.fuel import Work
from jutrel.core.reading.instrument import known_now
from jutrel.core.reading.needs import Need, needs_of
from jutrel.service.context import Here
from jutrel.service.machine.find import unit_of
from jutrel.service.reading.over_time import unit_series
from jutrel.service.site.instruments import told_now


async def shift_needs(here: Here, machine: str, shift_hours: float, work: Work) -> tuple[Need, ...]:
    """What a shift of that length and hardness needs; raises NotFound if there is no such unit."""
    unit = await unit_of(here, machine)
    found = await unit_series(here, machine)
    known = known_now(await told_now(here, machine), here.now)
    return needs_of(found.model, unit.options, found.series, known, shift_hours, work.value, here.now)
