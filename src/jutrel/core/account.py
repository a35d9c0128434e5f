"""The account of a site: who changed people, devices, models and the site itself, each line chained to the one before.

What happens to machines is in their logs. This is what happens to those who may say what happens to machines.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum
from types import MappingProxyType

from jutrel.core.log.codec import encode
from jutrel.core.wording import Said, say

START = "0" * 64
CONSOLE = "console"
"""Who did it at the server's own console, where nobody signs in."""


class AccountChange(StrEnum):
    """What was changed."""

    SITE_MADE = "site-made"
    ADDRESS_CHANGED = "address-changed"
    PERSON_ADDED = "person-added"
    ROLE_ASKED = "role-asked"
    ROLE_CHANGED = "role-changed"
    ROLE_ALONE = "role-alone"
    ROLE_DROPPED = "role-dropped"
    PIN_GIVEN = "pin-given"
    PIN_CHOSEN = "pin-chosen"
    KEY_ADDED = "key-added"
    KEY_ENDED = "key-ended"
    COMPANY_ADDED = "company-added"
    COMPANY_ENDED = "company-ended"
    PERSON_LEFT = "person-left"
    PERSON_BACK = "person-back"
    PERSON_ERASED = "person-erased"
    DEVICE_NAMED = "device-named"
    DEVICE_ENDED = "device-ended"
    MODEL_TAKEN = "model-taken"
    SHIFTS_CHANGED = "shifts-changed"
    SCHOOL_CHOSEN = "school-chosen"
    ERASURE_CHANGED = "erasure-changed"
    PUT_BACK = "put-back"
    SESSION_ENDED = "session-ended"


SAYS: Mapping[AccountChange, Said] = MappingProxyType(
    {
        AccountChange.SITE_MADE: say("The site was set up."),
        AccountChange.ADDRESS_CHANGED: say("An address of the site was given or taken away."),
        AccountChange.PERSON_ADDED: say("A person was added."),
        AccountChange.ROLE_ASKED: say("A role was asked for; another administrator has to confirm it."),
        AccountChange.ROLE_CHANGED: say("Somebody got another role."),
        AccountChange.ROLE_ALONE: say("One administrator alone gave a role that two should give."),
        AccountChange.ROLE_DROPPED: say("A role that was asked for was not given."),
        AccountChange.PIN_GIVEN: say("Somebody was given a new PIN."),
        AccountChange.PIN_CHOSEN: say("Somebody chose their own PIN."),
        AccountChange.KEY_ADDED: say("Somebody added a key of their own to sign in with."),
        AccountChange.KEY_ENDED: say("Somebody took a key away that they signed in with."),
        AccountChange.COMPANY_ADDED: say("Somebody added their account at the company to sign in by."),
        AccountChange.COMPANY_ENDED: say("Somebody took away their account at the company that they signed in by."),
        AccountChange.PERSON_LEFT: say("Somebody left: no sign-in any more."),
        AccountChange.PERSON_BACK: say("Somebody came back."),
        AccountChange.PERSON_ERASED: say("Somebody's name was erased."),
        AccountChange.DEVICE_NAMED: say("A device was given a key."),
        AccountChange.DEVICE_ENDED: say("A device's key was ended."),
        AccountChange.MODEL_TAKEN: say("A model file was taken in."),
        AccountChange.SHIFTS_CHANGED: say("The shifts were changed."),
        AccountChange.SCHOOL_CHOSEN: say("How something is done here was changed."),
        AccountChange.ERASURE_CHANGED: say("When names of people who left are erased was changed."),
        AccountChange.SESSION_ENDED: say("Somebody was signed out on a device."),
        AccountChange.PUT_BACK: say("A backup was put back. Tablets send again what it lacks."),
    }
)


OF_ONESELF = frozenset(
    {
        AccountChange.ROLE_CHANGED,
        AccountChange.PIN_GIVEN,
        AccountChange.PERSON_BACK,
        AccountChange.SESSION_ENDED,
    }
)
"""Of these a person is told when they sign in next, where somebody else did it."""


@dataclass(frozen=True, slots=True)
class AccountLine:
    """One line: who did what, about whom or what, when. `details`: from what to what; never a secret."""

    seq: int
    at: datetime
    by: str
    what: AccountChange
    about: str
    details: Mapping[str, str] = field(default_factory=dict)
    prev: str = START
    hash: str = ""


def line_hash(line: AccountLine) -> str:
    """SHA-256 over all of a line but its hash, in hex.

    >>> from datetime import UTC
    >>> line = AccountLine(1, datetime(2026, 5, 4, tzinfo=UTC), CONSOLE, AccountChange.SITE_MADE, "levee")
    >>> line_hash(line) == line_hash(line), len(line_hash(line))
    (True, 64)
    """
    plain = encode(line)
    plain.pop("hash")
    return hashlib.sha256(json.dumps(plain, sort_keys=True, separators=(",", ":")).encode()).hexdigest()


def broken_at(lines: Iterable[AccountLine]) -> int | None:
    """The first line of an account that is not what was written, or is missing; None: it is whole."""
    prev = START
    for n, line in enumerate(lines, 1):
        if line.seq != n or line.prev != prev or line.hash != line_hash(line):
            return n
        prev = line.hash
    return None
