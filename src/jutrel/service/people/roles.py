"""Roles that two administrators give: who could be the second, asking, confirming, not giving."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime, timedelta
from enum import Enum, auto

from jutrel.core.account import AccountChange, AccountLine
from jutrel.core.people import Right, Role
from jutrel.service.context import Here, Shop
from jutrel.service.people.account import note
from jutrel.service.people.people import Actor, require
from jutrel.service.people.pins import CHOOSE, SAYS, TriedPin, checked_pin, still_right
from jutrel.service.problem import Conflict, NotFound, NotSignedIn
from jutrel.store.queries import account as account_store
from jutrel.store.queries import people as store
from jutrel.store.queries import roles_asked as asked_store
from jutrel.store.queries.people import Pin
from jutrel.store.queries.roles_asked import RoleAsked

REMEMBERED = timedelta(days=30)
"""So long after the last other administrator was taken away, one alone still gives a reason."""
LASTS = timedelta(days=7)
"""What nobody confirmed for so long has to be asked anew."""


class Seconds(Enum):
    """Whether another administrator could confirm a role."""

    NEVER = auto()
    """There is no other, and was none of late."""
    NONE = auto()
    """There is, or was of late, but none who could confirm this."""
    SOME = auto()


async def seconds_for(here: Here, actor: Actor, subject: str) -> Seconds:
    """Whether an administrator besides the one who asks, and besides whom it is about, could confirm a role."""
    administrators = {p.id for p in await store.people(here.db, here.site.id) if p.role is Role.ADMINISTRATOR}
    others = administrators - {actor.person.id}
    if others - {subject}:
        return Seconds.SOME
    if others or await _other_taken_away(here, actor.person.id):
        return Seconds.NONE
    return Seconds.NEVER


async def _other_taken_away(here: Here, actor: str) -> bool:
    """Whether another administrator lost that role, or left, of late: taking the second away makes nobody the only."""
    roles = {p.id: p.role for p in await store.people(here.db, here.site.id, with_inactive=True)}

    def of_administrator(line: AccountLine) -> bool:
        if line.what is AccountChange.ROLE_CHANGED:
            return line.details.get("from") == Role.ADMINISTRATOR.value
        gone = (AccountChange.PERSON_LEFT, AccountChange.PERSON_ERASED)
        return line.what in gone and roles.get(line.about) is Role.ADMINISTRATOR

    lines = await account_store.lines_since(here.db, here.site.id, here.now - REMEMBERED)
    return any(of_administrator(line) for line in lines if line.about != actor)


async def ask(here: Here, actor: Actor, person: str, role: Role) -> None:
    """Keep that a role is to be given, until another administrator confirms it."""
    await asked_store.ask_role(here.db, here.site.id, RoleAsked(person, role, actor.person.id, here.now))
    await note(here, actor.person.id, AccountChange.ROLE_ASKED, person, {"to": role.value})


async def asked(here: Here) -> dict[str, RoleAsked]:
    """What waits for a second administrator, by person."""
    found = await asked_store.roles_asked(here.db, here.site.id)
    return {person: r for person, r in found.items() if r.at > here.now - LASTS}


async def confirm_role(shop: Shop, actor: Actor, person: str, role: Role, pin: str, now: datetime, tablet: str) -> None:
    """Give a role that another administrator asked for, with one's own PIN; said twice it gives it once.

    Raises
    ------
    NotFound
        If it is not asked any more.
    Conflict
        If it is one's own asking, or about oneself, or one's PIN is of whoever asks.
    NotSignedIn
        If the PIN is wrong.
    """
    require(actor, Right.MANAGE)

    async def given(here: Here, known: Pin) -> TriedPin:
        right = await still_right(here, known, tablet)
        if right is None:
            return TriedPin(refusal=NotSignedIn("wrong-pin", SAYS))
        if right.once:
            return TriedPin(refusal=Conflict("choose-pin", CHOOSE))
        await store.hold_site(here.db, here.site.id)
        await _give(here, actor, person, role)
        return TriedPin()

    _, tried = await checked_pin(shop, actor.person.id, pin, now, tablet, given)
    if tried.refusal is not None:
        raise tried.refusal


async def _give(here: Here, actor: Actor, person: str, role: Role) -> None:
    me = await store.person(here.db, here.site.id, actor.person.id)
    have = await store.person(here.db, here.site.id, person)
    wants = (await asked(here)).get(person)
    if have is not None and wants is None and have.active and have.role is role:
        return
    if have is None or wants is None or wants.role is not role:
        raise NotFound("not-asked", "This role is not asked for any more.")
    # As the people are now, not as they were when the page was opened.
    asks = await store.person(here.db, here.site.id, wants.by)
    if me is None or not me.active or me.role is not Role.ADMINISTRATOR:
        raise NotFound("not-asked", "This role is not asked for any more.")
    if asks is None or not asks.active or asks.role is not Role.ADMINISTRATOR:
        raise Conflict("asked-by-nobody", "Whoever asked for it is no administrator any more. Ask for it anew.")
    if wants.by == me.id or person == me.id:
        raise Conflict(
            "second-administrator", "You asked for this, or it is about you. A second administrator says yes to it."
        )
    await _own_hand(here, me.id, wants)
    new = replace(have, role=role, active=True)
    await store.change_person(here.db, here.site.id, new, None, here.now, me.id)
    await asked_store.drop_role(here.db, here.site.id, person)
    if have.role is not role:
        roles = {"from": have.role.value, "to": role.value, "asked": wants.by}
        await note(here, me.id, AccountChange.ROLE_CHANGED, person, roles)
    if not have.active:
        await note(here, me.id, AccountChange.PERSON_BACK, person, {"asked": wants.by})
    await store.end_sessions_of(here.db, here.site.id, person, here.now)


async def _own_hand(here: Here, second: str, wants: RoleAsked) -> None:
    """That the second's PIN was not given anew by whoever asks, who knew it then: else one person is both."""
    about = await account_store.lines_about(here.db, here.site.id, second)
    given = next((x for x in about if x.what is AccountChange.PIN_GIVEN), None)
    if given is not None and given.by == wants.by:
        raise Conflict(
            "pin-of-other",
            "Your PIN was given by whoever asks for this. Have the console or another administrator give you one.",
        )


async def drop_asked(here: Here, actor: Actor, person: str) -> None:
    """Do not give a role that is asked for; NotFound if none is."""
    require(actor, Right.MANAGE)
    await store.hold_site(here.db, here.site.id)
    wants = (await asked_store.roles_asked(here.db, here.site.id)).get(person)
    if wants is None:
        raise NotFound("not-asked", "This role is not asked for any more.")
    await asked_store.drop_role(here.db, here.site.id, person)
    await note(here, actor.person.id, AccountChange.ROLE_DROPPED, person, {"to": wants.role.value})
