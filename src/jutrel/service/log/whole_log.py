"""What the command line asks of the log as a whole."""

from __future__ import annotations

import asyncio
from dataclasses import dataclass
from datetime import UTC, datetime

from jutrel.catalog.whole import Catalog
from jutrel.core.machine.unit import Unit
from jutrel.service.context import Books, Here, here_of
from jutrel.service.log.audit import rebuild_machine, verify_machine
from jutrel.service.site.shops import each_site
from jutrel.store.base import Store
from jutrel.store.queries import machines as machine_store


@dataclass(frozen=True, slots=True)
class MachineLine:
    """What came of one machine."""

    machine: str
    whole: bool
    says: str


def _called(here: Here, unit: Unit, sites: int) -> str:
    """What a machine is called: with its site where there are several, which may each have one of that id."""
    return f"{here.site.id} {unit.id}" if sites > 1 else unit.id


async def _units(here: Here, machine: str | None) -> list[Unit]:
    found = await machine_store.units(here.db, here.site.id, with_gone=True)
    return [u for u in found if machine in (None, u.id)]


async def _verify(url: str, catalog: Catalog, machine: str | None, site: str) -> list[MachineLine]:
    store, out = Store(url), []
    try:
        for one in (sites := await each_site(store, site)):
            async with one.transaction() as db:
                here = await here_of(db, Books(catalog), datetime.now(UTC))
                for unit in await _units(here, machine):
                    checked = await verify_machine(here, unit)
                    under = f", {checked.sealed} of them sealed by their pens" if checked.sealed else ""
                    says = f"whole, {checked.count} entries{under}"
                    if checked.broken is not None:
                        says = f"broken: {checked.broken.says}"
                    out.append(
                        MachineLine(unit.id, checked.broken is None, f"{_called(here, unit, len(sites))}: {says}")
                    )
        return out or [MachineLine(machine or "", False, f"there is no machine '{machine}'")]
    finally:
        await store.close()


def verify_all(url: str, catalog: Catalog, machine: str | None = None, site: str = "") -> list[MachineLine]:
    """Check the chain of one machine's log, or of all; on every site, or one."""
    return asyncio.run(_verify(url, catalog, machine, site))


async def _rebuild(url: str, catalog: Catalog, machine: str | None, site: str) -> list[MachineLine]:
    store, out = Store(url), []
    try:
        for one in (sites := await each_site(store, site)):
            books = Books(catalog)
            async with one.transaction() as db:
                units = await _units(await here_of(db, books, datetime.now(UTC)), machine)
            for unit in units:
                async with one.transaction() as db:
                    here = await here_of(db, books, datetime.now(UTC))
                    same = await rebuild_machine(here, unit.id)
                says = "made anew, the same as before" if same else "made anew, and it was not what the log says"
                out.append(MachineLine(unit.id, same, f"{_called(here, unit, len(sites))}: {says}"))
        return out or [MachineLine(machine or "", False, f"there is no machine '{machine}'")]
    finally:
        await store.close()


def rebuild_all(url: str, catalog: Catalog, machine: str | None = None, site: str = "") -> list[MachineLine]:
    """Make the projections of one machine, or of all, anew; on every site, or one."""
    return asyncio.run(_rebuild(url, catalog, machine, site))
