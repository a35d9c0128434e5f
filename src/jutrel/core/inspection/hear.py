"""The core's one way from entries to a verdict: the same on the server, the command line and a device."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import cached_property

from jutrel.core.clearance.timetable import NO_TABLE, Timetable, life_until
from jutrel.core.defect.defect import Defect, defects_of
from jutrel.core.defect.report import Report, slots_of
from jutrel.core.defect.settle import Court
from jutrel.core.edition import Edition
from jutrel.core.grading.facts import Place
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.judged import reading_of
from jutrel.core.grading.taken import action_of, findings_of
from jutrel.core.grading.verdict import Hearing, Verdict, graded_before, judge, judge_more, report_grade
from jutrel.core.inspection.finding import Finding
from jutrel.core.inspection.kinds import Answered, AnyRead, Opened
from jutrel.core.inspection.look import Look, answers_at, fold_look, look_with, opening_of, pins_of
from jutrel.core.inspection.occasion import walk_on
from jutrel.core.log.entry import Entry
from jutrel.core.machine.file import with_own_limits
from jutrel.core.machine.meter import Meter
from jutrel.core.machine.model import Walk, checkpoint_of, walk_of
from jutrel.core.procedure.kinds import RUN
from jutrel.core.procedure.outcome import Stands, outcomes_of
from jutrel.core.wording import Said, say

SHIFT_HOURS = 10.0
Starts = Mapping[str, tuple[datetime, float]]


@dataclass(frozen=True, slots=True)
class Told:
    """What each of some entries reported: by which rules, at which place, in which shift."""

    edition: Edition
    place: Place
    start: tuple[datetime, float] | None
    by_entry: Mapping[str, tuple[Entry, list[Report]]]


@dataclass(frozen=True)
class Case:
    """A look and what has to be known beside it.

    `entries` are the look's. `others` are entries of other streams that name its reports or earlier ones;
    `earlier` the reports of other looks that are open or were named here. `starts`: when the shift of
    each look began and its length [h].
    """

    look: str
    edition: Edition
    entries: Sequence[Entry]
    meter: Meter = field(default_factory=Meter)
    others: Sequence[Entry] = ()
    earlier: Sequence[Report] = ()
    starts: Starts = field(default_factory=dict)
    saw: int = 0
    """Up to where its opening is known to have known the machine's log."""
    earliest: datetime | None = None
    """When it can have been begun at the earliest, where its device's clock was never measured."""
    timetable: Timetable = NO_TABLE
    """The site's shifts about its beginning."""
    said_until: datetime | None = None
    """Of a record that is read again: until when it said that it holds."""
    whole_until: datetime | None = None
    """Until when the whole inspection holds that a short one goes on from."""
    stood: tuple[datetime, ...] = ()
    """Of a run: when the machine's bus told that the oil pressure came to stand."""
    told: Told | None = field(default=None, compare=False, repr=False)
    """What its first entries reported, where that was worked out before."""

    @cached_property
    def opening(self) -> Entry | None:
        """The entry that opens the look, if it has arrived."""
        return opening_of(self.entries)

    @cached_property
    def opened(self) -> Opened:
        """What the opening said; the plainest one until it arrives."""
        return self.opening.what if self.opening and isinstance(self.opening.what, Opened) else Opened(0.0)

    @cached_property
    def whole(self) -> Walk:
        """Everything the unit had then: the model of that day with the unit's own figures."""
        pins = pins_of(self.entries)
        # What its file says it has, whatever a device knew; what a device knew besides is looked at, too.
        options = (pins.options | self.opened.options) & set(self.edition.model.options)
        return walk_of(with_own_limits(self.edition.model, pins.own_limits), options)

    @cached_property
    def hours(self) -> float | None:
        """The machine's hours [h] at the opening; None if it has not arrived or its reading was struck out."""
        return self.meter.hours_of(self.opening) if self.opening else None

    @cached_property
    def place(self) -> Place:
        """Conditions, hours, and what stands in the tanks by what this look read."""
        model = self.whole.model
        reserves = dict(model.reserves)
        for entry in self.entries:
            match entry.what:
                case AnyRead(checkpoint=checkpoint):
                    tank = HYDRAULIC_OIL if entry.what.answers else checkpoint_of(model, checkpoint).compartment
                    left = reading_of(entry, self.whole).more.get("reserve")
                    if tank and left is not None:
                        reserves[tank] = min(left, reserves.get(tank, left))
                case Answered(checkpoint=checkpoint, findings=findings):
                    c = checkpoint_of(model, checkpoint)
                    if c.compartment and any("low_level" in f.attributes and not f.put_right for f in findings):
                        reserves[c.compartment] = 0.0
                case _:
                    pass
        return Place(model, self.opened.conditions, self.hours, reserves)

    @cached_property
    def start(self) -> tuple[datetime, float] | None:
        """When the look's shift began, and its length [h]."""
        if self.look in self.starts:
            return self.starts[self.look]
        first = self.opening or min(self.entries, key=lambda e: (e.time, e.id), default=None)
        if first is None:
            return None
        if (shift := self.timetable.shift_of(first.time)) is not None:
            return shift.begins, (shift.ends - shift.begins).total_seconds() / 3600
        return first.time, self.opened.conditions.shift_hours if self.opening else SHIFT_HOURS

    @cached_property
    def until(self) -> datetime | None:
        """Until when it can hold by the clock, once it is signed: counted from its beginning; a short one not longer
        than the whole one that it goes on from."""
        if self.opening is None or self.said_until is not None:
            return self.said_until
        begun = min(self.opening.time, self.earliest or self.opening.time)
        own = life_until(self.timetable, begun, self.opened.conditions.shift_hours)
        kind = self.edition.kinds.get(self.opened.purpose)
        goes_on = kind is not None and kind.continues
        return min(own, self.whole_until) if goes_on and self.whole_until is not None else own

    @cached_property
    def answers(self) -> Mapping[str, tuple[Entry, ...]]:
        """Answers and readings by checkpoint."""
        return {at: tuple(all_) for at, all_ in answers_at(self.entries).items()}

    @cached_property
    def reports(self) -> tuple[Report, ...]:
        """What this look's answers and readings reported, each with its grade by the edition it is bound to."""
        out: list[Report] = []
        before = self._told_before()
        taken = [e for e in self.entries if isinstance(e.what, AnyRead) and not e.what.answers]
        for entries in (*self.answers.values(), taken):
            for entry in entries:
                was = before.get(entry.id)
                if was is not None and was[0] is entry:
                    out += was[1]
                    continue
                found = findings_of(entry, self.whole)
                for index, (finding, slot) in enumerate(zip(found, slots_of(found), strict=True)):
                    out.append(self._report(entry, index, slot, finding))
        if self.opened.purpose == RUN:
            has = {c.id: c for c in self.whole.checkpoints}
            # What somebody reported there in more words is the same thing: it joins that, and makes no twin.
            told = {r.checkpoint: replace(r.finding, put_right=None) for r in reversed(out)}
            for s in outcomes_of(self.entries, self.edition.steps, has, self.stood):
                out.append(self._stands(s, told.get(s.checkpoint, s.finding)))
        return tuple(out)

    def with_entries(self, fresh: Sequence[Entry]) -> Case:
        """The case with more entries of its own: what they cannot change is not worked out again.

        What an entry reported stays as it was graded, as long as the place is the same: conditions, hours, and what
        stands in the tanks.
        """
        more = replace(self, entries=(*self.entries, *fresh), told=None)
        opens = any(isinstance(e.what, Opened) or e.pins is not None for e in fresh)
        if opens or self.opening is None or self.opened.purpose == RUN:
            return more
        vars(more).update({key: value for key, value in vars(self).items() if key in LASTING})
        by_entry: dict[str, tuple[Entry, list[Report]]] = {
            e.id: (e, []) for e in self.entries if isinstance(e.what, (Answered, AnyRead))
        }
        for report in self.reports:
            by_entry[report.entry][1].append(report)
        vars(more)["told"] = Told(self.edition, self.place, self.start, by_entry)
        return more

    def _told_before(self) -> Mapping[str, tuple[Entry, list[Report]]]:
        """What entries reported by the same rules, at the same place and in the same shift."""
        told = self.told
        same = told is not None and told.edition is self.edition and told.start == self.start
        return told.by_entry if told is not None and same and told.place == self.place else {}

    def alone(self) -> Case:
        """The case by its own entries, whatever was said or found beside it."""
        own = replace(self, others=(), earlier=(), starts={})
        if self.look not in self.starts:
            vars(own).update({key: value for key, value in vars(self).items() if key in WORKED_OUT})
        return own

    def plainly_with(self, entry: Entry) -> Case:
        """The case with one more entry that reports nothing: what was worked out of the others stays."""
        more = replace(self, entries=(*self.entries, entry))
        vars(more).update({key: value for key, value in vars(self).items() if key in WORKED_OUT})
        if isinstance(entry.what, Answered):
            at = entry.what.checkpoint
            vars(more)["answers"] = {**self.answers, at: (*self.answers.get(at, ()), entry)}
        return more

    def _stands(self, s: Stands, finding: Finding) -> Report:
        """An outcome as a report: a Hold until a mechanic has found the cause and another person signs."""
        start, length = self.start or (s.entry.time, SHIFT_HOURS)
        return Report(
            entry=s.entry.id,
            index=0,
            look=self.look,
            checkpoint=s.checkpoint,
            slot=0,
            finding=finding,
            grade=Grade.HOLD,
            as_found=Grade.HOLD,
            why=s.says,
            limits=(),
            within_hours=None,
            by=s.entry.by,
            role=s.entry.role,
            at=s.entry.time,
            shift_start=start,
            shift_hours=length,
            hours=self.hours,
            may_put_right=False,
        )

    def _report(self, entry: Entry, index: int, slot: int, finding: Finding) -> Report:
        assert isinstance(entry.what, (Answered, AnyRead))
        c = self.whole.checkpoint(entry.what.checkpoint) or checkpoint_of(self.whole.model, entry.what.checkpoint)
        graded = report_grade(finding, c, self.place, self.edition.rulebook)
        start, length = self.start or (entry.time, SHIFT_HOURS)
        return Report(
            entry=entry.id,
            index=index,
            look=self.look,
            checkpoint=c.id,
            slot=slot,
            finding=finding,
            grade=graded.grade,
            as_found=graded.as_found,
            why=graded.why,
            limits=graded.limits,
            within_hours=graded.within_hours,
            by=entry.by,
            role=entry.role,
            at=entry.time,
            shift_start=start,
            shift_hours=length,
            hours=self.hours,
            may_put_right=graded.may_put_right,
            says=action_of(entry, self.whole),
            reading=entry.what.reading if isinstance(entry.what, AnyRead) and not entry.what.answers else "",
        )


