"""A machine's life as a row of events, from its log: what was found, done, filled, changed and what happened to it.

Taps that found nothing are not told: they stand in the record of their inspection.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from types import MappingProxyType

from jutrel.core.defect.kinds import Accepted, Acknowledged, Asked, Isolated, Rechecked, Released
from jutrel.core.inspection.finding import Answer
from jutrel.core.inspection.kinds import (
    Abandoned,
    Answered,
    AnyRead,
    HandedOver,
    Opened,
    Photographed,
    Signed,
    Undone,
)
from jutrel.core.log.entry import Entry
from jutrel.core.machine.event import WorkedOn, done_said
from jutrel.core.machine.file import Filed, MeterCorrected, MeterReplaced, Pictured
from jutrel.core.machine.incident import Examined, Incident, happened_said
from jutrel.core.machine.lock import Locked, Unlocked
from jutrel.core.machine.putting_right import PuttingRight
from jutrel.core.procedure.greasing import Greased, Took
from jutrel.core.procedure.kinds import RUN, Filled
from jutrel.core.wording import Number, Said, as_written, say


class LifeGroup(StrEnum):
    """What an event is about."""

    INSPECTIONS = "inspections"
    WORK = "work"
    DEFECTS = "defects"
    HAPPENED = "happened"
    FILLED = "filled"
    FILE = "file"


KINDS_OF: Mapping[LifeGroup, tuple[str, ...]] = MappingProxyType(
    {
        LifeGroup.INSPECTIONS: ("opened", "signed", "abandoned"),
        LifeGroup.WORK: ("opened", "handed-over", "putting-right"),
        LifeGroup.DEFECTS: (
            "answered",
            "acknowledged",
            "asked",
            "isolated",
            "accepted",
            "released",
            "rechecked",
            "photographed",
        ),
        LifeGroup.HAPPENED: ("incident", "examined", "worked-on"),
        LifeGroup.FILLED: ("filled", "greased", "read", "measured"),
        LifeGroup.FILE: ("filed", "meter-replaced", "meter-corrected", "pictured", "locked", "unlocked"),
    }
)
"""Which kinds of entries tell of a group. Of `answered` those with a defect do, of readings those with a cure."""


@dataclass(frozen=True, slots=True)
class LifeNames:
    """What things are called, by id: places, failures, fluids, and the kinds of inspections."""

    places: Mapping[str, Said]
    modes: Mapping[str, Said]
    fluids: Mapping[str, Said]
    inspections: Mapping[str, Said]


@dataclass(frozen=True, slots=True)
class LifeEvent:
    """One event: the entry it stands in, when, by whom, what it was, and what the person wrote.

    `stream` is the inspection or run that it belongs to; `outcome` a verdict's word; `taken_back` by who wrote it.
    """

    entry: str
    seq: int
    at: datetime
    by: str
    group: LifeGroup
    says: Said
    words: str = ""
    checkpoint: str = ""
    stream: str = ""
    outcome: str = ""
    photo: str = ""
    taken_back: bool = False


def life_of(entries: Iterable[Entry], names: LifeNames, undone: Iterable[str] = ()) -> tuple[LifeEvent, ...]:
    """The events that a machine's entries tell, newest first; what is greased in one run is one event.

    Parameters
    ----------
    undone
        Ids of entries that were taken back later, beside those that `entries` say so of.
    """
    once = sorted({e.id: e for e in entries}.values(), key=lambda e: e.seq)
    back = {*undone, *(e.what.target for e in once if isinstance(e.what, Undone))}
    out: list[LifeEvent] = []
    greased: dict[str, list[Entry]] = {}
    for e in once:
        if isinstance(e.what, Greased):
            if e.what.took is Took.GREASED and e.id not in back:
                greased.setdefault(e.stream, []).append(e)
            elif e.what.took is Took.BLOCKED:
                out.append(_event(e, LifeGroup.FILLED, say("A place took no grease"), e.what.note, e.id in back))
        elif event := _told(e, names, e.id in back):
            out.append(event)
    for some in greased.values():
        says = say("{n} place greased", many="{n} places greased", n=len({e.what.point for e in some}))  # type: ignore[attr-defined]
        out.append(_event(some[-1], LifeGroup.FILLED, says))
    return tuple(sorted(out, key=lambda x: (x.at, x.seq), reverse=True))


def _event(
    e: Entry, group: LifeGroup, says: Said, words: str = "", back: bool = False, checkpoint: str = "", photo: str = ""
) -> LifeEvent:
    return LifeEvent(
        e.id, e.seq, e.time, e.by, group, says, words.strip(), checkpoint, e.stream, photo=photo, taken_back=back
    )


def _told(e: Entry, names: LifeNames, back: bool) -> LifeEvent | None:
    """What an entry tells, without the many that tell nothing of a machine's life."""

    def event(group: LifeGroup, says: Said, words: str = "", checkpoint: str = "", photo: str = "") -> LifeEvent:
        return _event(e, group, says, words, back, checkpoint, photo)

    def place(checkpoint: str) -> Said:
        return names.places.get(checkpoint, as_written(checkpoint))

    def named(mode: str) -> Said:
        return names.modes.get(mode, as_written(mode))

    match e.what:
        case Opened(purpose=purpose, hour_meter=hours):
            if purpose == RUN:
                return event(LifeGroup.WORK, say("Work begun at {h}", h=Number(hours, 1, "h")))
            kind = names.inspections.get(purpose, as_written(purpose))
            return event(LifeGroup.INSPECTIONS, say("{kind} begun at {h}", kind=kind, h=Number(hours, 1, "h")))
        case Signed(outcome=outcome):
            made = event(LifeGroup.INSPECTIONS, say("Inspection signed"))
            return LifeEvent(
                made.entry, made.seq, made.at, made.by, made.group, made.says, stream=e.stream, outcome=outcome
            )
        case Abandoned(reason=why):
            return event(LifeGroup.INSPECTIONS, say("Inspection given up"), why)
        case HandedOver(note=note):
            return event(LifeGroup.WORK, say("Handed over"), note)
        case Answered(checkpoint=at, answer=Answer.DEFECT, findings=found) if found:
            first = found[0]
            reported = say("Reported: {place}, {mode}", place=place(at), mode=named(first.failure_mode))
            right = say("Put right at once: {place}, {mode}", place=place(at), mode=named(first.failure_mode))
            words = ", ".join(w for f in found for w in (f.note, f.put_right.done if f.put_right else "") if w)
            return event(LifeGroup.DEFECTS, right if all(f.put_right for f in found) else reported, words, at)
        case AnyRead(checkpoint=at, put_right=right) if right is not None:
            return event(
                LifeGroup.FILLED, say("Put right: {place}", place=place(at)), f"{right.done} {right.amount}", at
            )
        case Photographed(photo=photo, checkpoint=at):
            return event(LifeGroup.DEFECTS, say("Photographed: {place}", place=place(at)), "", at, photo)
        case Acknowledged(checkpoint=at, failure_mode=mode, note=note):
            return event(LifeGroup.DEFECTS, say("Seen: {place}, {mode}", place=place(at), mode=named(mode)), note, at)
        case Asked(checkpoint=at, failure_mode=mode, note=note):
            return event(
                LifeGroup.DEFECTS, say("Help asked for: {place}, {mode}", place=place(at), mode=named(mode)), note, at
            )
        case Isolated(checkpoint=at, failure_mode=mode, how=how):
            return event(
                LifeGroup.DEFECTS, say("Repair begun: {place}, {mode}", place=place(at), mode=named(mode)), how, at
            )
        case Accepted(checkpoint=at, failure_mode=mode, reason=why):
            return event(
                LifeGroup.DEFECTS,
                say("Accepted within its limits: {place}, {mode}", place=place(at), mode=named(mode)),
                why,
                at,
            )
        case Released(checkpoint=at, failure_mode=mode, done=done, parts=parts):
            words = ", ".join(w for w in (done, parts) if w)
            return event(
                LifeGroup.DEFECTS, say("Repaired: {place}, {mode}", place=place(at), mode=named(mode)), words, at
            )
        case Rechecked():
            return event(LifeGroup.DEFECTS, say("A repair was checked and is good"))
        case Incident(what=what, note=note):
            return event(LifeGroup.HAPPENED, happened_said(what), note)
        case Examined(found=found):
            return event(LifeGroup.HAPPENED, say("Examined after what happened"), found)
        case WorkedOn(what=what, note=note):
            return event(LifeGroup.HAPPENED, done_said(what), note)
        case PuttingRight():
            return event(LifeGroup.WORK, say("Started to put something right"))
        case Filled(fluid=fluid, litres=litres):
            name = names.fluids.get(fluid, as_written(fluid))
            return event(LifeGroup.FILLED, say("Filled: {fluid}, {litres}", fluid=name, litres=Number(litres, 1, "L")))
        case Filed():
            return event(LifeGroup.FILE, say("Its file was changed"))
        case MeterReplaced(why=why):
            return event(LifeGroup.FILE, say("Another hour meter"), why)
        case MeterCorrected(why=why):
            return event(LifeGroup.FILE, say("A meter reading put right"), why)
        case Pictured(photo=photo):
            return event(LifeGroup.FILE, say("Photo of the machine"), "", "", photo)
        case Locked(why=why):
            return event(LifeGroup.FILE, say("Locked"), why)
        case Unlocked(reason=why):
            return event(LifeGroup.FILE, say("Lock taken off"), why)
        case _:
            return None
