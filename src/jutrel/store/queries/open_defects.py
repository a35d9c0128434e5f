"""Queries: what is open on all machines, set by set: the list costs what is on its page, not what the fleet has."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from datetime import datetime

from sqlalchemy import and_, any_, cast, delete, func, literal, or_, select, tuple_
from sqlalchemy.dialects.postgresql import ARRAY, insert
from sqlalchemy.sql import ColumnElement

from jutrel.core.defect.report import Report
from jutrel.core.defect.settle import Settled
from jutrel.core.grading.grade import Grade
from jutrel.core.log.codec import decode
from jutrel.core.log.entry import Entry
from jutrel.core.machine.state import ListedDefect
from jutrel.store.base import Db
from jutrel.store.queries.log import WITH_STREAM, entry_of
from jutrel.store.tables import EntryRow, LookRow, MachineRow, OpenDefectRow, ReportRow, StreamRow

Cursor = tuple[int, datetime, str]
"""Where a page ended: grade, since when, id."""


async def put_open(db: Db, site: str, machine: str, listed: Sequence[ListedDefect]) -> None:
    """Write what is open on a machine anew."""
    mine = (OpenDefectRow.site_id == site, OpenDefectRow.machine_id == machine)
    await db.execute(delete(OpenDefectRow).where(*mine, OpenDefectRow.id.not_in([d.id for d in listed])))
    if not listed:
        return
    made = insert(OpenDefectRow).values(
        [
            {
                "site_id": site,
                "id": d.id,
                "machine_id": machine,
                "grade": int(d.grade),
                "since": d.since,
                "duty": d.duty,
            }
            for d in listed
        ]
    )
    new = made.excluded
    otherwise = or_(
        OpenDefectRow.grade != new.grade, OpenDefectRow.duty != new.duty, OpenDefectRow.since != new.since
    )  # fmt: skip
    await db.execute(
        made.on_conflict_do_update(
            index_elements=["site_id", "id"],
            set_={"grade": new.grade, "since": new.since, "duty": new.duty, "machine_id": new.machine_id},
            where=otherwise,
        )
    )


async def listed_on(db: Db, site: str, machine: str) -> list[ListedDefect]:
    """What is written of one machine."""
    query = select(OpenDefectRow).where(OpenDefectRow.site_id == site, OpenDefectRow.machine_id == machine)
    return [ListedDefect(r.id, Grade(r.grade), r.since, r.duty) for r in (await db.execute(query)).scalars()]


async def machines_listed(db: Db, site: str) -> set[str]:
    """The machines of which something is written."""
    query = select(OpenDefectRow.machine_id).where(OpenDefectRow.site_id == site).distinct()
    return set((await db.execute(query)).scalars())


def _of(site: str, machine: str | None, duty: str) -> list[ColumnElement[bool]]:
    picked: list[ColumnElement[bool]] = [OpenDefectRow.site_id == site, MachineRow.active.is_(True)]
    if machine is not None:
        picked.append(OpenDefectRow.machine_id == machine)
    if duty:
        picked.append(OpenDefectRow.duty == duty)
    return picked


_ON = and_(MachineRow.site_id == OpenDefectRow.site_id, MachineRow.id == OpenDefectRow.machine_id)


async def page(
    db: Db, site: str, machine: str | None, duty: str, after: Cursor | None, most: int
) -> list[tuple[Cursor, str]]:
    """Defects in the order of the list, each with its machine: the worst first, then the oldest."""
    query = select(
        OpenDefectRow.grade, OpenDefectRow.since, OpenDefectRow.id, OpenDefectRow.machine_id
    ).join(MachineRow, _ON).where(*_of(site, machine, duty))  # fmt: skip
    if after is not None:
        grade, since, id_ = after
        later = tuple_(OpenDefectRow.since, OpenDefectRow.id) > tuple_(literal(since), literal(id_))
        query = query.where(or_(OpenDefectRow.grade < grade, and_(OpenDefectRow.grade == grade, later)))
    query = query.order_by(OpenDefectRow.grade.desc(), OpenDefectRow.since, OpenDefectRow.id).limit(most)
    return [((r.grade, r.since, r.id), r.machine_id) for r in await db.execute(query)]


async def sums(db: Db, site: str) -> tuple[int, int]:
    """How many defects are open, and how many machines one of them holds."""
    held = func.count(OpenDefectRow.machine_id.distinct()).filter(OpenDefectRow.grade == int(Grade.HOLD))
    query = select(func.count(), held).select_from(OpenDefectRow).join(MachineRow, _ON).where(*_of(site, None, ""))
    count, holds = (await db.execute(query)).one()
    return count, holds


async def picked_by(db: Db, site: str) -> tuple[list[tuple[str, str]], list[str]]:
    """The machines on which something is open, with their names, and the duties of what is."""
    machines = select(MachineRow.id, MachineRow.name).join(OpenDefectRow, _ON).where(*_of(site, None, "")).distinct()
    duties = select(OpenDefectRow.duty).join(MachineRow, _ON).where(*_of(site, None, ""), OpenDefectRow.duty != "")
    return (
        sorted(((r.id, r.name) for r in await db.execute(machines)), key=lambda m: m[1]),
        sorted((await db.execute(duties.distinct())).scalars()),
    )


async def reports_of_many(
    db: Db, site: str, machines: Collection[str], entries: Collection[str]
) -> list[tuple[str, Report, Settled | None]]:
    """Reports of these machines that are open, or stand in one of `entries`, each with its machine."""
    array = cast(list(entries), ARRAY(ReportRow.entry.type))
    query = select(ReportRow).where(
        ReportRow.site_id == site,
        ReportRow.machine_id.in_(machines),
        or_(ReportRow.open, ReportRow.entry == any_(array)),
    )
    rows = (await db.execute(query.order_by(ReportRow.entry, ReportRow.index))).scalars()
    return [
        (
            r.machine_id,
            decode(Report, r.data, "report"),
            None if r.settled is None else decode(Settled, r.settled, "settled"),
        )
        for r in rows
    ]


async def starts_of(db: Db, site: str, looks: Collection[str]) -> dict[str, tuple[datetime, float]]:
    """When the shift of each look began, and its length [h]."""
    if not looks:
        return {}
    query = select(LookRow.id, LookRow.data["begun_at"].astext, LookRow.data["shift_hours"].astext).where(
        LookRow.site_id == site, LookRow.id.in_(looks)
    )
    return {id_: (datetime.fromisoformat(at), float(hours)) for id_, at, hours in (await db.execute(query)).all()}


async def photographed_in(db: Db, site: str, looks: Collection[str]) -> list[Entry]:
    """The pictures that these looks announced."""
    if not looks:
        return []
    query = WITH_STREAM.where(EntryRow.site_id == site, StreamRow.id.in_(looks), EntryRow.kind == "photographed")
    return [entry_of(row) for row in await db.execute(query)]


async def editions_of(db: Db, site: str, looks: Collection[str]) -> dict[str, str]:
    """The name of the edition that each look is bound to."""
    if not looks:
        return {}
    query = (
        select(StreamRow.id, EntryRow.pins["edition"].astext)
        .join(StreamRow, StreamRow.no == EntryRow.stream_no)
        .where(EntryRow.site_id == site, StreamRow.id.in_(looks), EntryRow.pins.is_not(None))
        .order_by(EntryRow.seq.desc())
    )
    return dict((await db.execute(query)).tuples().all())  # the first that bound it stands last


async def ends_of(db: Db, site: str, machines: Collection[str]) -> list[tuple[str, int, str]]:
    """Where the logs of these machines end."""
    query = select(MachineRow.id, MachineRow.seq, MachineRow.head).where(
        MachineRow.site_id == site, MachineRow.id.in_(machines)
    )
    return [(r.id, r.seq, r.head) for r in await db.execute(query)]


async def openings_of(
    db: Db, site: str, machines: Collection[str], newest: int
) -> dict[str, list[tuple[datetime, float]]]:
    """What the meters of these machines showed at their newest openings [h], as they were written."""
    nth = func.row_number().over(partition_by=EntryRow.machine_id, order_by=EntryRow.seq.desc()).label("nth")
    shown = EntryRow.what["hour_meter"].as_float().label("shown")
    of_each = (
        select(EntryRow.machine_id, EntryRow.heard_at, shown, nth)
        .where(EntryRow.site_id == site, EntryRow.machine_id.in_(machines), EntryRow.kind == "opened")
        .subquery()
    )
    out: dict[str, list[tuple[datetime, float]]] = {}
    found = select(of_each.c.machine_id, of_each.c.heard_at, of_each.c.shown).where(of_each.c.nth <= newest)
    for machine, at, hours in (await db.execute(found)).tuples():
        out.setdefault(machine, []).append((at, hours))
    return out


async def meter_words_of(db: Db, site: str, machines: Collection[str]) -> list[Entry]:
    """What the files of these machines say of their meters."""
    kinds = ("filed", "meter-replaced", "meter-corrected")
    query = WITH_STREAM.where(EntryRow.site_id == site, EntryRow.machine_id.in_(machines), EntryRow.kind.in_(kinds))
    return [entry_of(row) for row in await db.execute(query)]