HYDRAULIC_OIL = "hydraulic-oil"
WORKED_OUT = frozenset(name for name, value in vars(Case).items() if isinstance(value, cached_property))
LASTING = WORKED_OUT - {"place", "answers", "reports"}
"""What no entry changes but one that opens the look, or pins what it is judged by."""


@dataclass(frozen=True, slots=True)
class Heard:
    """What a case came to."""

    case: Case
    court: Court
    look: Look
    walk: Walk
    defects: tuple[Defect, ...]
    verdict: Verdict


def hear(case: Case, before: Heard | None = None) -> Heard:
    """Fold a look, settle what was reported, and judge.

    `before`: what it came to with some of its entries; what is as it was then is not graded again.
    """
    court = Court([*case.entries, *case.others], [*case.reports, *case.earlier])
    look = fold_look(case.entries, court)
    starts = dict(case.starts)
    if case.start is not None:
        starts[case.look] = case.start
    defects = defects_of(court, starts)
    walk = case.whole
    if case.opening is not None:
        walk = _walk(case, look, defects)
    hearing = _hearing(case, court, look, walk, defects)
    was = before.case if before is not None else None
    if before and was and (was.look, was.place) == (case.look, case.place) and was.edition is case.edition:
        hearing = replace(hearing, graded=graded_before(before.verdict, before.defects, before.walk))
    return Heard(case, court, look, walk, defects, judge(hearing))


