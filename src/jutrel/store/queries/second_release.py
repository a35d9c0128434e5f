"""What a database of the second release held, as it was set aside by the migration."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import text

from jutrel.store.base import Db


@dataclass(frozen=True, slots=True)
class OldEntry:
    """An entry of an inspection or of a machine's file."""

    id: str
    machine: str
    stream: str
    kind: str
    what: Mapping[str, Any]
    by: str
    role: str
    at: datetime
    sent_by: str
    device: str
    received_at: datetime


async def is_waiting(db: Db) -> bool:
    """Whether there is something of the second release to be moved."""
    return await db.scalar(text("select to_regclass('second_entry') is not null")) or False


async def old_entries(db: Db, site: str, machine: str) -> list[OldEntry]:
    """A machine's entries of both kinds, in the order of their arrival."""
    looks = await db.execute(
        text(
            "select id, machine_id, inspection_id, kind, what, by, role, at, sent_by, device, received_at "
            "from second_entry where site_id = :site and machine_id = :machine"
        ),
        {"site": site, "machine": machine},
    )
    files = await db.execute(
        text(
            "select e.id, e.machine_id, 'file.' || e.machine_id, e.kind, e.what, e.by, coalesce(p.role, "
            "'administrator'), e.at, e.by, e.device, e.at from second_machine_entry e "
            "left join person p on p.site_id = e.site_id and p.id = e.by "
            "where e.site_id = :site and e.machine_id = :machine"
        ),
        {"site": site, "machine": machine},
    )
    found = [OldEntry(*row) for row in (*looks.all(), *files.all())]
    return sorted(found, key=lambda e: (e.received_at, e.id))


async def old_verdicts(db: Db, site: str, machine: str) -> dict[str, str]:
    """The sentence of each signed inspection's verdict."""
    rows = await db.execute(
        text(
            "select id, why from second_inspection where site_id = :site and machine_id = :machine "
            "and signed_at is not null"
        ),
        {"site": site, "machine": machine},
    )
    return {row[0]: row[1] for row in rows.all()}


async def old_hours(db: Db, site: str) -> dict[str, tuple[float, float]]:
    """What each machine had run [h], and what of it on earlier meters [h]."""
    rows = await db.execute(
        text("select id, hour_meter, meter_offset from machine where site_id = :site"), {"site": site}
    )
    return {row[0]: (row[1], row[2]) for row in rows.all()}


async def done(db: Db) -> None:
    """Everything is in the log: the tables that were set aside go."""
    for table in ("second_entry", "second_inspection", "second_machine_entry"):
        await db.execute(text(f"drop table {table}"))
