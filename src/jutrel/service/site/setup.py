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
from jutrel.store.base import Db
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import passkeys as passkey_store
from jutrel.store.queries import people as people_store
from jutrel.store.queries import setup as rows

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


async def new_site(db: Db, books: Books, site: SiteInfo, administrator: str, now: datetime) -> FirstPin:
    """Set up the site of an installation with its first administrator.

    Raises
    ------
    Conflict
        If it has a site already.
    BadInput
        For a time zone, regime, shift or name that cannot be so.
    """
    if (there := await _there(db, books, now)) is not None:
        raise Conflict("site-there", "This installation has the site '{name}' already.", name=there.site.name)
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
    await note(
        here, CONSOLE, AccountChange.SITE_MADE, site.id, {"name": site.name, "regime": site.regime, "zone": site.zone}
    )
    return await new_person(here, administrator, Role.ADMINISTRATOR)


async def give_code(db: Db, books: Books, now: datetime) -> str:
    """A code by which the page sets this installation up, once, within the hour; Conflict if it has a site already."""
    if (there := await _there(db, books, now)) is not None:
        raise Conflict("site-there", "This installation has the site '{name}' already.", name=there.site.name)
    code = "".join(secrets.choice(LETTERS) for _ in range(CODE_LETTERS))
    await rows.give_code(db, hashed(code), now + CODE_LIFE)
    return "-".join(code[n : n + 4] for n in range(0, CODE_LETTERS, 4))


async def _there(db: Db, books: Books, now: datetime) -> Here | None:
    try:
        return await here_of(db, books, now)
    except NotFound:
        return None


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
    await note(here, CONSOLE, AccountChange.PIN_GIVEN, named[0].id)
    return FirstPin(named[0], pin)