def hear_more(heard: Heard, entry: Entry) -> Heard | None:
    """What `hear` would come to with one more entry; None if that takes hearing everything anew.

    An ordinary tap that finds nothing wrong changes one checkpoint: the others are not gone through again.
    """
    case = heard.case
    court = heard.court.plainly_with(entry)
    if court is None or entry.stream != case.look or entry.pins is not None:
        return None
    case = case.plainly_with(entry)
    answers = case.answers.get(entry.what.checkpoint, ()) if isinstance(entry.what, Answered) else ()
    look = look_with(heard.look, court, answers, entry)
    if look is None:
        return None
    walk = heard.walk
    new = look.heads.keys() - heard.look.heads.keys()
    # Whatever the walk takes as a matter of course, it takes for the same reason after it was answered.
    if new and not new <= {c.id for c in walk.checkpoints} - {b.checkpoint for b in walk.because}:
        walk = _walk(case, look, heard.defects)
    hearing = _hearing(case, court, look, walk, heard.defects)
    verdict = judge_more(hearing, heard.verdict, entry) if walk is heard.walk else None
    return Heard(case, court, look, walk, heard.defects, verdict or judge(hearing))


def _walk(case: Case, look: Look, defects: Sequence[Defect]) -> Walk:
    """The walk that the opening calls for, with what is open and what was noticed on the way."""
    kinds, questions = case.edition.kinds, case.edition.questions
    open_at = frozenset(d.key[0] for d in defects)
    return walk_on(case.whole, case.opened, look.pins, kinds, questions, open_at, frozenset(look.heads))


def _hearing(case: Case, court: Court, look: Look, walk: Walk, defects: tuple[Defect, ...]) -> Hearing:
    offset = case.meter.offset_at(case.opening.time) if case.opening else case.meter.offset
    return Hearing(case.look, look, walk, case.edition.rulebook, case.place, defects, court, offset, case.until)


def news_of(verdict: Verdict) -> dict[str, Said]:
    """What a look leaves for the next to look at again: what was found sound again, and what nobody saw."""
    news = {
        r.checkpoint: say("{grade} there was found sound again: see whether it holds.", grade=r.grade.name_said)
        for r in verdict.released
    }
    for item in verdict.items:
        if item.finding.failure_mode == "unseen":
            news[item.checkpoint] = say("Nobody could see it at the last look.")
    return news


def as_if_signed(case: Case, signature: Entry) -> Heard:
    """What the case comes to with a signature that is about to be stored."""
    return hear(replace(case, entries=[*case.entries, signature]))
