"""Locks on a machine: whoever works on it puts one on, and it is not started until each is off again.

Only who put a lock takes it off; a supervisor may, who has made sure that nobody is at the machine, and says how.
Both are common practice; the lock of metal on the isolator comes first.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated

from jutrel.core.defect.kinds import Isolated, Released
from jutrel.core.log.codec import EntryId, Text
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import StreamKind, kind
from jutrel.core.people import WALKERS
from jutrel.core.wording import NOTHING, Said, as_written, say

KINDS = ("locked", "unlocked", "isolated", "released")
"""Kinds of entries that put locks on and take them off."""


@kind("locked", StreamKind.FILE, WALKERS)
@dataclass(frozen=True, slots=True)
class Locked:
    """Somebody works on the machine, or where it would hurt them: what they do there."""

    why: Annotated[str, Text(400, 3)]


@kind("unlocked", StreamKind.FILE, WALKERS)
@dataclass(frozen=True, slots=True)
class Unlocked:
    """A lock is off: one's own, or as a supervisor another's, with how it was made sure that nobody is there."""

    lock: EntryId
    reason: Annotated[str, Text(400)] = ""


@dataclass(frozen=True, slots=True)
class Lock:
    """A lock that is on: the entry that put it there, whose it is, since when, what for in their words.

    `repair`: it came with a repair that began, and goes when the same person says that it is done.
    """

    id: str
    by: str
    at: datetime
    text: str
    repair: bool = False


def locks_of(entries: Iterable[Entry]) -> tuple[Lock, ...]:
    """The locks that are on, oldest first, from a machine's entries in any order."""
    once = {e.id: e for e in entries}
    off = {e.what.lock for e in once.values() if isinstance(e.what, Unlocked)}
    done = [e for e in once.values() if isinstance(e.what, Released)]
    out = []
    for e in once.values():
        if e.id in off:
            continue
        match e.what:
            case Locked(why=why):
                out.append(Lock(e.id, e.by, e.time, why))
            case Isolated(how=how) if not any(_ends(d, e) for d in done):
                out.append(Lock(e.id, e.by, e.time, how, True))
            case _:
                pass
    return tuple(sorted(out, key=lambda x: (x.at, x.id)))


def _ends(done: Entry, begun: Entry) -> bool:
    """Whether who began a repair says that it is done: another's word takes nobody's lock off."""
    a, b = done.what, begun.what
    assert isinstance(a, Released)
    assert isinstance(b, Isolated)
    same = (a.checkpoint, a.failure_mode) == (b.checkpoint, b.failure_mode)
    return same and done.by == begun.by and done.time > begun.time


def locked_said(locks: Iterable[Lock]) -> Said:
    """That it is locked, and what for; empty where no lock is on."""
    first = next(iter(locks), None)
    if first is None:
        return NOTHING
    why = as_written(first.text)
    return say("Do not start it: somebody works on it ({why}). Only who put the lock takes it off.", why=why)
