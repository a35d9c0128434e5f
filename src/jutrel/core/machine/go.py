"""Whether a machine may go at a time, and why not: what is open on it, whose locks, what happened, who cleared it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.look import LAPSES_AFTER, Status, lapsed
from jutrel.core.log.entry import Entry
from jutrel.core.machine.incident import since_said, waiting_said
from jutrel.core.machine.lock import locked_said
from jutrel.core.machine.state import LookSummary, Newest, Standing, Word
from jutrel.core.wording import NOTHING, Said, say


class Go(StrEnum):
    """Whether a machine can go. Uninspected: no valid signed look."""

    READY = "ready"
    READY_MENDS_DUE = "ready-mends-due"
    LIMITED = "limited"
    HELD = "held"
    WALKING = "walking"
    UNINSPECTED = "uninspected"


BY_GRADE = {
    Grade.SOUND: Go.READY,
    Grade.WATCH: Go.READY,
    Grade.MEND: Go.READY_MENDS_DUE,
    Grade.LIMIT: Go.LIMITED,
    Grade.HOLD: Go.HELD,
}


@dataclass(frozen=True, slots=True)
class Looks:
    """The newest looks at a machine: signed, one that cleared it, one that ended that, one under way, and the newest
    whole one that cleared it."""

    newest: LookSummary | None = None
    cleared: LookSummary | None = None
    ended: LookSummary | None = None
    current: LookSummary | None = None
    whole: LookSummary | None = None


def looks_named(newest: Newest, found: Mapping[str, LookSummary]) -> Looks:
    """The looks that a machine's row names, of those that were found."""
    n = newest
    return Looks(*(found.get(i or "") for i in (n.signed, n.cleared, n.ended, n.walking, n.whole)))


def may_go(standing: Standing, looks: Looks, kinds: Mapping[str, str], hours: float, now: datetime) -> tuple[Go, Word]:
    """Whether a machine may go at a time, and why (not). `kinds`: names of the kinds of inspection.

    What is open on the machine decides first, whichever look found it and whenever it arrived. A look adds
    what nobody could see, and says until when it cleared the machine. A lock comes before all of that: whoever
    put it may be under the machine.
    """
    if standing.locks:
        return Go.HELD, Word(Grade.HOLD, locked_said(standing.locks))
    if waits := waiting_said(standing.incidents):
        return Go.HELD, Word(Grade.HOLD, waits)
    if standing.word.grade is Grade.HOLD:
        return Go.HELD, standing.word
    current = looks.current
    if current is not None and lapsed(current.status, current.begun_at, now) is not Status.WALKING:
        current = None
    for look in (current, looks.newest):
        if look is not None and look.own.grade is Grade.HOLD:
            return Go.HELD, Word(Grade.HOLD, say("Do not start it: {why}", why=look.own.why))
    if current is not None:
        return Go.WALKING, Word(Grade.SOUND, current.why)
    if says := _clears_not(standing, looks, kinds, hours, now):
        return Go.UNINSPECTED, Word(Grade.SOUND, says)
    # A later once-over can make it worse, not better; and what one goes on from, it goes on from with its limits.
    own = [look.own for look in (looks.cleared, looks.newest, _base(looks)) if look is not None]
    worst = max([standing.word, *own], key=lambda w: w.grade)
    if worst.grade is Grade.HOLD:
        return Go.HELD, Word(Grade.HOLD, say("Do not start it: {why}", why=worst.why))
    if worst.grade is not standing.word.grade and worst.grade is Grade.LIMIT:
        return Go.LIMITED, Word(worst.grade, say("It works only within limits: {why}", why=worst.why), worst.limits)
    limits = tuple(
        dict.fromkeys([*standing.word.limits, *(t for w in own if w.grade is Grade.LIMIT for t in w.limits)])
    )
    return BY_GRADE[worst.grade], Word(worst.grade, standing.word.why, limits)


def _base(looks: Looks) -> LookSummary | None:
    """The whole inspection that a machine goes on: the one that cleared it, or the one that this goes on from."""
    if looks.cleared is not None and looks.cleared.continues:
        return looks.whole
    return looks.cleared


