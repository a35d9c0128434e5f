"""What a person needs to walk round a machine: its walk, the way round it and what is still open."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from sqlalchemy import select
from sqlalchemy.ext.asyncio import AsyncSession

from jutrel.catalog import catalog
from jutrel.core.errors import BadInput
from jutrel.core.inspection.entry import Carried, Changed, Opened
from jutrel.core.inspection.occasion import answers_given, neighbours, walk_on
from jutrel.core.inspection.pair import plan_pair
from jutrel.core.inspection.plan import Route, Wishes, plan_route
from jutrel.core.machine.model import Model, Walk, walk_for, walk_of
from jutrel.core.plain import carried_of, payload_of
from jutrel.service.machine import news_on_file
from jutrel.service.models import model_of
from jutrel.service.problem import NotFound
from jutrel.store.tables import EntryRow, InspectionRow, MachineRow, SiteRow

STALE_HOURS = 10.0
"""A walk left open for longer is no longer this shift's: a new one is begun, its findings are carried."""


@dataclass(frozen=True, slots=True)
class MachineWalk:
    """A unit, one walk round it, the shortest way, and what is open."""

    machine: MachineRow
    site: SiteRow
    walk: Walk
    route: Route
    carried: tuple[Carried, ...]
    own_limits: frozenset[str]
    open_inspection: str | None


def occasion_of(walk: Walk, opened: Opened | None, noticed: Iterable[str] = ()) -> Walk:
    """The part of a unit's walk that an opening calls for; everything before there is one."""
    return walk_on(walk, opened, catalog().kinds, catalog().questions, frozenset(noticed)) if opened else walk


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


async def changed_since(db: AsyncSession, machine: MachineRow, model: Model) -> tuple[Changed, ...]:
    """What is otherwise than at the last signed look: found sound again, not seen, or changed on the unit."""
    last = (
        await db.execute(
            select(InspectionRow)
            .where(
                InspectionRow.site_id == machine.site_id,
                InspectionRow.machine_id == machine.id,
                InspectionRow.signed_at.is_not(None),
            )
            .order_by(InspectionRow.opened_at.desc(), InspectionRow.id.desc())
            .limit(1)
        )
    ).scalar_one_or_none()
    if last is None or last.signed_at is None:
        return ()
    news = {c["checkpoint"]: Changed(c["checkpoint"], c["says"]) for c in last.changed}
    news |= {c.checkpoint: c for c in await news_on_file(db, machine, last.opened_at, model)}
    return tuple(news.values())


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


async def machine_walk(
    db: AsyncSession, site: str, machine: str, now: datetime, opened: Opened | None = None, inspection: str = ""
) -> MachineWalk:
    """Everything that a walk round a unit shows before the first tap.

    Without `opened` it is all the unit has. What is open from earlier comes from
    `inspection` if that has been opened already, so that it stays as it was judged.
    """
    row = await machine_row(db, site, machine)
    site_row = await db.get_one(SiteRow, site)
    current = await open_walk(db, site, machine, now)
    begun = await _opening(db, site, inspection) if inspection else None
    if begun is not None:
        carried = begun.carried
    else:
        carried = await carried_findings(db, site, machine, leaving_out=inspection or (current.id if current else ""))
    model = await model_of(db, row, own=begun.own_limits if begun else None)
    walk = walk_of(model, frozenset(row.options))
    wishes = Wishes()
    if opened is not None:
        changed = begun.changed if begun else await changed_since(db, row, model)
        opened = replace(opened, carried=carried, changed=changed)
        walk = occasion_of(walk, opened)
        wishes = Wishes(beside=neighbours(walk.model.shape, opened.conditions))
    own = frozenset(begun.own_limits if begun else row.own_limits)
    return MachineWalk(row, site_row, walk, plan_route(walk, wishes), carried, own, current.id if current else None)


async def _opening(db: AsyncSession, site: str, inspection: str) -> Opened | None:
    row = (
        await db.execute(
            select(EntryRow).where(
                EntryRow.site_id == site, EntryRow.inspection_id == inspection, EntryRow.kind == "opened"
            )
        )
    ).scalar_one_or_none()
    found = payload_of(row.kind, row.what) if row else None
    return found if isinstance(found, Opened) else None


async def route_again(
    db: AsyncSession, site: str, machine: str, opened: Opened, open_at: frozenset[str], wishes: Wishes, people: int = 1
) -> tuple[Walk, tuple[Route, ...]]:
    """The way on from where one stands, for one person or shared by two."""
    row = await machine_row(db, site, machine)
    conditions = opened.conditions
    model = await model_of(db, row)
    whole = walk_of(model, frozenset(row.options))
    kind = catalog().kinds.get(opened.purpose)
    if kind is None:
        kinds = ", ".join(catalog().kinds)
        raise BadInput("purpose", f"'{opened.purpose}' is no kind of inspection; one of {kinds}")
    changed = {c.checkpoint: c.says for c in await changed_since(db, row, model)}
    walk = walk_for(whole, kind, answers_given(conditions, catalog().questions), open_at, changed)
    wishes = replace(wishes, beside=neighbours(whole.model.shape, conditions))
    if people == 2:
        return walk, plan_pair(walk, wishes)
    return walk, (plan_route(walk, wishes),)
