"""Queries: the account of a site."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import func, or_, select

from jutrel.core.account import AccountChange, AccountLine
from jutrel.store.base import Db
from jutrel.store.tables.account import AccountRow
from jutrel.store.tables.machine import SiteRow


def _line(row: AccountRow) -> AccountLine:
    return AccountLine(
        row.seq, row.at, row.by, AccountChange(row.what), row.about, dict(row.details), row.prev, row.hash
    )  # fmt: skip


async def last_line(db: Db, site: str) -> AccountLine | None:
    """The newest line; whoever asks holds the site until the transaction ends, so that the next follows it."""
    await db.execute(select(SiteRow.id).where(SiteRow.id == site).with_for_update())
    query = select(AccountRow).where(AccountRow.site_id == site).order_by(AccountRow.seq.desc()).limit(1)
    row = (await db.execute(query)).scalar_one_or_none()
    return None if row is None else _line(row)


async def newest_seq(db: Db, site: str) -> int:
    """The number of the newest line; 0: there is none."""
    return (await db.scalar(select(func.max(AccountRow.seq)).where(AccountRow.site_id == site))) or 0


async def add_line(db: Db, site: str, line: AccountLine) -> None:
    """Write a line."""
    db.add(
        AccountRow(
            site_id=site, seq=line.seq, at=line.at, by=line.by, what=line.what.value, about=line.about,
            details=dict(line.details), prev=line.prev, hash=line.hash,
        )
    )  # fmt: skip
    await db.flush()


async def lines_since(db: Db, site: str, at: datetime) -> list[AccountLine]:
    """The lines from a time on, the newest first."""
    query = select(AccountRow).where(AccountRow.site_id == site, AccountRow.at >= at).order_by(AccountRow.seq.desc())
    return [_line(row) for row in (await db.execute(query)).scalars()]


async def lines_about(db: Db, site: str, about: str) -> list[AccountLine]:
    """The lines about somebody or something, the newest first."""
    query = select(AccountRow).where(AccountRow.site_id == site, AccountRow.about == about)
    return [_line(row) for row in (await db.execute(query.order_by(AccountRow.seq.desc()))).scalars()]


async def lines_after(db: Db, site: str, seq: int, about: str, also: AccountChange) -> list[AccountLine]:
    """The lines after one that are about somebody, or of one kind whoever they are about, the oldest first."""
    query = (
        select(AccountRow)
        .where(AccountRow.site_id == site, AccountRow.seq > seq)
        .where(or_(AccountRow.about == about, AccountRow.what == also.value))
        .order_by(AccountRow.seq)
    )
    return [_line(row) for row in (await db.execute(query)).scalars()]


async def lines(db: Db, site: str, before: int | None = None, most: int | None = None) -> list[AccountLine]:
    """The lines of an account, the newest first; those before one, so many at most."""
    query = select(AccountRow).where(AccountRow.site_id == site).order_by(AccountRow.seq.desc())
    if before is not None:
        query = query.where(AccountRow.seq < before)
    if most is not None:
        query = query.limit(most)
    return [_line(row) for row in (await db.execute(query)).scalars()]
