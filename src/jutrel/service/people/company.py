"""Signing in by the account that somebody has at their company, beside the PIN: for the desk.

Nobody is known by a name or an address that the company writes down: each adds their own account, with their PIN. What
clears a machine asks for the PIN all the same.
"""

from __future__ import annotations

import secrets
from datetime import datetime, timedelta
from urllib.parse import parse_qs, urlsplit

from jutrel.core.account import AccountChange
from jutrel.service.context import Here, Shop, here_of
from jutrel.service.people.account import note
from jutrel.service.people.company_door import CompanyDoor
from jutrel.service.people.pens import hashed
from jutrel.service.people.people import Actor, open_session
from jutrel.service.people.pins import TriedPin, after_own_pin
from jutrel.service.problem import Conflict, NotFound, NotSignedIn, Problem, TooSoon
from jutrel.store.queries import company as store
from jutrel.store.queries import people as people_store
from jutrel.store.queries.company import CompanyAsked

__all__ = ["CompanyDoor"]
ASKED_FOR = timedelta(minutes=10)
MOST_ASKED, MOST_ASKED_OF_ALL = 5, 500
WAIT_S = 30


async def begin_adding(
    shop: Shop, actor: Actor, door: CompanyDoor, back: str, pin: str, now: datetime, tablet: str, browser: str
) -> str:  # fmt: skip
    """Where the browser goes to add an account of one's own, after the PIN; raises NotSignedIn for a wrong one."""
    made = _new(actor.person.id, browser, now)

    async def keep(here: Here) -> None:
        await _keep(here, made[1], MOST_ASKED)

    await after_own_pin(shop, actor.person.id, pin, now, tablet, keep)
    return await door.address(back, made[0], made[1].nonce, made[1].verifier)


async def begin_signing_in(shop: Shop, door: CompanyDoor, back: str, now: datetime, browser: str) -> str:
    """Where the browser goes to sign in."""
    state, asked = _new("", browser, now)
    async with shop.store.transaction() as db:
        await _keep(await here_of(db, shop.books, now), asked, MOST_ASKED_OF_ALL)
    return await door.address(back, state, asked.nonce, asked.verifier)


def state_in(address: str) -> str:
    """By what a browser that was sent to an address is known when it comes back.

    >>> state_in("https://company.example/in?client_id=a&state=b-c")
    'b-c'
    """
    return parse_qs(urlsplit(address).query)["state"][0]


def _new(person: str, browser: str, now: datetime) -> tuple[str, CompanyAsked]:
    state = secrets.token_urlsafe(32)
    return state, CompanyAsked(
        hashed(state), hashed(browser), person, secrets.token_urlsafe(32), secrets.token_urlsafe(64), now
    )  # fmt: skip


async def _keep(here: Here, asked: CompanyAsked, most: int) -> None:
    if not await store.ask(here.db, here.site.id, asked, here.now - ASKED_FOR, most):
        raise TooSoon("busy", "Many sign in just now. Wait {wait} s, or use your PIN.", wait_s=WAIT_S, wait=WAIT_S)


async def _subject(
    shop: Shop, door: CompanyDoor, back: str, state: str, code: str, person: str, now: datetime, browser: str
) -> str:  # fmt: skip
    """Who came back, as the company calls them: in the browser that went, within ten minutes, once."""
    async with shop.store.transaction() as db:
        here = await here_of(db, shop.books, now)
        asked = await store.take_asked(db, here.site.id, hashed(state))
    if (
        asked is None
        or asked.begun_at < now - ASKED_FOR
        or asked.person != person
        or not secrets.compare_digest(asked.browser, hashed(browser))
    ):
        raise Problem("asked-too-long-ago", "It took too long. Try again.")
    return await door.subject(code, back, asked.nonce, asked.verifier, asked.begun_at, now)


async def sign_in(
    shop: Shop, door: CompanyDoor, back: str, state: str, code: str, device: str, hours: float, now: datetime,
    pen_key: str, browser: str,
) -> tuple[Here, TriedPin]:  # fmt: skip
    """Open a session for whoever signed in at their company.

    The computer does not become their own by it: a stranger's wrong PINs there make them wait as anywhere.

    Raises
    ------
    NotSignedIn
        If nobody here has that account, or its person left or has a PIN to choose.
    """
    subject = await _subject(shop, door, back, state, code, "", now, browser)
    async with shop.store.transaction() as db:
        here = await here_of(db, shop.books, now)
        person = await store.person_of(db, here.site.id, door.issuer, subject)
        pin = None if person is None else await people_store.pin_of(db, here.site.id, person)
        if pin is None or not pin.person.active or pin.once:
            raise NotSignedIn(
                "not-linked",
                "Nobody here signs in by this account. Sign in with your PIN, then add it on the page Signed in.",
            )
        await store.used(db, here.site.id, door.issuer, subject, now)
        return here, await open_session(here, pin.person, device, hours, pen_key, "")


async def add(
    shop: Shop, actor: Actor, door: CompanyDoor, back: str, state: str, code: str, now: datetime, browser: str
) -> None:  # fmt: skip
    """Sign in by this account from now on, too.

    Raises
    ------
    Conflict
        If it is somebody else's here.
    """
    subject = await _subject(shop, door, back, state, code, actor.person.id, now, browser)
    async with shop.store.transaction() as db:
        here = await here_of(db, shop.books, now)
        await people_store.hold_site(db, here.site.id)
        whose = await store.person_of(db, here.site.id, door.issuer, subject)
        if whose == actor.person.id:
            return
        if whose is not None:
            raise Conflict("account-taken", "Somebody else here signs in by this account.")
        await store.keep(db, here.site.id, door.issuer, subject, actor.person.id, now)
        await note(here, actor.person.id, AccountChange.COMPANY_ADDED, actor.person.id)


async def has_one(here: Here, actor: Actor) -> bool:
    """Whether somebody signs in by an account at their company."""
    return await store.has_one(here.db, here.site.id, actor.person.id)


async def take_away(here: Here, actor: Actor) -> None:
    """Sign in by no such account any more; NotFound if one did not."""
    if not await store.let_go(here.db, here.site.id, actor.person.id):
        raise NotFound("no-account", "You sign in by no such account.")
    await note(here, actor.person.id, AccountChange.COMPANY_ENDED, actor.person.id)
