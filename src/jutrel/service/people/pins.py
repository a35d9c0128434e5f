"""PINs: what one may be, how often one may be tried and where, and what comes of a try."""

from __future__ import annotations

import asyncio
import re
import secrets
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import pairwise

from argon2 import PasswordHasher
from argon2.exceptions import VerifyMismatchError

from jutrel.core.wording import NOTHING, say, together
from jutrel.service.context import Here, Shop, here_of
from jutrel.service.people.pens import Actor
from jutrel.service.problem import Conflict, NotSignedIn, Problem, TooSoon
from jutrel.store.queries import people as store
from jutrel.store.queries.people import Pin

_hasher = PasswordHasher(time_cost=2, memory_cost=32 * 1024, parallelism=1)
FIRST_DIGITS = 8
FREE_TRIES = 2
LONGEST_WAIT_S = 900


def wait_after(wrong_pins: int) -> int:
    """Seconds to wait after so many wrong PINs in a row: none at first, then doubling.

    >>> [wait_after(n) for n in (1, 2, 3, 4, 5, 20)]
    [0, 0, 2, 4, 8, 900]
    """
    return 0 if wrong_pins <= FREE_TRIES else min(LONGEST_WAIT_S, 2 ** min(wrong_pins - FREE_TRIES, 20))


def hash_pin(pin: str) -> str:
    """The argon2 hash of a PIN of four to eight digits.

    Raises
    ------
    Problem
        If it is anything else.
    """
    if not re.fullmatch(r"[0-9]{4,8}", pin):
        raise Problem("bad-pin", "A PIN has four to eight digits.", field="pin")
    return _hasher.hash(pin)


def first_pin() -> str:
    """A PIN by chance, for the first time only."""
    return "".join(str(secrets.randbelow(10)) for _ in range(FIRST_DIGITS))


def own_pin(pin: str) -> str:
    """A PIN that somebody chose for themselves.

    Raises
    ------
    Problem
        If it is shorter than six digits, or one that is tried first: a row, a repetition, one digit.

    >>> own_pin("730418")
    '730418'
    """
    if not re.fullmatch(r"[0-9]{6,8}", pin):
        raise Problem("weak-pin", "Choose six to eight digits.", field="new_pin")
    steps = {(int(b) - int(a)) % 10 for a, b in pairwise(pin)}
    repeats = any(pin == (pin[:n] * len(pin))[: len(pin)] for n in (1, 2, 3))
    if len(steps) == 1 or repeats or len(set(pin)) < 3:
        raise Problem(
            "weak-pin", "Choose one that is not a row or a repetition: those are tried first.", field="new_pin"
        )
    return pin


@dataclass(frozen=True, slots=True)
class TriedPin:
    """What came of a PIN: a session with its pen, or a refusal to raise after the try is stored."""

    token: str = ""
    secret: str = ""
    actor: Actor | None = None
    refusal: Problem | None = None
    certificate: str = ""
    tablet_key: str = ""
    """By which this tablet encrypts what it keeps of the person when they sign out: base64url."""


SAYS = say("That name and PIN do not belong together.")
CHOOSE = say("This PIN was for the first time. Choose your own now.")


async def may_try(here: Here, person: str, tablet: str) -> Pin | Problem:
    """What a PIN is checked against, or why it cannot be tried now.

    `tablet`: the hash of what this tablet was given when somebody signed in on it. Where the person has signed in on it
    before, wrong tries elsewhere do not make them wait here.
    """
    known = await store.pin_of(here.db, here.site.id, person, tablet)
    if known is None or not known.person.active:
        return NotSignedIn("wrong-pin", SAYS)
    if known.wait_until and known.wait_until > here.now:
        wait = int((known.wait_until - here.now).total_seconds()) + 1
        return TooSoon("too-many-pins", "Too many wrong PINs. Wait {wait} s and try again.", "pin", wait, wait=wait)
    return known


def is_right(known: Pin, pin: str) -> bool:
    """Whether it is the person's PIN; takes its time, on purpose."""
    try:
        return _hasher.verify(known.pin_hash, pin)
    except VerifyMismatchError:
        return False


async def _note_wrong(here: Here, person: str, tablet: str) -> TriedPin:
    known = await store.pin_of(here.db, here.site.id, person, tablet)
    wrong = (known.wrong if known else 0) + 1
    wait = wait_after(wrong)
    until = here.now + timedelta(seconds=wait) if wait else None
    await store.note_try(here.db, here.site.id, person, wrong, until, tablet if known and known.own_tablet else "")
    says = together([SAYS, say("Wait {wait} s.", wait=wait) if wait else NOTHING])
    return TriedPin(refusal=NotSignedIn("wrong-pin", says, field="pin", wait_s=wait or None))


async def still_right(here: Here, checked: Pin, tablet: str) -> Pin | None:
    """The PIN that was found right, with the wrong ones before it forgotten; None if it was changed, or the person
    left, while it was checked."""
    known = await store.pin_of(here.db, here.site.id, checked.person.id, tablet)
    if known is None or not known.person.active or known.pin_hash != checked.pin_hash:
        return None
    await store.note_try(here.db, here.site.id, known.person.id, 0, None, tablet if known.own_tablet else "")
    return known


async def checked_pin(
    shop: Shop, person: str, pin: str, now: datetime, tablet: str,
    right_then: Callable[[Here, Pin], Awaitable[TriedPin]],
) -> tuple[Here, TriedPin]:  # fmt: skip
    """Check a PIN; where it is right go on with it, within a transaction, else say why not.

    One try at a time for a person, so that many at once wait as long as one after another. While a PIN is
    checked nothing in the store is held.
    """
    async with shop.store.transaction() as db:
        here = await here_of(db, shop.books, now)
        own = await store.pin_of(here.db, here.site.id, person, tablet)
    # Whoever tries elsewhere does not even stand before them in the queue.
    queue = f"person {person} {tablet}" if own is not None and own.own_tablet else f"person {person}"
    async with shop.turns.of(queue):
        async with shop.store.transaction() as db:
            here = await here_of(db, shop.books, now)
            known = await may_try(here, person, tablet)
        if isinstance(known, Problem):
            return here, TriedPin(refusal=known)
        right = await asyncio.to_thread(is_right, known, pin)
        async with shop.store.transaction() as db:
            here = await here_of(db, shop.books, now)
            return here, await (right_then(here, known) if right else _note_wrong(here, person, tablet))


async def after_own_pin(
    shop: Shop, person: str, pin: str, now: datetime, tablet: str, then: Callable[[Here], Awaitable[None]]
) -> None:  # fmt: skip
    """Do something after somebody gave their own PIN, within a transaction.

    Raises
    ------
    NotSignedIn
        For a wrong one.
    Conflict
        For one that somebody else gave, and that is for choosing one's own.
    """

    async def right_then(here: Here, known: Pin) -> TriedPin:
        right = await still_right(here, known, tablet)
        if right is None:
            return TriedPin(refusal=NotSignedIn("wrong-pin", SAYS))
        if right.once:
            return TriedPin(refusal=Conflict("choose-pin", CHOOSE))
        await then(here)
        return TriedPin()

    _, tried = await checked_pin(shop, person, pin, now, tablet, right_then)
    if tried.refusal is not None:
        raise tried.refusal
