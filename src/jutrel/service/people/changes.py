"""People of a site added, changed, gone and erased: each time with a line of the account in the same transaction.

Who gives a role by which machines are cleared could clear them in that person's name: such a role takes two
administrators as soon as there are two, or a reason that everybody who runs the site is told.
"""

from __future__ import annotations

import asyncio
from dataclasses import replace
from datetime import datetime

from jutrel.core.account import CONSOLE, AccountChange
from jutrel.core.people import GIVEN_BY_TWO, Right, Role
from jutrel.service.context import Here
from jutrel.service.people.account import note
from jutrel.service.people.people import Actor, Person, require
from jutrel.service.people.pins import hash_pin, own_pin
from jutrel.service.people.roles import Seconds, ask, seconds_for
from jutrel.service.problem import Conflict, NotFound, Problem
from jutrel.store.queries import company as company_store
from jutrel.store.queries import passkeys as passkey_store
from jutrel.store.queries import people as store
from jutrel.store.queries import roles_asked as asked_store

NO_HASH = "-"
"""In place of a PIN's hash: no PIN fits it."""


async def enrol(
    here: Here, by: str, who: Person, pin_hash: str, *, once: bool, pin_set_at: datetime | None = None
) -> None:  # fmt: skip
    """Write a person down, and who did it. `by`: a person's id, or the console; `once`: they choose their own PIN."""
    setter = None if by == CONSOLE else by
    await store.add_person(here.db, here.site.id, who, pin_hash, pin_set_at, setter, once)
    await note(here, by, AccountChange.PERSON_ADDED, who.id, {"role": who.role.value})


async def add_person(
    here: Here, actor: Actor, name: str, role: Role, pin: str, person_id: str, *, once: bool = True, reason: str = ""
) -> Person:  # fmt: skip
    """Add a person; the id is made by the client, so that sending twice adds one.

    `once`: they choose their own PIN when they sign in first. `reason`: why one administrator alone gives a role that
    two should give. Where a second one has to confirm it, the person cannot sign in before.

    Raises
    ------
    Problem
        For a name or a PIN that cannot be.
    Conflict
        If the id is another person's, or nobody could confirm the role and no reason is given.
    """
    require(actor, Right.MANAGE)
    name = " ".join(name.split())
    if not name:
        raise Problem("no-name", "Give the person's name.", field="name")
    pin_hash = await asyncio.to_thread(hash_pin, pin)
    await store.hold_site(here.db, here.site.id)
    have = await store.person(here.db, here.site.id, person_id)
    if have is not None:
        asked = (await asked_store.roles_asked(here.db, here.site.id)).get(person_id)
        if have.name == name and role in (have.role, asked.role if asked else have.role):
            return have
        raise Conflict("id-taken", "This id belongs to another person.", field="id")
    waits = await waits_for_second(here, actor, person_id, role, reason)
    made = await add_hashed(here, actor, Person(person_id, name, role), pin_hash, once=once, waits=waits)
    if not waits and reason:
        await _note_alone(here, actor, person_id, role, reason)
    return made


async def add_hashed(here: Here, actor: Actor, who: Person, pin_hash: str, *, once: bool, waits: bool) -> Person:
    """Add a person with a PIN's hash; whose role `waits` for a second administrator cannot sign in before."""
    made = replace(who, role=Role.OPERATOR, active=False) if waits else who
    await enrol(here, actor.person.id, made, pin_hash, once=once, pin_set_at=here.now)
    if waits:
        await ask(here, actor, who.id, who.role)
    return made


async def waits_for_second(here: Here, actor: Actor, subject: str, role: Role, reason: str = "") -> bool:
    """Whether a role waits for another administrator; Conflict if none could confirm it and no reason is given."""
    if role not in GIVEN_BY_TWO:
        return False
    seconds = await seconds_for(here, actor, subject)
    if seconds is Seconds.NEVER or reason.strip():
        return False
    if seconds is Seconds.NONE:
        raise Conflict(
            "alone",
            "No other administrator can confirm this. Say why you give it alone; those who run the site are told.",
            field="reason",
        )
    return True


async def _note_alone(here: Here, actor: Actor, subject: str, role: Role, reason: str) -> None:
    if role in GIVEN_BY_TWO and await seconds_for(here, actor, subject) is not Seconds.NEVER:
        said = {"to": role.value, "why": " ".join(reason.split())}
        await note(here, actor.person.id, AccountChange.ROLE_ALONE, subject, said)


