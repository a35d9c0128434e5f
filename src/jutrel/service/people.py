"""Signing in by name and PIN on a shared tablet, and looking after the people of a site."""

from __future__ import annotations

import hashlib
import re
import secrets
import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import VerifyMismatchError
from sqlalchemy import delete, select, update
from sqlalchemy.ext.asyncio import AsyncSession

from jutrel.core.inspection.entry import Role
from jutrel.service.problem import Conflict, NotAllowed, NotFound, NotSignedIn, Problem, TooSoon
from jutrel.store.tables import PersonRow, SessionRow, SiteRow

_hasher = PasswordHasher(time_cost=2, memory_cost=32 * 1024, parallelism=1)
FREE_TRIES = 2
LONGEST_WAIT_S = 900
WALKERS = (Role.OPERATOR, Role.MECHANIC, Role.SUPERVISOR, Role.TRAINER)


@dataclass(frozen=True, slots=True)
class Person:
    """A person of a site, without the PIN."""

    id: str
    name: str
    role: Role
    active: bool = True


@dataclass(frozen=True, slots=True)
class Actor:
    """Who asks: a signed-in person, the site, and the device."""

    site: str
    person: Person
    device: str


def wait_after(wrong_pins: int) -> int:
    """Seconds to wait after so many wrong PINs in a row: none at first, then doubling.

    >>> [wait_after(n) for n in (1, 2, 3, 4, 5, 20)]
    [0, 0, 2, 4, 8, 900]
    """
    return 0 if wrong_pins <= FREE_TRIES else min(LONGEST_WAIT_S, 2 ** min(wrong_pins - FREE_TRIES, 20))


def _token_hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def hash_pin(pin: str) -> str:
    """The argon2 hash of a PIN of four to eight digits.

    Raises
    ------
    Problem
        If it is anything else.
    """
    if not re.fullmatch(r"\d{4,8}", pin):
        raise Problem("bad-pin", "A PIN has four to eight digits.", field="pin")
    return _hasher.hash(pin)


async def only_site(db: AsyncSession) -> SiteRow:
    """The site that this installation serves."""
    site = (await db.execute(select(SiteRow).order_by(SiteRow.id).limit(1))).scalar_one_or_none()
    if site is None:
        raise NotFound("no-site", "No site has been set up yet: run `make demo`, or `jutrel site`.")
    return site


def _person(row: PersonRow) -> Person:
    return Person(row.id, row.name, Role(row.role), row.active)


async def people(db: AsyncSession, site: str, with_inactive: bool = False) -> list[Person]:
    """The people of a site by name."""
    query = select(PersonRow).where(PersonRow.site_id == site).order_by(PersonRow.name)
    if not with_inactive:
        query = query.where(PersonRow.active)
    return [_person(row) for row in (await db.execute(query)).scalars()]


@dataclass(frozen=True, slots=True)
class Tried:
    """What came of a PIN: a token and its person, or a refusal to raise after the try is stored."""

    token: str | None
    actor: Actor | None
    refusal: Problem | None


async def try_pin(
    db: AsyncSession, site: str, person: str, pin: str, device: str, now: datetime, hours: float
) -> Tried:
    """Check a PIN and open a session. The wrong try is recorded, so the caller must commit before refusing."""
    row = (
        await db.execute(select(PersonRow).where(PersonRow.site_id == site, PersonRow.id == person).with_for_update())
    ).scalar_one_or_none()
    if row is None or not row.active:
        return Tried(None, None, NotSignedIn("wrong-pin", "That name and PIN do not belong together."))
    if row.wait_until and row.wait_until > now:
        wait = int((row.wait_until - now).total_seconds()) + 1
        return Tried(
            None,
            None,
            TooSoon("too-many-pins", f"Too many wrong PINs. Wait {wait} s and try again.", field="pin", wait_s=wait),
        )
    try:
        _hasher.verify(row.pin_hash, pin)
    except VerifyMismatchError:
        row.wrong_pins += 1
        wait = wait_after(row.wrong_pins)
        row.wait_until = now + timedelta(seconds=wait) if wait else None
        says = "That name and PIN do not belong together."
        return Tried(
            None,
            None,
            NotSignedIn("wrong-pin", says + (f" Wait {wait} s." if wait else ""), field="pin", wait_s=wait or None),
        )
    row.wrong_pins, row.wait_until = 0, None
    await db.execute(delete(SessionRow).where(SessionRow.ends_at < now - timedelta(days=30)))
    token = secrets.token_urlsafe(32)
    db.add(
        SessionRow(
            token_hash=_token_hash(token),
            site_id=site,
            person_id=row.id,
            device=device,
            opened_at=now,
            ends_at=now + timedelta(hours=hours),
        )
    )
    return Tried(token, Actor(site, _person(row), device), None)


