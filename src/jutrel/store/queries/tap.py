"""The two statements of an ordinary tap: who, where and what is there already; then the entry with its projections."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.errors import UniqueViolation
from sqlalchemy import (
    BigInteger,
    Column,
    ColumnElement,
    any_,
    bindparam,
    cast,
    exists,
    func,
    insert,
    or_,
    select,
    update,
)
from sqlalchemy.dialects.postgresql import ARRAY

from jutrel.core.log.codec import encode
from jutrel.core.log.entry import Entry
from jutrel.core.machine.state import LookSummary
from jutrel.core.machine.unit import SiteInfo, Unit
from jutrel.core.people import Role
from jutrel.store.base import Asks, Base, Db
from jutrel.store.queries.log import IdTaken, row_of
from jutrel.store.queries.machines import shifts_of, unit_of
from jutrel.store.queries.people import Pen, Person
from jutrel.store.statements import Hot
from jutrel.store.tables import EntryRow, LookRow, MachineRow, PenRow, PersonRow, SessionRow, SiteRow, StreamRow
from jutrel.store.tables.log import ID

_entry, _look, _machine, _person, _pen, _session, _site = (
    Base.metadata.tables[row.__tablename__]
    for row in (EntryRow, LookRow, MachineRow, PersonRow, PenRow, SessionRow, SiteRow)
)

_ids = bindparam("ids", type_=ARRAY(ID))
_in_a_log = exists().where(_entry.c.site_id == _site.c.id, _entry.c.id == any_(_ids)).correlate(_site)
# Counted, not asked for one: looking for the first of many is what the planner would take a whole table for.
_naming = select(func.count()).where(_entry.c.site_id == _site.c.id, _entry.c.names.overlap(_ids))
_named = _naming.correlate(_site).scalar_subquery() > 0
_known = or_(_in_a_log, _named)
_ANY_KNOWN = select(_known).where(_site.c.id == bindparam("site"))
_who_and_where = (
    select(
        _site.c.id.label("site"), _site.c.name.label("site_name"), _site.c.zone, _site.c.regime, _site.c.shift_hours,
        _site.c.shifts,
        _person.c.id.label("person"), _person.c.name.label("person_name"), _person.c.role.label("person_role"),
        _pen.c.id.label("pen"), _pen.c.role.label("pen_role"), _pen.c.device, _pen.c.given_at, _pen.c.ends_at,
        _pen.c.key,
        _known.label("known"), *_machine.c,
    )
    .select_from(_machine)
    .join(_site, _site.c.id == _machine.c.site_id)
    .join(_session, _session.c.site_id == _site.c.id)
    .join(_person, (_person.c.site_id == _session.c.site_id) & (_person.c.id == _session.c.person_id))
    .join(_pen, _pen.c.id == _session.c.pen_id)
    .where(
        _machine.c.id == bindparam("machine"), _session.c.token_hash == bindparam("token"),
        _session.c.ends_at > bindparam("now"), _person.c.active,
    )
)  # fmt: skip
_WHO_AND_WHERE, _WHO_AND_WHERE_NOW = Hot(_who_and_where.with_for_update(of=MachineRow)), Hot(_who_and_where)


@dataclass(frozen=True, slots=True)
class Standpoint:
    """Who sends and where to: the machine's log is theirs until the transaction ends.

    `known`: one of the entries is in a log already, or an entry that came before it names it. Where another writer
    came between, that may not be seen yet: it is true to the log only if that ends where it was known to end.
    """

    site: SiteInfo
    person: Person
    pen: Pen
    unit: Unit
    known: bool


async def standpoint(
    db: Asks, token_hash: str, machine: str, ids: Sequence[str], now: datetime, lock: bool = True
) -> Standpoint | None:
    """Who a session belongs to, with a machine of their site, locked; None if there is no such session or machine."""
    given = {"token": token_hash, "machine": machine, "ids": list(ids), "now": now}
    found = await (_WHO_AND_WHERE if lock else _WHO_AND_WHERE_NOW).rows(db, given)
    if not found:
        return None
    row = found[0]
    return Standpoint(
        SiteInfo(row.site, row.site_name, row.zone, row.regime, row.shift_hours, shifts=shifts_of(row.shifts)),
        Person(row.person, row.person_name, Role(row.person_role)),
        Pen(str(row.pen), row.person, Role(row.pen_role), row.device, row.given_at, row.ends_at, row.key),
        unit_of(row),
        row.known,
    )


async def any_known(db: Db, site: str, ids: Sequence[str]) -> bool:
    """Whether one of these ids is in a log already, or an entry that came before it names it."""
    return bool(await db.scalar(_ANY_KNOWN, {"site": site, "ids": list(ids)}))


_number = (
    select(StreamRow.no)
    .where(StreamRow.site_id == bindparam("its_site"), StreamRow.id == bindparam("its_stream"))
    .scalar_subquery()
)
_told = (
    update(_look)
    .where(_look.c.site_id == bindparam("its_site"), _look.c.id == bindparam("its_stream"))
    .values(data=bindparam("look_data", type_=_look.c.data.type))
)
_at_end = (
    update(_machine)
    .where(
        _machine.c.site_id == bindparam("its_site"),
        _machine.c.id == bindparam("its_machine"),
        _machine.c.head == bindparam("its_prev"),
    )
    .values(seq=bindparam("its_seq", type_=BigInteger), head=bindparam("its_head"))
    .returning(_machine.c.seq)
    .cte("at_end")
)


def _given(column: Column[Any]) -> ColumnElement[Any]:
    """A value of the new entry, as its column takes it."""
    return cast(bindparam(f"e_{column.name}", type_=column.type), column.type)


_is_at_end = exists(select(_at_end.c.seq))
_WRITE_AT_END = Hot(
    select(func.count())
    .select_from(_at_end)
    .add_cte(
        insert(_entry)
        .from_select(
            [c.name for c in _entry.c],
            select(*(_number if c.name == "stream_no" else _given(c) for c in _entry.c)).where(_is_at_end),
        )
        .cte("added"),
        _told.where(_is_at_end).cte("told"),
    )
)


async def write_at_end(db: Asks, site: str, entry: Entry, look: LookSummary) -> bool:
    """Add an entry that changes nothing of a look but its row, and note where the log ends: true if it was written.

    All in one statement that writes nothing if the log does not end where the entry goes on, so that no lock has to
    be held from reading to writing. Raises IdTaken if another machine's log has the id.
    """
    values = {**_values(site, entry, look), "its_prev": entry.prev if entry.seq > 1 else ""}
    try:
        return bool((await _WRITE_AT_END.rows(db, values))[0][0])
    except UniqueViolation:
        raise IdTaken from None


def _values(site: str, entry: Entry, look: LookSummary) -> dict[str, Any]:
    values = {f"e_{key}": value for key, value in row_of(site, 0, entry).items() if key != "stream_no"}
    more = {
        "its_site": site,
        "its_stream": entry.stream,
        "its_machine": entry.machine,
        "its_seq": entry.seq,
        "its_head": entry.hash,
        "look_data": encode(look),
    }
    return {**values, **more}
