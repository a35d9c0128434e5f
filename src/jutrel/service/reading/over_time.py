"""The readings of a unit over time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jutrel.core.machine.model import Model
from jutrel.core.reading.happened import KINDS, Happened, happened
from jutrel.core.reading.series import Series, series_of
from jutrel.service.context import Here
from jutrel.service.inspection.look import meter_now
from jutrel.service.machine.find import unit_of
from jutrel.service.machine.models import unit_model
from jutrel.store.queries import log as log_store


@dataclass(frozen=True, slots=True)
class UnitSeries:
    """A unit's series, its model with the unit's own figures, and what was done on it meanwhile."""

    model: Model
    series: Sequence[Series]
    happened: Sequence[Happened] = ()


async def unit_series(here: Here, machine: str) -> UnitSeries:
    """Every series of a unit; raises NotFound if there is no such unit."""
    unit = await unit_of(here, machine)
    model = await unit_model(here, unit)
    entries = await log_store.entries_of_kinds(here.db, here.site.id, machine, KINDS)
    return UnitSeries(model, series_of(entries, model, await meter_now(here, unit)), happened(entries))
