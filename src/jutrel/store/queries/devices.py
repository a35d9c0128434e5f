"""Devices that may tell something, by their keys."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select, update
from sqlalchemy.dialects.postgresql import insert

from jutrel.store.base import Db
from jutrel.store.tables import DeviceRow


@dataclass(frozen=True, slots=True)
class Device:
    """A device: of which machines and for which instruments it may tell; since when, by whom, and until when."""

    id: str
    machines: tuple[str, ...]
    instruments: tuple[str, ...]
    made_at: datetime
    made_by: str
    ended_at: datetime | None = None


def _device(row: DeviceRow) -> Device:
    return Device(row.id, tuple(row.machines), tuple(row.instruments), row.made_at, row.made_by, row.ended_at)


async def devices_of(db: Db, site: str) -> list[Device]:
    """Every device of a site, those that ended as well, by name."""
    asked = select(DeviceRow).where(DeviceRow.site_id == site).order_by(DeviceRow.id)
    return [_device(row) for row in (await db.execute(asked)).scalars()]


async def device_of(db: Db, site: str, key_hash: str) -> Device | None:
    """The device that has a key, unless it ended."""
    row = DeviceRow
    asked = select(row).where(row.site_id == site, row.key_hash == key_hash, row.ended_at.is_(None))
    found = (await db.execute(asked)).scalar()
    return None if found is None else _device(found)


async def put_device(
    db: Db, site: str, device: str, key_hash: str, machines: Sequence[str], instruments: Sequence[str],
    now: datetime, by: str,
) -> None:  # fmt: skip
    """Write a device with a new key in place of an earlier one of that name."""
    values = {
        "key_hash": key_hash,
        "machines": list(machines),
        "instruments": list(instruments),
        "made_at": now,
        "made_by": by,
        "ended_at": None,
    }
    made = insert(DeviceRow).values(site_id=site, id=device, **values)
    await db.execute(made.on_conflict_do_update(index_elements=["site_id", "id"], set_=values))


async def end_device(db: Db, site: str, device: str, now: datetime) -> bool:
    """From now on nothing is taken from a device; false if there is none of that name."""
    row = DeviceRow
    ended = await db.execute(
        update(row).where(row.site_id == site, row.id == device).values(ended_at=now).returning(row.id)
    )
    return ended.first() is not None
