"""May it start, may it work: what proves it, or what is missing and the first step out of it.

Nothing is ready because no objection was found. Each premise is looked for; one that is not there, is unknown, out of
order or from a clock that cannot be trusted is a lack, and with a lack the answer is no.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from jutrel.core.clearance.answer import Act, Clearance, ClearanceAnswer, Premise, Says, Unproven
from jutrel.core.clearance.looks import Looks
from jutrel.core.clearance.timetable import RUNNING_H, Timetable, life_until
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import UNACCEPTED
from jutrel.core.inspection.look import LAPSES_AFTER, Status, lapsed
from jutrel.core.machine.event import ended_said
from jutrel.core.machine.incident import waiting_said
from jutrel.core.machine.limits import name_of
from jutrel.core.machine.lock import locked_said
from jutrel.core.machine.putting_right import LASTS, Permit, against
from jutrel.core.machine.state import LookSummary, Standing
from jutrel.core.wording import Number, Said, say

CLOCK = timedelta(minutes=2)
"""So far a clock may stand behind the newest entry without being told: two computers are never quite alike."""
METER_H = 0.05
"""What a reading of the hour meter may be short of the one before [h]: the last digit."""


@dataclass(frozen=True, slots=True)
class Machine:
    """Everything that says whether a machine may start or work.

    Parameters
    ----------
    standing
        What is open on it, locks, what happened to it, and by which edition that was judged.
    looks
        Its inspections that count.
    hours
        Over all meters [h], the furthest that was read.
    edition
        The rules and the model that are in force for it now.
    timetable
        The site's shifts about now, UTC.
    active
        Whether it is on the site.
    kinds
        Names of the kinds of inspection.
    """

    standing: Standing
    looks: Looks
    hours: float
    edition: str
    timetable: Timetable
    active: bool = True
    kinds: Mapping[str, str] = field(default_factory=dict)


START = ("here", "time", "free", "nothing-bad", "whole", "since", "as-it-is", "shift", "hours", "yours")
"""What has to be proven before it is cranked."""
PUT_RIGHT = ("time", "here", "free", "named", "lately", "allowed")
"""What has to be proven before it is started to put it right."""
WORK = (*START, "limits")
"""And before it works, as far as the machine goes: the tests of its run come beside it."""


def clearance(m: Machine, now: datetime, asks: str = "") -> Clearance:
    """Whether a machine may be started and may work at a time, for whoever asks; nobody named: for whoever it is.

    Start: it may be cranked, warmed up and tested. Work: the machine itself allows it.
    """
    found = [*_here(m, now), *_free(m), *_nothing_bad(m, now), *_walked(m, now, asks)]
    start = ClearanceAnswer.of(found, START)
    work = ClearanceAnswer.of([*found, *_limits(m, now)], WORK)
    moved, over = _moved(m, now, asks)
    return Clearance(
        start=start, work=work, grade=_grade(m, start), limits=_limits_said(m), why=_why(m, start),
        whose=_whose(m, start), put_right=_put_right(m, now, asks), moved=moved, lately_over=over, shared=_shared(m),
    )  # fmt: skip


def _put_right(m: Machine, now: datetime, asks: str) -> ClearanceAnswer:
    """Whether whoever asks may start it to put it right: what holds it, and nothing else, is set aside for that."""
    s, permit = m.standing, _permit(m, asks)
    found = [*_here(m, now), *_free(m)]
    if permit is None:
        return ClearanceAnswer.of([*found, Unproven("named", UNNAMED, Act.SAY)], PUT_RIGHT)
    found.append(Premise("named", permit.says, permit.entry))
    until = min(permit.at + LASTS, m.timetable.until(permit.at))
    if now > until or now < permit.at - CLOCK:
        found.append(Unproven("hour-over", LONG_AGO, Act.SAY, entry=permit.entry))
    elif s.event is not None and s.event.seq > permit.seq:
        found.append(Unproven("lately", ended_said(s.event), Act.SAY, entry=permit.entry))
    else:
        found.append(Premise("lately", say("Nobody was near it when it was said."), permit.entry, until))
    if s.judged_by != m.edition:
        found.append(Unproven("judged", RULES_CHANGED, Act.JUDGE))
    elif no := against(permit, s.holding):
        found.append(Unproven("allowed", no, Act.REPAIR, entry=permit.entry))
    elif s.holding:
        found.append(Premise("allowed", say("What holds it allows it."), permit.entry))
    else:
        found.append(Unproven("allowed", say("Nothing holds it that is put right with power."), Act.WALK))
    # What nobody could see is seen first: it may be what hurts whoever starts it.
    found += [x for x in _nothing_bad(m, now) if isinstance(x, Unproven) and x.key == "unseen"]
    return ClearanceAnswer.of(found, PUT_RIGHT)


def _whose(m: Machine, start: ClearanceAnswer) -> frozenset[str]:
    """For whom it is cleared: whoever walked round it."""
    cleared = m.looks.cleared
    if not start.may or cleared is None:
        return frozenset()
    return frozenset(p for p in (cleared.begun_by, cleared.signed_by) if p is not None)


def _moved(m: Machine, now: datetime, asks: str) -> tuple[bool, bool]:
    """Whether it is moved to put it right, and whether the hour for that is over since a few minutes."""
    permit = _permit(m, asks)
    if permit is None:
        return False, False
    return bool(permit.place), now <= min(permit.at + LASTS, m.timetable.until(permit.at)) + PUT_DOWN


def _permit(m: Machine, asks: str) -> Permit | None:
    """The newest word of whoever asks that they start it to put it right."""
    return next((p for p in m.standing.permits if p.by == asks), None)


PUT_DOWN = timedelta(minutes=15)
"""So long something is put down and parked in peace; after that an engine that runs is stopped."""


UNNAMED = say("Say first for which cure it is started, and that nobody is near.")
LONG_AGO = say("It was said more than an hour ago that nobody is near. Walk round it and say it anew.")


def _here(m: Machine, now: datetime) -> Iterator[Says]:
    """That it is here, and that the time can be believed."""
    newest = m.standing.newest_at
    if newest is not None and now < newest - CLOCK:
        says = say("The server's clock stands behind what was written here last. Nothing is judged until it is right.")
        yield Unproven("clock", says, Act.CLOCK)
    else:
        yield Premise("time", say("The server's clock goes on from what was written here last."))
    if m.active:
        yield Premise("here", say("It is on the site."))
    else:
        yield Unproven("off-site", say("It has left the site: it is taken in again and walked round first."), Act.FILE)


def _free(m: Machine) -> Iterator[Says]:
    """That nobody works on it, and that nothing waits to be examined."""
    s = m.standing
    lacks: list[Says] = []
    if s.locks:
        lacks.append(Unproven("locked", locked_said(s.locks), Act.UNLOCK, held=True, entry=s.locks[0].id))
    if waits := waiting_said(s.incidents):
        assert s.incidents is not None
        lacks.append(Unproven("waits", waits, Act.EXAMINE, held=True, entry=s.incidents.waiting[0].id))
    yield from lacks or [Premise("free", say("It is free of locks, and all that had to be examined was."))]


def _nothing_bad(m: Machine, now: datetime) -> Iterator[Says]:
    """That no Hold stands, and that somebody saw whatever a life depends on."""
    s = m.standing
    lacks: list[Says] = []
    if s.word.grade is Grade.HOLD:
        lacks.append(Unproven("hold", s.word.why, Act.REPAIR, held=True))
    # What a look says beside the open defects: that of the one under way and of the newest, whatever cleared it.
    current = _current(m, now)
    looks = (current, m.looks.newest, m.looks.cleared, m.looks.base)
    own = next((k.own.why for k in looks if k is not None and k.own.grade is Grade.HOLD), None)
    if s.unseen:
        first = s.unseen[0]
        says = say("Do not start it: {name}. {why}", name=Said(first.name, (), "checkpoint"), why=first.why)
        lacks.append(Unproven("unseen", says, Act.SEE, held=True, entry=first.entry))
    elif own is not None:
        # Of one that is under way it is said there that somebody has seen it, or that one is ended.
        act = Act.FINISH if current is not None and current.own.grade is Grade.HOLD else Act.SEE
        lacks.append(Unproven("unseen", say("Do not start it: {why}", why=own), act, held=True))
    yield from lacks or [Premise("nothing-bad", s.word.why)]


def _walked(m: Machine, now: datetime, asks: str) -> Iterator[Says]:
    """That a whole inspection of this unit as it is now holds, that nothing happened since, and whose it is."""
    if (current := _current(m, now)) is not None:
        yield Unproven("walking", current.why, Act.FINISH)
    cleared, base = m.looks.cleared, m.looks.base
    if cleared is None or cleared.signed_at is None or base is None or base.signed_at is None:
        never = say("It has not been walked round before a shift yet.")
        yield Unproven("never", never, Act.WALK) if cleared is None else Unproven("no-whole", NO_WHOLE, Act.WALK)
        if (event := m.standing.event) is not None:
            yield Unproven("event", ended_said(event), Act.WALK, entry=event.entry, ends=event.stops)
        return
    yield from _since(m, base)
    yield from _as_it_is(m, base)
    if base is cleared or _held_at(m, base, cleared):
        yield Premise("whole", say("The whole machine was walked round."), base.id)
    else:
        yield Unproven("short", HELD_NO_LONGER, Act.WALK, entry=cleared.id)
    yield from _in_its_life(m, base, cleared, now)
    if not asks or asks in (cleared.begun_by, cleared.signed_by):
        yield Premise("yours", say("Whoever runs it has walked round it."), cleared.id)
    else:
        yield Unproven("other-operator", OTHER_OPERATOR, Act.SHORT, entry=cleared.id)


NO_WHOLE = say("A short inspection goes on from a whole one, and there is none. Walk round the whole machine.")
HELD_NO_LONGER = say(
    "A short inspection goes on from a whole one, and that one held no longer. Walk round the whole machine."
)
OTHER_OPERATOR = say(
    "Somebody else walked round it. Look at it yourself first: a change of operator is a new inspection."
)
RULES_CHANGED = say("Rules or model were changed. It is judged anew in a moment.")


def _since(m: Machine, base: LookSummary) -> Iterator[Says]:
    """That nothing happened since: the opening knew the machine's log up to whatever ends an inspection."""
    event, ended = m.standing.event, m.looks.ended
    lacks: list[Says] = []
    if event is not None and base.saw < event.seq:
        lacks.append(Unproven("event", ended_said(event), Act.WALK, entry=event.entry, ends=event.stops))
    if ended is not None and ended.id != base.id and base.saw < ended.opened_seq:
        name = Said(m.kinds.get(ended.kind, ended.kind), (), "inspection")
        says = say("{kind}: what was found before holds no longer. Walk it before it works.", kind=name)
        lacks.append(Unproven("ended", says, Act.WALK, entry=ended.id))
    yield from lacks or [Premise("since", say("Nothing happened to it since."), base.id)]


