"""Setting a site up at the server's console: the site itself, its first people, what is wrong with the installation."""

from __future__ import annotations

import asyncio
import re
import secrets
import unicodedata
import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from jutrel.core.account import CONSOLE, AccountChange
from jutrel.core.errors import BadInput
from jutrel.core.machine.unit import SiteInfo
from jutrel.core.people import Role
from jutrel.service.context import Books, Here, here_of
from jutrel.service.people.account import note
from jutrel.service.people.changes import enrol
from jutrel.service.people.pens import hashed
from jutrel.service.people.people import Person
from jutrel.service.people.pins import first_pin, hash_pin
from jutrel.service.problem import Conflict, NotFound
from jutrel.service.site.shift_begins import check_shifts
from jutrel.settings import LOOPBACK
from jutrel.store.base import Db, driver_of
from jutrel.store.queries import company as company_store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import passkeys as passkey_store
from jutrel.store.queries import people as people_store
from jutrel.store.queries import setup as rows
from jutrel.store.queries import sites as site_store
from jutrel.store.queries.sites import sites_there

LETTERS, CODE_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789", 12
"""Of a code: no letter that looks like a figure; sixty bits."""
CODE_LIFE, MOST_WRONG = timedelta(hours=1), 5


@dataclass(frozen=True, slots=True)
class FirstPin:
    """A person with the PIN that is said this once; they choose their own when they sign in."""

    person: Person
    pin: str


def slug_of(name: str) -> str:
    """A short name for records, from what people call a site.

    >>> slug_of("Ridge Dam, East")
    'ridge-dam-east'
    """
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:40].strip("-") or "site"


async def new_site(
    db: Db, books: Books, site: SiteInfo, administrator: str, now: datetime, host: str = ""
) -> FirstPin:  # fmt: skip
    """Set up a site with its first administrator. `host`: its own address, without which it can only be the first.

    Raises
    ------
    Conflict
        If there is one already, and one of them has no address of its own: people would take one for the other.
    BadInput
        For a time zone, regime, shift or name that cannot be so.
    """
    await _room_for(db, site.id, host)
    if not site.name.strip():
        raise BadInput("name", "give the site a name")
    try:
        ZoneInfo(site.zone)
    except (ZoneInfoNotFoundError, ValueError):
        raise BadInput(
            "zone", "'{it}' is no time zone; write it as the tz database does, such as UTC", it=site.zone
        ) from None
    if site.regime not in books.catalog.rulebooks:
        those = ", ".join(books.catalog.rulebooks)
        raise BadInput("regime", "'{it}' is not one of {those}", it=site.regime, those=those)
    check_shifts(site.shifts)
    await machine_store.add_site(db, site)
    here = await here_of(db, books, now)
    if host:
        await give_address(here, host)
    await note(
        here, CONSOLE, AccountChange.SITE_MADE, site.id, {"name": site.name, "regime": site.regime, "zone": site.zone}
    )
    return await new_person(here, administrator, Role.ADMINISTRATOR)


async def give_code(db: Db, books: Books, now: datetime) -> str:
    """A code by which the page sets this installation up, once, within the hour; Conflict if it has a site already."""
    await _room_for(db, "", "")
    code = "".join(secrets.choice(LETTERS) for _ in range(CODE_LETTERS))
    await rows.give_code(db, hashed(code), now + CODE_LIFE)
    return "-".join(code[n : n + 4] for n in range(0, CODE_LETTERS, 4))


async def _room_for(db: Db, site: str, host: str) -> None:
    """Refuse another site where people could not tell it from those that are there."""
    there = await sites_there(await driver_of(db))
    if site in there.ids or (there.ids and not host):
        raise Conflict(
            "site-there",
            "This installation has the site '{name}' already. Another one needs an id and an address of its own.",
            name=site if site in there.ids else there.ids[0],
        )
    for one in there.ids:
        if one not in there.addresses.values():
            raise Conflict(
                "no-address",
                "Give the site '{site}' an address of its own first: jutrel site address HOST. Until then every "
                "address leads to it.",
                site=one,
            )


_HOST = re.compile(r"[a-z0-9](?:[a-z0-9.-]{0,250}[a-z0-9])?(?::[0-9]{1,5})?")


async def give_address(here: Here, host: str) -> None:
    """Have a host lead to this site.

    Raises
    ------
    BadInput
        If it can be none that people write.
    Conflict
        If it leads to another site.
    """
    if not _HOST.fullmatch(host) or host.partition(":")[0] in LOOPBACK:
        raise BadInput("address", "'{it}' is no host that others can reach; write it as yard.example", it=host)
    leads_to = await site_store.give_address(here.db, here.site.id, host)
    if leads_to != here.site.id:
        raise Conflict("address-taken", "{host} leads to the site '{site}'.", host=host, site=leads_to)
    await note(here, CONSOLE, AccountChange.ADDRESS_CHANGED, here.site.id, {"given": host})


async def take_address(here: Here, host: str) -> None:
    """Have a host lead to this site no longer; Conflict for its only one where there are several sites."""
    mine = await site_store.addresses_of(here.db, here.site.id)
    if mine == [host] and len((await sites_there(await driver_of(here.db))).ids) > 1:
        raise Conflict("only-address", "Nobody would reach this site any more: give it another address first.")
    if await site_store.take_address(here.db, here.site.id, host):
        await note(here, CONSOLE, AccountChange.ADDRESS_CHANGED, here.site.id, {"taken": host})


async def check_code(db: Db, code: str, now: datetime) -> bool:
    """Whether this is the code that the console gave; after five that are not, another has to be given."""
    given = await rows.code_open(db, now, MOST_WRONG)
    plain = "".join(c for c in code.upper() if c.isalnum())
    if given is not None and secrets.compare_digest(given, hashed(plain)):
        return True
    await rows.note_wrong(db)
    return False


async def site_by_page(
    db: Db, books: Books, site: SiteInfo, administrator: str, now: datetime
) -> FirstPin:  # fmt: skip
    """Set up the site from its page, after the code was checked; the code is used up."""
    made = await new_site(db, books, site, administrator, now)
    await rows.use_up(db)
    return made


async def new_person(here: Here, name: str, role: Role) -> FirstPin:
    """Add a person at the console; says the PIN for their first time."""
    name = " ".join(name.split())
    if not name:
        raise BadInput("name", "give the person's name")
    made, pin = Person(str(uuid.uuid4()), name, role), first_pin()
    pin_hash = await asyncio.to_thread(hash_pin, pin)
    await enrol(here, CONSOLE, made, pin_hash, once=True, pin_set_at=here.now)
    return FirstPin(made, pin)


async def new_pin(here: Here, name: str) -> FirstPin:
    """Give somebody a PIN for the first time anew, who lost theirs; their sessions end.

    Raises
    ------
    NotFound
        If nobody of the site has that name, or several have.
    """
    named = [p for p in await people_store.people(here.db, here.site.id) if p.name == " ".join(name.split())]
    if len(named) != 1:
        raise NotFound("no-person", "{n} people of the site are called '{name}'.", n=len(named), name=name)
    pin = first_pin()
    pin_hash = await asyncio.to_thread(hash_pin, pin)
    await people_store.change_person(here.db, here.site.id, named[0], pin_hash, here.now, CONSOLE, True)
    await people_store.end_sessions_of(here.db, here.site.id, named[0].id, here.now)
    await passkey_store.let_go(here.db, here.site.id, named[0].id)
    await company_store.let_go(here.db, here.site.id, named[0].id)
    await note(here, CONSOLE, AccountChange.PIN_GIVEN, named[0].id)
    return FirstPin(named[0], pin)