def _clears_not(standing: Standing, looks: Looks, kinds: Mapping[str, str], hours: float, now: datetime) -> Said:
    """Why no look clears the machine at a time; empty if one does."""
    cleared, base = looks.cleared, _base(looks)
    if cleared is None or cleared.signed_at is None:
        return say("It has not been walked round before a shift yet.")
    if says := _ended(standing, looks, base, kinds):
        return says
    if base is not None and base is not cleared and not _held_at(base, cleared.begun_at, cleared.hour_meter):
        return HELD_NO_LONGER
    if cleared.valid_until is None or cleared.valid_until < now:
        return say("The last inspection was for an earlier shift.")
    if cleared.valid_until_hour is not None and hours > cleared.valid_until_hour:
        return say("Ten hours of running have passed since the last inspection.")
    return NOTHING


HELD_NO_LONGER = say(
    "A short inspection goes on from a whole one, and that one held no longer. Walk round the whole machine."
)


def _ended(standing: Standing, looks: Looks, base: LookSummary | None, kinds: Mapping[str, str]) -> Said:
    """Why a whole inspection no longer holds, whatever the hour; empty if it does."""
    if base is None or base.signed_at is None:
        return say("A short inspection goes on from a whole one, and there is none. Walk round the whole machine.")
    if says := _since(standing, base):
        return says
    if looks.ended is not None and _ends(looks.ended, base):
        name = Said(kinds.get(looks.ended.kind, looks.ended.kind), (), "inspection")
        return say("{kind}: what was found before holds no longer. Walk it before it works.", kind=name)
    return NOTHING


def _held_at(base: LookSummary, at: datetime, hours: float) -> bool:
    """Whether a whole inspection still held at a time and at these hours of the machine [h]."""
    if base.valid_until is None or base.valid_until < at:
        return False
    return base.valid_until_hour is None or hours <= base.valid_until_hour


def _since(standing: Standing, base: LookSummary) -> Said:
    incidents = standing.incidents
    if incidents is None or incidents.after(base.begun_at, base.begun_received, base.clock_known):
        return NOTHING
    return since_said(incidents)


def struck(standing: Standing, looks: Looks) -> Said:
    """That something happened to the machine since the whole inspection that it goes on; empty if nothing did.

    Where there is no such inspection, whatever ever happened to it counts.
    """
    base = _base(looks)
    if base is None:
        return since_said(standing.incidents) if standing.incidents else NOTHING
    return _since(standing, base)


def short_clears_not(standing: Standing, looks: Looks, kinds: Mapping[str, str], hours: float, at: datetime) -> Said:
    """Why a short inspection begun at a time and these hours [h] clears nothing; empty if it can clear the machine."""
    if says := _ended(standing, looks, looks.whole, kinds):
        return says
    whole = looks.whole
    return NOTHING if whole is None or _held_at(whole, at, hours) else HELD_NO_LONGER


def barred_said(
    standing: Standing, looks: Looks, kinds: Mapping[str, str], look: str, opening: Entry | None, short_h: float | None
) -> Said:
    """Why a machine is not started whatever this look found; empty if nothing is so.

    `look`: its id, since only the newest ones count for today; `short_h`: for a short inspection, the hours of the
    machine [h] at which it was begun.
    """
    if standing.locks:
        return locked_said(standing.locks)
    today = {x.id for x in (looks.newest, looks.cleared, looks.current) if x is not None}
    if opening is None or look not in today:
        return NOTHING
    if says := waiting_said(standing.incidents):
        return says
    if short_h is not None:
        return short_clears_not(standing, looks, kinds, short_h, opening.time)
    incidents = standing.incidents
    received = opening.received_at or opening.time
    if incidents is None or incidents.after(opening.time, received, opening.offset_ms is not None):
        return NOTHING
    return since_said(incidents)


MOMENT = timedelta(microseconds=1)


def changes_at(looks: Looks, now: datetime) -> datetime | None:
    """When `may_go` next says something else though nobody did anything; None: never."""
    ends = []
    if looks.current is not None:
        ends.append(looks.current.begun_at + LAPSES_AFTER + MOMENT)
    if looks.cleared is not None and looks.cleared.valid_until is not None:
        ends.append(looks.cleared.valid_until + MOMENT)
    return min((at for at in ends if at > now), default=None)


def _ends(ended: LookSummary, cleared: LookSummary) -> bool:
    """Whether a look of a kind that ends a clearance came after the one that gave it.

    Where the device's clock was never measured its time is not believed: then the arrival decides, too.
    """
    if ended.begun_at > cleared.begun_at:
        return True
    if ended.clock_known or cleared.signed_received is None:
        return False
    return ended.begun_received > cleared.signed_received