def _as_it_is(m: Machine, base: LookSummary) -> Iterator[Says]:
    """That everything was looked at that this unit, as it is now, has by the rules in force now."""
    if m.standing.judged_by != m.edition:
        yield Unproven("judged", RULES_CHANGED, Act.JUDGE)
        return
    if m.standing.missing:
        names = tuple(Said(n, (), "checkpoint") for n in m.standing.missing[:3])
        says = say("Nobody has looked at: {names}. Walk round the whole machine.", names=names)
        yield Unproven("missing", says, Act.WALK, entry=base.id)
        return
    yield Premise("as-it-is", say("It was walked round as it is."), base.id)


def _in_its_life(m: Machine, base: LookSummary, cleared: LookSummary, now: datetime) -> Iterator[Says]:
    """That its shift is not over, and that it has not run ten hours since."""
    until = until_of(m, base, cleared)
    if until < now:
        yield Unproven("over", say("It was last looked at for an earlier shift."), Act.WALK, entry=base.id)
    elif now < base.begun - CLOCK:
        yield Unproven(
            "clock", say("It was walked round later than now, says its clock. Walk round it again."), Act.WALK
        )
    else:
        yield Premise("shift", say("Its shift is not over."), cleared.id, until)
    hour = base.hour_meter + RUNNING_H
    if m.hours > base.hour_meter + METER_H and m.standing.furthest_seq < base.opened_seq:
        says = say(
            "The hour meter was read as {high} earlier and as {low} at the last inspection. Correct the wrong reading.",
            high=Number(m.hours, 1, "h"),
            low=Number(base.hour_meter, 1, "h"),
        )
        yield Unproven("meter", says, Act.METER, entry=base.id)
    elif m.hours > hour:
        yield Unproven(
            "ran", say("Ten hours of running have passed since the last inspection."), Act.WALK, entry=base.id
        )
    else:
        yield Premise("hours", say("It has run less than ten hours since."), base.id, None, hour)


