"""Looks and reports as lists hold them."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from datetime import datetime
from typing import Any

from sqlalchemy import delete, func, or_, select, true, update
from sqlalchemy.dialects.postgresql import insert

from jutrel.core.defect.report import Report
from jutrel.core.defect.settle import Settled
from jutrel.core.log.codec import decode, encode
from jutrel.core.machine.state import LookSummary
from jutrel.store.base import Db
from jutrel.store.tables import LookRow, OpenDefectRow, ReportRow


async def put_look(db: Db, site: str, machine: str, look: LookSummary) -> None:
    """Write a look's row anew."""
    values = {
        "machine_id": machine,
        "kind": look.kind,
        "status": look.status.value,
        "begun_at": look.begun_at,
        "signed_at": look.signed_at,
        "data": encode(look),
        "blind": bool(look.unseen),
    }
    await db.execute(
        insert(LookRow)
        .values(site_id=site, id=look.id, **values)
        .on_conflict_do_update(index_elements=["site_id", "id"], set_=values)
    )


def _look(row: LookRow) -> LookSummary:
    return decode(LookSummary, row.data, "look")


async def looks_of(
    db: Db,
    site: str,
    machine: str | None = None,
    limit: int | None = None,
    ids: Collection[str] | None = None,
    kind: str | None = None,
) -> list[tuple[str, LookSummary]]:
    """Looks with their machines, newest first."""
    query = select(LookRow).where(LookRow.site_id == site)
    if machine is not None:
        query = query.where(LookRow.machine_id == machine)
    if ids is not None:
        query = query.where(LookRow.id.in_(ids))
    if kind is not None:
        query = query.where(LookRow.kind == kind)
    query = query.order_by(LookRow.begun_at.desc(), LookRow.id.desc())
    if limit is not None:
        query = query.limit(limit)
    return [(row.machine_id, _look(row)) for row in (await db.execute(query)).scalars()]


async def note_seen(db: Db, site: str, looks: Collection[str]) -> None:
    """Note that whatever nobody could see in these looks has been seen since."""
    if looks:
        await db.execute(update(LookRow).where(LookRow.site_id == site, LookRow.id.in_(looks)).values(blind=False))


async def last_looked(db: Db, site: str, machine: str) -> dict[str, tuple[float, datetime]]:
    """What is looked at by interval: the machine's hours [h] and the time at which each was last, in a signed look."""
    which = func.jsonb_array_elements_text(LookRow.data["looked"]).table_valued("value").lateral("which")
    mine = (LookRow.site_id == site, LookRow.machine_id == machine, LookRow.signed_at.is_not(None))
    query = (
        select(which.c.value, LookRow.data["hour_meter"], LookRow.begun_at)
        .select_from(LookRow)
        .join(which, true())
        .where(*mine, func.jsonb_array_length(LookRow.data["looked"]) > 0)
        .distinct(which.c.value)
        .order_by(which.c.value, LookRow.begun_at.desc())
    )
    return {name: (float(hours), at) for name, hours, at in (await db.execute(query)).all()}


async def blind_looks(db: Db, site: str, machine: str) -> list[LookSummary]:
    """Looks at a machine in which somebody could not see what a life depends on, newest first."""
    query = select(LookRow).where(LookRow.site_id == site, LookRow.machine_id == machine, LookRow.blind)
    return [_look(row) for row in (await db.execute(query.order_by(LookRow.begun_at.desc()))).scalars()]


async def put_reports(
    db: Db, site: str, machine: str, reports: Iterable[Report], settled: Mapping[str, Settled]
) -> None:
    """Write reports anew, each with the act that set it aside."""
    rows: list[dict[str, Any]] = []
    for r in reports:
        by = settled.get(r.id)
        rows.append(
            {
                "site_id": site,
                "entry": r.entry,
                "index": r.index,
                "machine_id": machine,
                "look": r.look,
                "open": by is None or by.pending,
                "data": encode(r),
                "settled": None if by is None else encode(by),
            }
        )
    if rows:
        made = insert(ReportRow).values(rows)
        await db.execute(
            made.on_conflict_do_update(
                index_elements=["site_id", "entry", "index"],
                set_={"open": made.excluded.open, "data": made.excluded.data, "settled": made.excluded.settled},
            )
        )


async def drop_reports(db: Db, site: str, look: str, keep: Collection[tuple[str, int]]) -> None:
    """Reports of a look that its entries no longer amount to: a reading that another limit judges otherwise."""
    have = (await db.execute(select(ReportRow).where(ReportRow.site_id == site, ReportRow.look == look))).scalars()
    for row in have:
        if (row.entry, row.index) not in keep:
            await db.delete(row)


async def reports_of(
    db: Db, site: str, machine: str, entries: Collection[str] = (), open_only: bool = True
) -> list[tuple[Report, Settled | None]]:
    """Reports of a machine that are open, or stand in one of `entries`; all of them if not `open_only`."""
    query = select(ReportRow).where(ReportRow.site_id == site, ReportRow.machine_id == machine)
    if open_only:
        query = query.where(or_(ReportRow.open, ReportRow.entry.in_(entries)))
    rows = (await db.execute(query.order_by(ReportRow.entry, ReportRow.index))).scalars()
    return [
        (decode(Report, r.data, "report"), None if r.settled is None else decode(Settled, r.settled, "settled"))
        for r in rows
    ]


async def drop_projections(db: Db, site: str, machine: str) -> None:
    """Take a machine's projections away, to make them anew."""
    mine = (OpenDefectRow.site_id == site, OpenDefectRow.machine_id == machine)
    await db.execute(delete(OpenDefectRow).where(*mine))
    await db.execute(delete(ReportRow).where(ReportRow.site_id == site, ReportRow.machine_id == machine))
    await db.execute(delete(LookRow).where(LookRow.site_id == site, LookRow.machine_id == machine))
