"""What a machine works within that no single defect says: several things together, or what nobody could see.

A supervisor accepts it by name for a shift, as with a defect's own limit; common practice. Whatever is said otherwise
afterwards is accepted anew.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated

from jutrel.core.defect.kinds import Told
from jutrel.core.log.codec import Text
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import StreamKind, kind
from jutrel.core.people import Role
from jutrel.core.wording import Said

KINDS = ("limits-accepted",)
KEPT = 8
"""So many of them are kept in a machine's row: what stands on it is one."""
Name = Annotated[str, Text(16, 16, r"[0-9a-f]{16}")]


@kind("limits-accepted", StreamKind.DEFECT, frozenset({Role.SUPERVISOR}))
@dataclass(frozen=True, slots=True)
class LimitsAccepted:
    """A supervisor accepts by name what the machine works within; `limits`: the name of what it said then."""

    limits: Name
    reason: Told


@dataclass(frozen=True, slots=True)
class AcceptedAs:
    """By what name limits were accepted, by whom and when."""

    limits: str
    by: str
    at: datetime


def name_of(limits: Iterable[Said]) -> str:
    """The name of what limits say: another for other words; empty for none.

    >>> from jutrel.core.wording import say
    >>> name_of([]), len(name_of([say("Daylight only.")]))
    ('', 16)
    """
    said = "\n".join(str(x) for x in limits)
    return hashlib.sha256(said.encode()).hexdigest()[:16] if said else ""


def accepted_as(entries: Iterable[Entry]) -> tuple[AcceptedAs, ...]:
    """What was accepted on a machine, each name once with its newest acceptance, the newest first."""
    newest: dict[str, tuple[int, AcceptedAs]] = {}
    for e in sorted({e.id: e for e in entries}.values(), key=lambda e: e.seq):
        if isinstance(e.what, LimitsAccepted) and not e.stale and e.role is Role.SUPERVISOR:
            newest[e.what.limits] = e.seq, AcceptedAs(e.what.limits, e.by, e.time)
    return tuple(a for _, a in sorted(newest.values(), key=lambda x: x[0], reverse=True)[:KEPT])
