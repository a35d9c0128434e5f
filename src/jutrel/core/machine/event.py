"""What was done to a machine that ends what an inspection found: after it somebody looks at the whole machine again.

Service, welding or cutting, opened lines, a ride on a carrier, being moved by others: each can loosen, bend or lock
what was sound an hour before. So can another meter, other equipment or another figure in its file: then other things
have to be looked at. Common practice throughout.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Annotated

from jutrel.core.log.codec import Text
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import StreamKind, kind
from jutrel.core.machine.file import Filed, MeterReplaced
from jutrel.core.machine.incident import Incident, happened_said
from jutrel.core.people import WALKERS
from jutrel.core.wording import Said, say

KINDS = ("incident", "worked-on", "filed", "meter-replaced")
"""Kinds of entries that end what was found before them."""


class Done(StrEnum):
    """What was done to it."""

    SERVICED = "serviced"
    HOT_WORK = "hot-work"
    LINES_OPENED = "lines-opened"
    CARRIED = "carried"
    MOVED = "moved"


_SAID = {
    Done.SERVICED: say("It was serviced", context="done"),
    Done.HOT_WORK: say("It was welded, cut or ground", context="done"),
    Done.LINES_OPENED: say("A hydraulic, fuel, brake or air line was opened", context="done"),
    Done.CARRIED: say("It was carried on a truck or towed", context="done"),
    Done.MOVED: say("Somebody else moved it or worked with it", context="done"),
}


def done_said(what: Done) -> Said:
    """What was done, for people."""
    return _SAID[what]


@kind("worked-on", StreamKind.DEFECT, WALKERS)
@dataclass(frozen=True, slots=True)
class WorkedOn:
    """Something was done to the machine: what, and in words where and by whom. It is not taken back."""

    what: Done
    note: Annotated[str, Text(2000)] = ""


@dataclass(frozen=True, slots=True)
class Event:
    """Something that ends what was found before it: its entry and place in the log, when, and what, for people.

    `stops`: an engine that runs is stopped for it.
    """

    entry: str
    seq: int
    at: datetime
    what: Said
    stops: bool = False


CHANGED = say("Its file was changed: model, equipment or a figure; or it had left the site")
ANOTHER_METER = say("It got another hour meter")


def events_of(entries: Iterable[Entry]) -> Iterator[Event]:
    """What ended what was found before, in the order of the log. A file that says the same again is no event."""
    before: Filed | None = None
    for e in sorted({e.id: e for e in entries}.values(), key=lambda e: e.seq):
        match e.what:
            case Incident(what=what):
                yield Event(e.id, e.seq, e.time, happened_said(what), True)
            case WorkedOn(what=done):
                yield Event(e.id, e.seq, e.time, done_said(done))
            case MeterReplaced():
                yield Event(e.id, e.seq, e.time, ANOTHER_METER)
            case Filed() as filed:
                if before is not None and _is(before) != _is(filed):
                    yield Event(e.id, e.seq, e.time, CHANGED)
                before = filed
            case _:
                pass


def newest_event(entries: Iterable[Entry]) -> Event | None:
    """The last thing that ended what was found before it; None: nothing ever did."""
    last = None
    for last in events_of(entries):  # noqa: B007
        pass
    return last


def _is(f: Filed) -> tuple[object, ...]:
    """What makes a unit the one that was looked at; its name, bay and note do not."""
    return f.model_id, f.options, tuple(sorted(f.own_limits.items())), f.active


def ended_said(event: Event) -> Said:
    """That what was found before it holds no longer."""
    return say("{what}, after it was looked at. Walk round the whole machine before it works.", what=event.what)
