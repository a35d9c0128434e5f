"""What a person needs to walk round a machine: its walk, its drawing and what is still open."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache

from sqlalchemy import select
from sqlalchemy.ext.asyncio import AsyncSession

from jutrel.catalog import catalog
from jutrel.core.inspection.entry import Carried
from jutrel.core.inspection.route import shortest_leg
from jutrel.core.machine.drawing import Drawing, plan_drawing
from jutrel.core.machine.family import Level
from jutrel.core.machine.model import Model, Point, Walk, walk_of
from jutrel.core.plain import carried_of
from jutrel.service.problem import NotFound
from jutrel.store.tables import InspectionRow, MachineRow, SiteRow

WALKING_M_PER_S = 1.0
CLIMB_S = 12
STALE_HOURS = 10.0
"""A walk left open for longer is no longer this shift's: a new one is begun, its findings are carried."""


@dataclass(frozen=True, slots=True)
class Leg:
    """The way to a station from the one before it, as a line [m] and a time [s]."""

    station: str
    line: tuple[Point, ...]
    metres: float
    seconds: float


@dataclass(frozen=True, slots=True)
class MachineWalk:
    """A unit, its walk, its drawing, the way round it, and what is open."""

    machine: MachineRow
    site: SiteRow
    walk: Walk
    drawing: Drawing
    legs: tuple[Leg, ...]
    carried: tuple[Carried, ...]
    open_inspection: str | None


def model_of(machine: MachineRow) -> Model:
    """The model of a unit; NotFound if the catalog does not have it (any more)."""
    model = catalog().models.get(machine.model_id)
    if model is None:
        raise NotFound("no-model", f"The catalog has no model '{machine.model_id}' for {machine.name}.")
    return model


@lru_cache(maxsize=64)
def legs_of(model_id: str, options: frozenset[str]) -> tuple[Leg, ...]:
    """The way round: walked legs on the ground, climbs to deck and cab."""
    model = catalog().models[model_id]
    walk = walk_of(model, options)
    obstacles = plan_drawing(model.shape).obstacles
    legs: list[Leg] = []
    before: Point | None = None
    for station in walk.stations:
        here = model.station_places[station.id]
        climbed = station.level in (Level.DECK, Level.CAB)
        if before is None:
            legs.append(Leg(station.id, (here,), 0.0, 0.0))
        elif climbed:
            legs.append(Leg(station.id, (before, here), 0.0, CLIMB_S))
        else:
            line, metres = shortest_leg(before, here, obstacles)
            legs.append(Leg(station.id, line, metres, metres / WALKING_M_PER_S))
        before = here
    return tuple(legs)


async def machine_row(db: AsyncSession, site: str, machine: str) -> MachineRow:
    """A unit of the site; NotFound if there is none."""
    row = await db.get(MachineRow, (site, machine))
    if row is None:
        raise NotFound("no-machine", f"There is no machine '{machine}' on this site.")
    return row


async def carried_findings(db: AsyncSession, site: str, machine: str, leaving_out: str = "") -> tuple[Carried, ...]:
    """What earlier walks left open: of the last signed one, and of walks begun since and not signed."""
    rows = list(
        (
            await db.execute(
                select(InspectionRow)
                .where(
                    InspectionRow.site_id == site, InspectionRow.machine_id == machine, InspectionRow.id != leaving_out
                )
                .order_by(InspectionRow.opened_at.desc(), InspectionRow.id.desc())
                .limit(20)
            )
        ).scalars()
    )
    found: dict[tuple[str, str], Carried] = {}
    for row in rows:
        for plain in row.open_findings:
            one = carried_of(plain)
            key = (one.checkpoint, one.finding.failure_mode)
            # A newer look stands before an older one; the unsigned can add, never take away.
            found.setdefault(key, one)
        if row.signed_at is not None:
            break
    return tuple(found.values())


async def open_walk(db: AsyncSession, site: str, machine: str, now: datetime) -> InspectionRow | None:
    """The walk on this machine that has been begun in this shift and not signed, if any."""
    row = (
        await db.execute(
            select(InspectionRow)
            .where(
                InspectionRow.site_id == site,
                InspectionRow.machine_id == machine,
                InspectionRow.opened_at > now - timedelta(hours=STALE_HOURS),
            )
            .order_by(InspectionRow.opened_at.desc(), InspectionRow.id.desc())
            .limit(1)
        )
    ).scalar_one_or_none()
    return row if row is not None and row.signed_at is None else None


async def machine_walk(db: AsyncSession, site: str, machine: str, now: datetime) -> MachineWalk:
    """Everything that the walk-around view shows before the first tap."""
    row = await machine_row(db, site, machine)
    site_row = await db.get(SiteRow, site)
    assert site_row is not None
    model = model_of(row)
    options = frozenset(row.options)
    current = await open_walk(db, site, machine, now)
    return MachineWalk(
        row,
        site_row,
        walk_of(model, options),
        plan_drawing(model.shape),
        legs_of(model.id, options),
        await carried_findings(db, site, machine, leaving_out=current.id if current else ""),
        current.id if current else None,
    )
