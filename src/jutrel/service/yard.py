"""The yard at the start of a shift: every machine, can it go, and why not."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from sqlalchemy import select
from sqlalchemy.ext.asyncio import AsyncSession

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


def _go(last: InspectionRow | None, current: InspectionRow | None, hour_meter: float, now: datetime) -> tuple[Go, str]:
    if current is not None and current.outcome == Outcome.HELD:
        return Go.HELD, current.why
    if last is not None and last.outcome == Outcome.HELD:
        return Go.HELD, last.why  # a Hold does not lapse with the shift
    if current is not None:
        return Go.WALKING, current.why
    if last is None:
        return Go.UNINSPECTED, "It has never been walked round."
    if last.valid_until is None or last.valid_until < now:
        return Go.UNINSPECTED, "The last inspection was for an earlier shift."
    if last.valid_until_hour is not None and hour_meter > last.valid_until_hour:
        return Go.UNINSPECTED, "Ten hours of running have passed since the last inspection."
    return Go(last.outcome), last.why


async def yard(db: AsyncSession, site: str, now: datetime) -> list[YardMachine]:
    """All machines of a site in the order of their bays."""
    names = {p.id: p.name for p in await people(db, site, with_inactive=True)}
    machines = (
        await db.execute(select(MachineRow).where(MachineRow.site_id == site).order_by(MachineRow.bay, MachineRow.id))
    ).scalars()
    signed = select(InspectionRow).where(InspectionRow.site_id == site, InspectionRow.signed_at.is_not(None))
    newest = signed.distinct(InspectionRow.machine_id).order_by(
        InspectionRow.machine_id, InspectionRow.opened_at.desc(), InspectionRow.id.desc()
    )
    last = {row.machine_id: row for row in (await db.execute(newest)).scalars()}
    out = []
    for machine in machines:
        current = await open_walk(db, site, machine.id, now)
        before = last.get(machine.id)
        go, why = _go(before, current, machine.hour_meter, now)
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
