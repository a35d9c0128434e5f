"""The yard from one row a machine: which rows changed, and those alone."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg import AsyncConnection
from sqlalchemy import Double, Text, bindparam, case, cast, func, literal_column, select

from jutrel.core.machine.unit import SiteInfo, Unit
from jutrel.core.people import Role
from jutrel.store.base import Db
from jutrel.store.queries.machines import shifts_of, unit_of
from jutrel.store.queries.people import Person
from jutrel.store.statements import Hot
from jutrel.store.tables import MachineRow, ModelFileRow, PersonRow, SessionRow, SiteRow

# The transaction that wrote a row last: it changes with the row, whoever writes it and whatever of it. As a float it is
# exact, and a sum of a few thousand as well; a sum of large whole numbers takes three times as long.
_WRITTEN = cast(cast(literal_column("machine.xmin"), Text), Double)
# What can be seen in the database, and in which: while it says the same, nothing was written by anybody.
_SEEN: Any = literal_column(
    "concat_ws(' ', pg_current_snapshot()::text, pg_postmaster_start_time(), "
    "(select oid from pg_database where datname = current_database()))"
)
_VERSION = Hot(
    select(
        SiteRow.id, SiteRow.name, SiteRow.zone, SiteRow.regime, SiteRow.shift_hours, SiteRow.shifts,
        PersonRow.id, PersonRow.name, PersonRow.role,
        _SEEN,
        # Rows are gone through only where something was written since this process looked last.
        case((bindparam("seen") == _SEEN, None), else_=
            select(func.concat_ws("-", func.count(), func.coalesce(func.sum(_WRITTEN), 0),
                                  select(func.count()).select_from(ModelFileRow)
                                  .where(ModelFileRow.site_id == SiteRow.id).correlate(SiteRow).scalar_subquery()))
            .where(MachineRow.site_id == SiteRow.id).correlate(SiteRow).scalar_subquery()),
    )
    .select_from(SessionRow)
    .join(SiteRow, SiteRow.id == SessionRow.site_id)
    .join(PersonRow, (PersonRow.site_id == SessionRow.site_id) & (PersonRow.id == SessionRow.person_id))
    .where(SessionRow.token_hash == bindparam("token"), SessionRow.ends_at > bindparam("now"), PersonRow.active)
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Seen:
    """How far the database had come when a yard was asked for, and a text that changes with every machine's row."""

    seen: str = ""
    version: str = ""


async def yard_version(
    driver: AsyncConnection[Any], token_hash: str, now: datetime, before: Seen
) -> tuple[SiteInfo, Person, Seen] | None:
    """Who asks, their site, and what is seen of its yard; None without a session. `before`: what was seen last."""
    found = await _VERSION.ask(driver, {"token": token_hash, "now": now, "seen": before.seen})
    if not found:
        return None
    site, job, zone, regime, usual, shifts, person, name, role, seen, version = found[0]
    return (
        SiteInfo(site, job, zone, regime, usual, shifts=shifts_of(shifts)),
        Person(person, name, Role(role)),
        before if version is None else Seen(seen, version),
    )


_WRITTEN_OF_EACH = Hot(
    select(MachineRow.id, _WRITTEN)
    .where(MachineRow.site_id == bindparam("site"), MachineRow.active)
    .order_by(MachineRow.bay, MachineRow.id)
)


async def machine_versions(db: Db, site: str) -> dict[str, int]:
    """When the row of each machine on the site was written last, in the order of their bays."""
    return {m: int(at) for m, at in await _WRITTEN_OF_EACH.rows(db, {"site": site})}


async def units_by_id(db: Db, site: str, ids: Collection[str]) -> list[Unit]:
    """Some of a site's units."""
    query = select(MachineRow).where(MachineRow.site_id == site, MachineRow.id.in_(ids))
    return [unit_of(row) for row in (await db.execute(query)).scalars()]
