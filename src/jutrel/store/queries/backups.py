"""Queries: until when backups reach, and which life of the database this is."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select, text, update

from jutrel.store.base import Db
from jutrel.store.tables.machine import SiteRow


async def reach(db: Db, site: str) -> tuple[str, datetime | None]:
    """The name of this life of the database, and until when what was written is in a backup; None: not known.

    The name changes when a backup is put back by our own script, and when PostgreSQL itself has recovered to a point
    in time: it counts such lives as timelines.
    """
    timeline = (await db.execute(text("select timeline_id from pg_control_checkpoint()"))).scalar_one()
    row = (await db.execute(select(SiteRow.epoch, SiteRow.covered_at).where(SiteRow.id == site))).one()
    return f"{row.epoch}.{timeline}", row.covered_at


async def set_covered(db: Db, site: str, until: datetime) -> None:
    """Write down that what was written until then is in a backup; never less than was known."""
    later = (SiteRow.covered_at.is_(None)) | (SiteRow.covered_at < until)
    await db.execute(update(SiteRow).where(SiteRow.id == site, later).values(covered_at=until))


async def set_epoch(db: Db, site: str, epoch: str) -> None:
    """Begin another life of the database; what a backup covered before is known no longer."""
    await db.execute(update(SiteRow).where(SiteRow.id == site).values(epoch=epoch, covered_at=None))
