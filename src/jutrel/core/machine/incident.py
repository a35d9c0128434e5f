"""Incidents: what happened to a machine after it was looked at, so that what was found before holds no longer.

An incident ends what cleared the machine at once; a whole inspection that was begun after it clears it anew. After one
that can have weakened what cannot be seen from outside (it lay on its side, touched a line, burned, hurt somebody)
a mechanic or a supervisor examines it first and answers for that by name. Both are common practice; the makers of
protective structures and the local rules say what has to be examined, and by whom.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Annotated

from jutrel.core.defect.kinds import Told
from jutrel.core.log.codec import EntryId, Text
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import StreamKind, kind
from jutrel.core.people import WALKERS, Role
from jutrel.core.wording import NOTHING, Said, as_written, say

KINDS = ("incident", "examined")
"""Kinds of entries that tell of incidents."""


class IncidentKind(StrEnum):
    """What happened. Struck: it hit something, or something hit it. Sunk: it stood in water or sank in."""

    TIPPED = "tipped"
    LINE = "line"
    FIRE = "fire"
    HURT = "hurt"
    STRUCK = "struck"
    SLID = "slid"
    SUNK = "sunk"
    OTHER = "other"


GRAVE = frozenset({IncidentKind.TIPPED, IncidentKind.LINE, IncidentKind.FIRE, IncidentKind.HURT})
"""What has to be examined before anybody walks round it for work."""

EXAMINERS = frozenset({Role.MECHANIC, Role.SUPERVISOR})
"""Who examines a machine after an incident, or answers for it that somebody licensed has."""

_SAID = {
    IncidentKind.TIPPED: say("It tipped over or rolled", context="incident"),
    IncidentKind.LINE: say("It touched or came too near to a power line, or hit a buried one", context="incident"),
    IncidentKind.FIRE: say("It burned or smoked", context="incident"),
    IncidentKind.HURT: say("Somebody was hurt or nearly hurt", context="incident"),
    IncidentKind.STRUCK: say("It hit something, or something hit it", context="incident"),
    IncidentKind.SLID: say("It slid, dropped or lost its load", context="incident"),
    IncidentKind.SUNK: say("It sank in, or stood in deep water", context="incident"),
    IncidentKind.OTHER: say("Something else happened to it", context="incident"),
}


def happened_said(what: IncidentKind) -> Said:
    """What happened, for people."""
    return _SAID[what]


@kind("incident", StreamKind.DEFECT, WALKERS)
@dataclass(frozen=True, slots=True)
class Incident:
    """Something happened to the machine: what, and in words how and where. It is not taken back."""

    what: IncidentKind
    note: Annotated[str, Text(2000)] = ""


@kind("examined", StreamKind.DEFECT, EXAMINERS)
@dataclass(frozen=True, slots=True)
class Examined:
    """A competent person examined the machine after an incident: what they looked at, and what they found."""

    incident: EntryId
    found: Told


@dataclass(frozen=True, slots=True)
class IncidentTold:
    """An incident as it stands: the entry that told it, who and when, and who examined the machine after it."""

    id: str
    what: IncidentKind
    note: str
    by: str
    at: datetime
    clock_known: bool
    received: datetime
    found: str = ""
    examined_by: str | None = None
    examined_at: datetime | None = None

    @property
    def waits(self) -> bool:
        """Whether nobody may start the machine before somebody has examined it."""
        return self.what in GRAVE and self.examined_by is None


@dataclass(frozen=True, slots=True)
class Incidents:
    """What a machine's row needs of its incidents: the newest, those that wait to be examined, and since when a
    look has to have been begun to be good again. `unclocked`: the newest arrival of one whose device's clock was
    never measured; its own time is not believed.
    """

    newest: IncidentTold
    waiting: tuple[IncidentTold, ...]
    unclocked: datetime | None

    def after(self, begun_at: datetime, begun_received: datetime, clock_known: bool) -> bool:
        """Whether a look is good in spite of them: begun after all of them, by the clocks and where a clock is not
        known by the arrival, too."""
        if begun_at <= self.newest.at:
            return False
        if not clock_known and begun_received <= self.newest.received:
            return False
        return self.unclocked is None or begun_received > self.unclocked


def happenings(entries: Iterable[Entry]) -> tuple[IncidentTold, ...]:
    """A machine's incidents, oldest first, from its entries in any order; each entry counts once."""
    once = {e.id: e for e in entries}
    examined: dict[str, Entry] = {}
    for e in sorted(once.values(), key=lambda e: (e.time, e.id)):
        if isinstance(e.what, Examined):
            examined[e.what.incident] = e
    out = []
    for e in once.values():
        if not isinstance(e.what, Incident):
            continue
        after = examined.get(e.id)
        found = after.what.found if after is not None and isinstance(after.what, Examined) else ""
        out.append(
            IncidentTold(
                e.id, e.what.what, e.what.note, e.by, e.time, e.offset_ms is not None, e.received_at or e.time,
                found, after.by if after else None, after.time if after else None,
            )
        )  # fmt: skip
    return tuple(sorted(out, key=lambda h: (h.at, h.id)))


def incidents_of(entries: Iterable[Entry]) -> Incidents | None:
    """What a machine's row needs of its incidents; None: nothing ever happened to it."""
    all_ = happenings(entries)
    if not all_:
        return None
    unclocked = max((h.received for h in all_ if not h.clock_known), default=None)
    return Incidents(all_[-1], tuple(h for h in all_ if h.waits), unclocked)


def waiting_said(incidents: Incidents | None) -> Said:
    """That it has to be examined first, and why; empty where nothing waits."""
    if incidents is None or not incidents.waiting:
        return NOTHING
    first = incidents.waiting[0]
    what = happened_said(first.what)
    if first.note.strip():
        what = say("{what} ({note})", what=what, note=as_written(first.note))
    return say(
        "Do not start it: {what}. A mechanic or a supervisor has to examine it, and somebody has to walk round the "
        "whole machine.",
        what=what,
    )


def since_said(incidents: Incidents) -> Said:
    """That what was found before holds no longer."""
    what = happened_said(incidents.newest.what)
    return say("Stop it: {what}, after it was looked at. Walk round the whole machine before it works on.", what=what)
