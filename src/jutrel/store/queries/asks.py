"""Queries: what somebody asks of those who may do it."""

from __future__ import annotations

import uuid
from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, or_, select, update
from sqlalchemy.dialects.postgresql import insert

from jutrel.core.people import Role
from jutrel.store.base import Db
from jutrel.store.tables.ask import AskRow


@dataclass(frozen=True, slots=True)
class Ask:
    """What a person asks, on which page, of which roles; `done_by`: who saw to it."""

    id: str
    by: str
    at: datetime
    path: str
    note: str
    roles: frozenset[Role]
    done_by: str | None = None


def _ask(row: AskRow) -> Ask:
    return Ask(
        str(row.id), row.by, row.at, row.path, row.note, frozenset(Role(r) for r in row.roles), row.done_by
    )  # fmt: skip


async def keep(db: Db, site: str, ask: Ask) -> None:
    """Keep what is asked; the same id keeps the first."""
    await db.execute(
        insert(AskRow)
        .values(
            site_id=site, id=uuid.UUID(ask.id), by=ask.by, at=ask.at, path=ask.path, note=ask.note,
            roles=sorted(ask.roles),
        )
        .on_conflict_do_nothing()
    )  # fmt: skip


async def count_open(db: Db, site: str, by: str) -> int:
    """How much a person asks that nobody saw to."""
    mine = (AskRow.site_id == site, AskRow.by == by, AskRow.done_at.is_(None))
    return (await db.scalar(select(func.count()).where(*mine))) or 0


async def ask(db: Db, site: str, id_: str) -> Ask | None:
    """One, held until the transaction ends; None: there is no such."""
    query = select(AskRow).where(AskRow.site_id == site, AskRow.id == uuid.UUID(id_)).with_for_update()
    row = (await db.execute(query)).scalar_one_or_none()
    return None if row is None else _ask(row)


async def open_for(db: Db, site: str, role: Role, person: str, since: datetime, most: int) -> list[Ask]:
    """What is asked of a role, or by a person, since a time, and nobody saw to; the newest first."""
    query = (
        select(AskRow)
        .where(AskRow.site_id == site, AskRow.done_at.is_(None), AskRow.at >= since)
        .where(or_(AskRow.roles.contains([role.value]), AskRow.by == person))
        .order_by(AskRow.at.desc())
        .limit(most)
    )
    return [_ask(row) for row in (await db.execute(query)).scalars()]


async def done(db: Db, site: str, ids: Collection[str], by: str, at: datetime) -> None:
    """Note who saw to it."""
    mine = (AskRow.site_id == site, AskRow.id.in_([uuid.UUID(i) for i in ids]), AskRow.done_at.is_(None))
    await db.execute(update(AskRow).where(*mine).values(done_by=by, done_at=at))
