"""Queries: the sites of an installation, and for which of them a connection asks."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from psycopg import AsyncConnection
from sqlalchemy import delete, func, literal_column, select
from sqlalchemy.dialects.postgresql import insert

from jutrel.store.base import Db
from jutrel.store.tables.address import SiteAddressRow

ASKED_FOR: Any = literal_column("coalesce(nullif(current_setting('jutrel.site', true), ''), jutrel_only_site())")
"""The site that the connection asks for, or the only one; null: none."""


@dataclass(frozen=True, slots=True)
class Sites:
    """The sites of an installation by id, and the site of each address.

    `apart`: whether the database shows the role that asks one site alone; it does not so for its owner.
    """

    ids: tuple[str, ...]
    addresses: dict[str, str]
    apart: bool = True


async def ask_for(db: Db, site: str) -> None:
    """Ask for a site in the rest of this transaction."""
    await db.execute(select(func.set_config("jutrel.site", site, True)))


async def sites_there(driver: AsyncConnection[Any]) -> Sites:
    """Which sites there are, whichever is asked for; none before the database has its tables."""
    there = await (await driver.execute("select to_regclass('site_address') is not null")).fetchone()
    if not there or not there[0]:
        return Sites((), {})
    asked = (
        "select s, a.host, row_security_active('entry') from jutrel_sites() s left join site_address a on a.site_id = s"
    )
    found = await (await driver.execute(asked)).fetchall()
    ids = tuple(sorted({str(site) for site, _, _ in found}))
    addresses = {str(host): str(site) for site, host, _ in found if host is not None}
    return Sites(ids, addresses, all(apart for _, _, apart in found))


async def give_address(db: Db, site: str, host: str) -> str:
    """Have a host lead to a site, if it leads to none yet; the site that it leads to."""
    await db.execute(insert(SiteAddressRow).values(host=host, site_id=site).on_conflict_do_nothing())
    found = await db.scalar(select(SiteAddressRow.site_id).where(SiteAddressRow.host == host))
    return str(found)


async def addresses_of(db: Db, site: str) -> list[str]:
    """The hosts that lead to a site."""
    query = select(SiteAddressRow.host).where(SiteAddressRow.site_id == site).order_by(SiteAddressRow.host)
    return list((await db.execute(query)).scalars())


async def take_address(db: Db, site: str, host: str) -> bool:
    """Have a host lead to a site no longer; whether it did."""
    mine = SiteAddressRow.site_id == site, SiteAddressRow.host == host
    done: Any = await db.execute(delete(SiteAddressRow).where(*mine))
    return bool(done.rowcount)
