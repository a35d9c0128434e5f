"""Queries: how an installation stands, for whoever looks after it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg import AsyncConnection
from sqlalchemy import func, select, text

from jutrel.store.base import Db
from jutrel.store.migrate import newest_revision
from jutrel.store.tables.people import PersonRow


@dataclass(frozen=True, slots=True)
class Installation:
    """The database's release and the code's, whether the role that asks may change the log, the database's clock."""

    release: str
    newest: str
    may_change_log: bool
    clock: datetime


async def installation(db: Db) -> Installation:
    """How the database stands."""
    there = (await db.execute(text("select to_regclass('alembic_version') is not null"))).scalar_one()
    release = (await db.execute(text("select version_num from alembic_version"))).scalar_one() if there else "none"
    log = (await db.execute(text("select to_regclass('entry') is not null"))).scalar_one()
    ask = "select has_table_privilege('entry', 'update') or has_table_privilege('entry', 'delete')"
    may = bool(log and (await db.execute(text(ask))).scalar_one())
    return Installation(
        release, newest_revision(), may, (await db.execute(text("select clock_timestamp()"))).scalar_one()
    )


async def first_pins(db: Db, site: str) -> int:
    """How many people have not chosen their own PIN yet."""
    query = select(func.count()).where(PersonRow.site_id == site, PersonRow.active, PersonRow.pin_once)
    return int((await db.execute(query)).scalar_one())


async def release_of(driver: AsyncConnection[Any]) -> str:
    """Which release a database is of; empty: it has no tables."""
    there = await (await driver.execute("select to_regclass('alembic_version') is not null")).fetchone()
    if not there or not there[0]:
        return ""
    found = await (await driver.execute("select version_num from alembic_version")).fetchone()
    return str(found[0]) if found else ""


async def beat(driver: AsyncConnection[Any]) -> tuple[datetime | None, datetime]:
    """Write down that the database still takes something: when that was done before, and now by its clock."""
    before = await (await driver.execute("select at from heartbeat")).fetchone()
    now = await (
        await driver.execute(
            "insert into heartbeat (one, at) values (true, clock_timestamp()) "
            "on conflict (one) do update set at = excluded.at returning at"
        )
    ).fetchone()
    assert now is not None
    return (before[0] if before else None), now[0]