async def change_person(
    here: Here, actor: Actor, person: str, role: Role | None, pin: str | None, active: bool | None,
    *, once: bool = True, reason: str = "",
) -> Person:  # fmt: skip
    """Change role, PIN or whether the person still works here.

    Another role, another PIN or leaving ends the sessions; what was written until now keeps the role it had. A role
    that waits for a second administrator changes nothing yet; coming back with such a role is giving it anew.

    Raises
    ------
    NotFound
        If there is no such person.
    Conflict
        If somebody would take the role from themselves, or as `add_person`.
    """
    require(actor, Right.MANAGE)
    own = person == actor.person.id
    pin_hash = None if pin is None else await asyncio.to_thread(hash_pin, pin)
    await store.hold_site(here.db, here.site.id)
    have = await store.person(here.db, here.site.id, person)
    if have is None:
        raise NotFound("no-person", "There is no such person on this site.")
    if have.erased:
        raise Conflict("erased", "This person's name was erased: add them anew.")
    if own and (active is False or (role is not None and role is not Role.ADMINISTRATOR)):
        raise Conflict("own-account", "You cannot take this role from yourself: ask another administrator.")
    now = replace(have, role=role or have.role, active=have.active if active is None else active)
    gets = now.active and (now.role is not have.role or not have.active)
    waits = gets and await waits_for_second(here, actor, person, now.role, reason)
    wanted = now.role
    if waits:
        # Whoever was away stays away until it is confirmed; whoever is here goes on as what they are.
        now = have
    if own and pin is not None and once:
        own_pin(pin)
    _, giver = await store.pin_set(here.db, here.site.id, person)
    # One's own change takes nothing from whoever gave the PIN before: they may be the one who changes it.
    setter = giver or person if own else actor.person.id
    await store.change_person(here.db, here.site.id, now, pin_hash, here.now, setter, once and not own)
    if role is not None or active is not None:
        await asked_store.drop_role(here.db, here.site.id, person)
    if waits:
        await ask(here, actor, person, wanted)
    elif gets and reason.strip():
        await _note_alone(here, actor, person, now.role, reason)
    await _note_change(here, actor, have, now, pin is not None)
    if pin is not None or now.active is not have.active or now.role is not have.role:
        await store.end_sessions_of(here.db, here.site.id, person, here.now)
    if not own and (pin is not None or not now.active):
        # A PIN is given anew because something was lost: a key may be, too.
        await passkey_store.let_go(here.db, here.site.id, person)
        await company_store.let_go(here.db, here.site.id, person)
    return now


async def _note_change(here: Here, actor: Actor, have: Person, now: Person, pin: bool) -> None:
    by = actor.person.id
    if now.role is not have.role:
        roles = {"from": have.role.value, "to": now.role.value}
        await note(here, by, AccountChange.ROLE_CHANGED, now.id, roles)
    if pin:
        what = AccountChange.PIN_CHOSEN if now.id == by else AccountChange.PIN_GIVEN
        await note(here, by, what, now.id)
    if now.active is not have.active:
        left = AccountChange.PERSON_BACK if now.active else AccountChange.PERSON_LEFT
        await note(here, by, left, now.id)


async def erase_person(here: Here, by: str, person: str) -> Person:
    """Erase the name of somebody who left: records name them by a number from then on, and their chains stay whole.

    What others wrote of them in their own words stays, as do records on paper. Said twice it changes nothing more.

    Raises
    ------
    NotFound
        If there is no such person.
    Conflict
        If they have not left.
    """
    await store.hold_site(here.db, here.site.id)
    have = await store.person(here.db, here.site.id, person)
    if have is None:
        raise NotFound("no-person", "There is no such person on this site.")
    if have.erased:
        return have
    if have.active:
        raise Conflict("still-here", "Only who has left can be erased.")
    await asked_store.drop_role(here.db, here.site.id, person)
    await passkey_store.let_go(here.db, here.site.id, person)
    await company_store.let_go(here.db, here.site.id, person)
    await store.erase_person(here.db, here.site.id, person, NO_HASH)
    await note(here, by, AccountChange.PERSON_ERASED, person)
    made = await store.person(here.db, here.site.id, person)
    assert made is not None
    return made
