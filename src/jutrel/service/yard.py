"""The yard at the start of a shift: every machine, can it go, and why not."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Any

from sqlalchemy import select
from sqlalchemy.ext.asyncio import AsyncSession

from jutrel.catalog import catalog
from jutrel.core.grading.verdict import Outcome
from jutrel.service.people import people
from jutrel.service.walk import open_walk
from jutrel.store.tables import InspectionRow, MachineRow


class Go(StrEnum):
    """Whether a machine can go. Uninspected: no valid signed walk."""

    READY = "ready"
    READY_MENDS_DUE = "ready-mends-due"
    LIMITED = "limited"
    HELD = "held"
    WALKING = "walking"
    UNINSPECTED = "uninspected"


@dataclass(frozen=True, slots=True)
class YardMachine:
    """A machine in its bay and how it stands."""

    machine: MachineRow
    go: Go
    why: str
    last: InspectionRow | None
    """The newest signed walk."""
    current: InspectionRow | None
    """The walk that is under way."""
    signed_by: str | None
    walked_by: str | None


WORSE = (Outcome.READY, Outcome.READY_MENDS_DUE, Outcome.LIMITED)


@dataclass(frozen=True, slots=True)
class _Looks:
    """The newest looks at a machine: of any kind, one that cleared it, one after which that holds no longer."""

    newest: InspectionRow | None
    cleared: InspectionRow | None
    ended: InspectionRow | None


def _go(looks: _Looks, current: InspectionRow | None, hour_meter: float, now: datetime) -> tuple[Go, str]:
    newest, cleared = looks.newest, looks.cleared
    if current is not None and current.outcome == Outcome.HELD:
        return Go.HELD, current.why
    if newest is not None and newest.outcome == Outcome.HELD:
        return Go.HELD, newest.why  # a Hold does not lapse with the shift
    if current is not None:
        return Go.WALKING, current.why
    if newest is None or cleared is None:
        return Go.UNINSPECTED, "It has not been walked round before a shift yet."
    if looks.ended is not None and looks.ended.opened_at > cleared.opened_at:
        kind = catalog().kinds[looks.ended.kind].name
        return Go.UNINSPECTED, f"{kind}: what was found before holds no longer. Walk it before it works."
    if cleared.valid_until is None or cleared.valid_until < now:
        return Go.UNINSPECTED, "The last inspection was for an earlier shift."
    if cleared.valid_until_hour is not None and hour_meter > cleared.valid_until_hour:
        return Go.UNINSPECTED, "Ten hours of running have passed since the last inspection."
    # A later once-over can make it worse, not better.
    worst = max((cleared, newest), key=lambda row: WORSE.index(Outcome(row.outcome)))
    return Go(worst.outcome), worst.why


async def _newest(db: AsyncSession, site: str, *which: Any) -> dict[str, InspectionRow]:
    query = (
        select(InspectionRow)
        .where(InspectionRow.site_id == site, *which)
        .distinct(InspectionRow.machine_id)
        .order_by(InspectionRow.machine_id, InspectionRow.opened_at.desc(), InspectionRow.id.desc())
    )
    return {row.machine_id: row for row in (await db.execute(query)).scalars()}


async def machines_of(db: AsyncSession, site: str) -> list[MachineRow]:
    """The machines that are on a site, in the order of their bays."""
    query = select(MachineRow).where(MachineRow.site_id == site, MachineRow.active)
    return list((await db.execute(query.order_by(MachineRow.bay, MachineRow.id))).scalars())


async def yard(db: AsyncSession, site: str, now: datetime) -> list[YardMachine]:
    """Every machine of a site and how it stands."""
    names = {p.id: p.name for p in await people(db, site, with_inactive=True)}
    kinds, signed = catalog().kinds.values(), InspectionRow.signed_at.is_not(None)
    last = await _newest(db, site, signed)
    cleared = await _newest(db, site, signed, InspectionRow.kind.in_([k.id for k in kinds if k.clears]))
    ended = await _newest(db, site, InspectionRow.kind.in_([k.id for k in kinds if k.ends]))
    out = []
    for machine in await machines_of(db, site):
        current = await open_walk(db, site, machine.id, now)
        before = last.get(machine.id)
        looks = _Looks(before, cleared.get(machine.id), ended.get(machine.id))
        go, why = _go(looks, current, machine.hour_meter, now)
        out.append(
            YardMachine(
                machine,
                go,
                why,
                before,
                current,
                names.get(before.signed_by or "") if before else None,
                names.get(current.last_by) if current else None,
            )
        )
    return out