def until_of(m: Machine, base: LookSummary, cleared: LookSummary) -> datetime:
    """Until when an inspection holds by the clock: its shift, or the shorter one its opening spoke of; a short one
    never longer than the whole one that it goes on from."""
    return min(life_until(m.timetable, k.begun, k.shift_hours) for k in (base, cleared))


def _held_at(m: Machine, base: LookSummary, short: LookSummary) -> bool:
    """Whether a whole inspection held at its own place in the log when a short one was begun."""
    return (
        base.signed_seq < short.opened_seq
        and short.begun <= until_of(m, base, base)
        and short.hour_meter <= base.hour_meter + RUNNING_H
    )


def _limits(m: Machine, now: datetime) -> Iterator[Says]:
    """That a supervisor accepted what it works within, for this shift."""
    s = m.standing
    shared = name_of(_shared(m))
    lacks: list[Says] = []
    if s.limited and s.accepted_at is None:
        lacks.append(Unproven("unaccepted", UNACCEPTED, Act.ACCEPT))
    elif s.accepted_at is not None and m.timetable.until(s.accepted_at) < now:
        lacks.append(Unproven("accepted-earlier", ACCEPTED_EARLIER, Act.ACCEPT))
    if shared:
        word = next((a for a in s.accepted if a.limits == shared), None)
        if word is None:
            lacks.append(Unproven("limits-unaccepted", UNACCEPTED, Act.ACCEPT, entry=shared))
        elif m.timetable.until(word.at) < now:
            lacks.append(Unproven("limits-accepted-earlier", ACCEPTED_EARLIER, Act.ACCEPT, entry=shared))
    if lacks:
        yield from lacks
    elif s.limited or shared:
        yield Premise("limits", say("A supervisor accepted its limits for this shift."))
    else:
        yield Premise("limits", say("Nothing on it waits for a supervisor's word."))


