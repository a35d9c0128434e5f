"""Queries: the code by which an installation is set up."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import delete, select, update

from jutrel.store.base import Db
from jutrel.store.tables import SetupCodeRow


async def give_code(db: Db, code_hash: str, ends_at: datetime) -> None:
    """Keep a new code, in place of any before."""
    await db.execute(delete(SetupCodeRow))
    db.add(SetupCodeRow(hash=code_hash, ends_at=ends_at, wrong=0))
    await db.flush()


async def code_open(db: Db, now: datetime, most_wrong: int) -> str | None:
    """The hash of the code that may be used now, locked; None: there is none."""
    query = select(SetupCodeRow.hash).where(SetupCodeRow.ends_at > now, SetupCodeRow.wrong < most_wrong)
    return await db.scalar(query.with_for_update())


async def note_wrong(db: Db) -> None:
    """Somebody tried another code."""
    await db.execute(update(SetupCodeRow).values(wrong=SetupCodeRow.wrong + 1))


async def use_up(db: Db) -> None:
    """The code was used: nobody uses it again."""
    await db.execute(delete(SetupCodeRow))
