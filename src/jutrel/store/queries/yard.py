"""The yard from one row a machine: which rows changed, and those alone."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime
from typing import Any

from psycopg import AsyncConnection
from sqlalchemy import BigInteger, Text, bindparam, cast, func, literal_column, select

from jutrel.core.machine.unit import SiteInfo, Unit
from jutrel.core.people import Role
from jutrel.store.base import Db
from jutrel.store.queries.machines import shifts_of, unit_of
from jutrel.store.queries.people import Person
from jutrel.store.statements import Hot
from jutrel.store.tables import MachineRow, ModelFileRow, PersonRow, SessionRow, SiteRow

# The transaction that wrote a row last: it changes with the row, whoever writes it and whatever of it.
_WRITTEN = cast(cast(literal_column("machine.xmin"), Text), BigInteger)
_VERSION = Hot(
    select(
        SiteRow.id, SiteRow.name, SiteRow.zone, SiteRow.regime, SiteRow.shift_hours, SiteRow.shifts,
        PersonRow.id, PersonRow.name, PersonRow.role,
        select(func.concat_ws("-", func.count(), func.coalesce(func.sum(MachineRow.seq), 0),
                              func.coalesce(func.sum(_WRITTEN), 0)))
        .where(MachineRow.site_id == SiteRow.id).correlate(SiteRow).scalar_subquery(),
        select(func.count()).select_from(ModelFileRow)
        .where(ModelFileRow.site_id == SiteRow.id).correlate(SiteRow).scalar_subquery(),
    )
    .select_from(SessionRow)
    .join(SiteRow, SiteRow.id == SessionRow.site_id)
    .join(PersonRow, (PersonRow.site_id == SessionRow.site_id) & (PersonRow.id == SessionRow.person_id))
    .where(SessionRow.token_hash == bindparam("token"), SessionRow.ends_at > bindparam("now"), PersonRow.active)
)  # fmt: skip


async def yard_version(
    driver: AsyncConnection[Any], token_hash: str, now: datetime
) -> tuple[SiteInfo, Person, str] | None:
    """Who asks, their site, and a text that changes with every machine's row; None without a session."""
    found = await _VERSION.ask(driver, {"token": token_hash, "now": now})
    if not found:
        return None
    site, job, zone, regime, usual, shifts, person, name, role, machines, models = found[0]
    return (
        SiteInfo(site, job, zone, regime, usual, shifts=shifts_of(shifts)),
        Person(person, name, Role(role)),
        f"{machines}-{models}",
    )


_WRITTEN_OF_EACH = Hot(
    select(MachineRow.id, _WRITTEN)
    .where(MachineRow.site_id == bindparam("site"), MachineRow.active)
    .order_by(MachineRow.bay, MachineRow.id)
)


async def machine_versions(db: Db, site: str) -> dict[str, int]:
    """When the row of each machine on the site was written last, in the order of their bays."""
    return dict(await _WRITTEN_OF_EACH.rows(db, {"site": site}))


async def units_by_id(db: Db, site: str, ids: Collection[str]) -> list[Unit]:
    """Some of a site's units."""
    query = select(MachineRow).where(MachineRow.site_id == site, MachineRow.id.in_(ids))
    return [unit_of(row) for row in (await db.execute(query)).scalars()]