def _shared(m: Machine) -> tuple[Said, ...]:
    """What it works within that no single defect says."""
    own = [t for grade, why, limits in _own(m) if grade is Grade.LIMIT for t in limits or (why,)]
    return tuple(dict.fromkeys([*m.standing.together, *own]))


ACCEPTED_EARLIER = say("A supervisor said yes for an earlier shift. It stands until one says yes for this shift.")


def _current(m: Machine, now: datetime) -> LookSummary | None:
    look = m.looks.current
    if look is None or lapsed(look.status, look.begun_at, now) is not Status.WALKING:
        return None
    return look


def _own(m: Machine) -> list[tuple[Grade, Said, tuple[Said, ...]]]:
    """What the looks say beside the open defects. A later once-over can make it worse, not better."""
    looks = [k for k in (m.looks.cleared, m.looks.newest, m.looks.base) if k is not None]
    return [(k.own.grade, k.own.why, k.own.limits) for k in looks]


def _grade(m: Machine, start: ClearanceAnswer) -> Grade:
    """The worst of what stands on it."""
    if start.held:
        return Grade.HOLD
    return max([m.standing.word.grade, *(grade for grade, _, _ in _own(m))])


def _limits_said(m: Machine) -> tuple[Said, ...]:
    own = [t for grade, _, limits in _own(m) if grade is Grade.LIMIT for t in limits]
    return tuple(dict.fromkeys([*m.standing.word.limits, *own]))


def _why(m: Machine, start: ClearanceAnswer) -> Said:
    """The one sentence: the first lack, else what is open, told as one."""
    held = [x for x in start.lacks if x.held]
    if lacks := held or list(start.lacks):
        return lacks[0].says
    word = m.standing.word
    worst = max(_own(m), key=lambda own: own[0], default=None)
    if worst is not None and worst[0] is Grade.LIMIT and word.grade is not Grade.LIMIT:
        return say("It works only within limits: {why}", why=worst[1])
    return word.why


MOMENT = timedelta(microseconds=1)


def changes_at(m: Machine, now: datetime) -> datetime | None:
    """When `clearance` next says something else though nobody did anything; None: never."""
    ends = []
    if m.looks.current is not None:
        ends.append(m.looks.current.begun_at + LAPSES_AFTER + MOMENT)
    if m.looks.cleared is not None and m.looks.base is not None:
        ends.append(until_of(m, m.looks.base, m.looks.cleared) + MOMENT)
    if m.standing.newest_at is not None:
        ends.append(m.standing.newest_at - CLOCK)
    ends += [t for s in m.timetable.shifts for t in (s.begins, s.ends + MOMENT)]
    return min((at for at in ends if at > now), default=None)