async def actor_of(db: AsyncSession, token: str | None, now: datetime) -> Actor:
    """Who a session token belongs to.

    Raises
    ------
    NotSignedIn
        If there is no such session, it has ended, or the person has left.
    """
    if token:
        found = (
            await db.execute(
                select(SessionRow, PersonRow)
                .join(PersonRow, (PersonRow.site_id == SessionRow.site_id) & (PersonRow.id == SessionRow.person_id))
                .where(SessionRow.token_hash == _token_hash(token), SessionRow.ends_at > now, PersonRow.active)
            )
        ).first()
        if found:
            session, person = found
            return Actor(session.site_id, _person(person), session.device)
    raise NotSignedIn("not-signed-in", "Sign in with your name and PIN.")


async def sign_out(db: AsyncSession, token: str, now: datetime) -> None:
    """End a session. It stays on record for the device, ended."""
    await db.execute(update(SessionRow).where(SessionRow.token_hash == _token_hash(token)).values(ends_at=now))


async def known_on_device(db: AsyncSession, actor: Actor, person: str) -> PersonRow | None:
    """The person, if it is the actor or has signed in on the actor's device before."""
    row = await db.get(PersonRow, (actor.site, person))
    if row is None or person == actor.person.id:
        return row
    seen = await db.execute(
        select(SessionRow.token_hash)
        .where(SessionRow.site_id == actor.site, SessionRow.device == actor.device, SessionRow.person_id == person)
        .limit(1)
    )
    return row if seen.first() else None


def allow(actor: Actor, *roles: Role) -> None:
    """Refuse unless the actor has one of the roles."""
    if actor.person.role not in roles:
        raise NotAllowed("not-your-role", f"This is for: {', '.join(roles)}. You are signed in as {actor.person.role}.")


async def add_person(db: AsyncSession, actor: Actor, name: str, role: Role, pin: str, person_id: str) -> Person:
    """Add a person; the id is made by the client, so that sending twice adds one."""
    allow(actor, Role.ADMINISTRATOR)
    name = " ".join(name.split())
    if not name:
        raise Problem("no-name", "Give the person's name.", field="name")
    have = await db.get(PersonRow, (actor.site, person_id))
    if have is not None:
        if have.name == name and have.role == role:
            return _person(have)
        raise Conflict("id-taken", "This id belongs to another person.", field="id")
    uuid.UUID(person_id)
    row = PersonRow(
        site_id=actor.site, id=person_id, name=name, role=role.value, pin_hash=hash_pin(pin), active=True, wrong_pins=0
    )
    db.add(row)
    return _person(row)


async def change_person(
    db: AsyncSession, actor: Actor, person: str, role: Role | None, pin: str | None, active: bool | None
) -> Person:
    """Change role, PIN or whether the person still works here. A new PIN or leaving ends the sessions."""
    allow(actor, Role.ADMINISTRATOR)
    row = await db.get(PersonRow, (actor.site, person))
    if row is None:
        raise NotFound("no-person", "There is no such person on this site.")
    if person == actor.person.id and (active is False or (role is not None and role is not Role.ADMINISTRATOR)):
        raise Conflict("own-account", "You cannot take your own administrator's role away; ask another one.")
    if role is not None:
        row.role = role.value
    if pin is not None:
        row.pin_hash, row.wrong_pins, row.wait_until = hash_pin(pin), 0, None
    if active is not None:
        row.active = active
    if pin is not None or active is False:
        await db.execute(delete(SessionRow).where(SessionRow.site_id == actor.site, SessionRow.person_id == person))
    return _person(row)
