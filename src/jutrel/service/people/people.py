"""Signing in by name and PIN on a shared tablet, pens, and looking after the people of a site."""

from __future__ import annotations

import asyncio
import secrets
import uuid
from base64 import urlsafe_b64encode
from dataclasses import replace
from datetime import datetime, timedelta

from jutrel.core.account import AccountChange
from jutrel.core.errors import BadInput
from jutrel.core.people import RIGHTS, WALKERS, Right, Role, role_said
from jutrel.service.context import Books, Here, Shop, here_of
from jutrel.service.people.account import note
from jutrel.service.people.pens import Actor, hashed, tablet_key, vouched
from jutrel.service.people.pins import CHOOSE, SAYS, TriedPin, checked_pin, hash_pin, own_pin, still_right
from jutrel.service.problem import Conflict, NotAllowed, NotSignedIn, Problem
from jutrel.service.site.shifts import timetable_about
from jutrel.store.base import Db
from jutrel.store.queries import people as store
from jutrel.store.queries.people import Pen, Person, Pin

__all__ = ["WALKERS", "Actor", "Pen", "Person", "Role"]
AFTER_SHIFT = timedelta(hours=1)
"""So long after a shift a pen of it writes still: to park, fill and hand over; common practice."""


async def people(here: Here, with_inactive: bool = False) -> list[Person]:
    """The people of the site by name."""
    return await store.people(here.db, here.site.id, with_inactive)


async def names_of(here: Here) -> dict[str, str]:
    """Names by id, of those who left too."""
    return {p.id: p.name for p in await people(here, with_inactive=True)}


def new_pen(person: Person, device: str, now: datetime, hours: float, key: str = "") -> tuple[Pen, str]:
    """A pen for a person on a device from now on, with the public half of the pair that it made, and its secret."""
    pen = Pen(str(uuid.uuid4()), person.id, person.role, device, now, now + timedelta(hours=hours), key)
    return pen, secrets.token_urlsafe(32)


async def _open_session(
    here: Here, checked: Pin, device: str, hours: float, key: str, own: str, tablet: str
) -> TriedPin:  # fmt: skip
    """Open a session and hand out a pen: the PIN was right, and the wrong ones before it are forgotten.

    With a PIN that somebody else gave, a person chooses their own first.
    """
    known = await still_right(here, checked, tablet)
    if known is None:
        return TriedPin(refusal=NotSignedIn("wrong-pin", SAYS))
    if known.once:
        if not own:
            return TriedPin(refusal=Conflict("choose-pin", CHOOSE))
        who = known.person
        pin_hash = await asyncio.to_thread(hash_pin, own_pin(own))
        # Whoever gave it stays known: a PIN that they chose in that person's name is still theirs.
        _, giver = await store.pin_set(here.db, here.site.id, who.id)
        await store.change_person(here.db, here.site.id, who, pin_hash, here.now, giver or who.id)
        await note(here, who.id, AccountChange.PIN_CHOSEN, who.id)
    return await open_session(here, known.person, device, hours, key, tablet)


async def open_session(here: Here, who: Person, device: str, hours: float, key: str, tablet: str) -> TriedPin:
    """Open a session for somebody who has shown who they are, and hand out a pen, until an hour after the shift."""
    pen, secret = new_pen(who, device, here.now, hours, key)
    over = timetable_about(here.site, here.now).until(here.now) + AFTER_SHIFT
    pen = replace(pen, ends_at=min(pen.ends_at, over))
    token = secrets.token_urlsafe(32)
    if tablet:
        await store.know_tablet(here.db, here.site.id, who.id, tablet, here.now)
    await store.give_pen(here.db, here.site.id, pen, hashed(secret), hashed(token))
    key = urlsafe_b64encode(await tablet_key(here, who.id)).rstrip(b"=").decode()
    word = await vouched(here, who, pen)
    return TriedPin(token, secret, Actor(here.site.id, who, pen), certificate=word, tablet_key=key)


async def try_pin(
    shop: Shop, person: str, pin: str, device: str, hours: float, now: datetime, key: str = "", own: str = "",
    tablet: str = "",
) -> tuple[Here, TriedPin]:  # fmt: skip
    """Check a PIN, open a session and hand out a pen, or say why not. `own`: the PIN that is chosen instead of it;
    `tablet`: the hash of what the tablet was given when somebody signed in on it first."""
    if own and own == pin:
        raise Problem("weak-pin", "Choose another one than you were given.", field="new_pin")

    async def opened(here: Here, known: Pin) -> TriedPin:
        return await _open_session(here, known, device, hours, key, own, tablet)

    return await checked_pin(shop, person, pin, now, tablet, opened)


async def here_and_actor(
    db: Db, books: Books, token: str | None, now: datetime, used: bool = True
) -> tuple[Here, Actor]:  # fmt: skip
    """The site and who a session token belongs to, asked at once. `used`: somebody is there; else a page asks alone.

    Raises
    ------
    NotFound
        Before the site was set up.
    NotSignedIn
        If there is no such session, it has ended, or the person has left.
    """
    found = await store.site_and_session(db, hashed(token) if token else "", now, used)
    if found is None:
        await here_of(db, books, now)  # says that no site has been set up, if that is why
        raise NotSignedIn("not-signed-in", "Sign in with your name and PIN.")
    site, person, pen = found
    return Here(db, site, books, now), Actor(site.id, person, pen)


async def is_signed_in(shop: Shop, token: str | None, now: datetime) -> bool:
    """Whether a session token is somebody's."""
    if not token:
        return False
    async with shop.store.driver() as driver:
        return await store.site_and_session_shortly(driver, hashed(token), now) is not None


async def sign_out(here: Here, token: str) -> None:
    """End a session. What its pen wrote until now is still taken later."""
    await store.end_session(here.db, hashed(token), here.now)


def require(actor: Actor, *rights: Right) -> None:
    """Refuse unless the actor has one of the rights."""
    allow(actor, *(role for role in Role if any(role in RIGHTS[right] for right in rights)))


def allow(actor: Actor, *roles: Role) -> None:
    """Refuse unless the actor has one of the roles."""
    if actor.person.role not in roles:
        refusal = NotAllowed(
            "not-your-role",
            "This is for: {those}. You are signed in as {role}.",
            those=tuple(role_said(r) for r in roles),
            role=role_said(actor.person.role),
        )
        refusal.roles = tuple(role.value for role in roles)
        raise refusal


async def choose_language(here: Here, actor: Actor, language: str) -> None:
    """Note the language that a person reads.

    Raises
    ------
    BadInput
        If there are no files for it.
    """
    known = here.books.languages.by_code
    if language not in known:
        raise BadInput("language", "'{it}' is not one of {those}", it=language, those=", ".join(known))
    await store.choose_language(here.db, here.site.id, actor.person.id, language)
