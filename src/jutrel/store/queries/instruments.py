"""Devices of a site: what they said last."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert

from jutrel.core.reading.instrument import INSTRUMENTS, DeviceWord
from jutrel.store.base import Db
from jutrel.store.tables import InstrumentRow


async def instruments_of(db: Db, site: str, machine: str) -> dict[str, DeviceWord]:
    """What each device of the site and of a machine said last; one that never did is left out."""
    row = InstrumentRow
    rows = (await db.execute(select(row).where(row.site_id == site, row.machine.in_(("", machine))))).scalars()
    return {
        r.key: DeviceWord(r.key, r.machine, r.on, r.says, r.at, r.by, r.simulated)
        for r in rows
        if r.key in INSTRUMENTS and INSTRUMENTS[r.key].of_machine == bool(r.machine)
    }


async def put_instrument(db: Db, site: str, told: DeviceWord) -> None:
    """Write what a device says in place of what it said."""
    values = {"on": told.on, "says": dict(told.says), "at": told.at, "by": told.by, "simulated": told.simulated}
    await db.execute(
        insert(InstrumentRow)
        .values(site_id=site, machine=told.machine, key=told.key, **values)
        .on_conflict_do_update(index_elements=["site_id", "machine", "key"], set_=values)
    )
