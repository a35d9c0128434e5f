"""May this machine be started? One verdict from all answers, and the reasons for it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from enum import StrEnum

from jutrel.core.clearance.timetable import RUNNING_H
from jutrel.core.defect.authority import SetAsideBy
from jutrel.core.defect.defect import Defect
from jutrel.core.defect.settle import Court, Ignored
from jutrel.core.grading.combine import Combined, combine
from jutrel.core.grading.facts import History, Place, facts_of
from jutrel.core.grading.finding_grade import grade_finding
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import Item, item_of, said, unaccepted, with_names
from jutrel.core.grading.rulebook import AttributeKind, Rulebook
from jutrel.core.grading.taken import ReadingInForce, levels_of, readings_of
from jutrel.core.grading.view import View, view_of
from jutrel.core.inspection.finding import Answer, Finding
from jutrel.core.inspection.kinds import Answered
from jutrel.core.inspection.look import Look
from jutrel.core.log.entry import Entry
from jutrel.core.machine.family import Checkpoint
from jutrel.core.machine.model import Walk, checkpoint_of
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.tank import HydraulicLevel
from jutrel.core.wording import NOTHING, Number, Said, say, together

DEFAULT_LIMIT = say("Only this shift, and only once the supervisor has said yes by name.")


class Outcome(StrEnum):
    """The verdict in a word."""

    READY = "ready"
    READY_MENDS_DUE = "ready-mends-due"
    LIMITED = "limited"
    HELD = "held"
    INCOMPLETE = "incomplete"


OUTCOMES = {
    Outcome.READY: say("Ready", context="outcome"),
    Outcome.READY_MENDS_DUE: say("Ready, mends due", context="outcome"),
    Outcome.LIMITED: say("Limited", context="outcome"),
    Outcome.HELD: say("Held", context="outcome"),
    Outcome.INCOMPLETE: say("Incomplete", context="outcome"),
}


@dataclass(frozen=True, slots=True)
class Release:
    """Something reported that was set aside in this look: by whom, by what right, with what reason."""

    checkpoint: str
    failure_mode: str
    grade: Grade
    by: str
    ground: SetAsideBy
    reason: str
    other_must_sign: bool


@dataclass(frozen=True, slots=True)
class Verdict:
    """The answer to 'may I start this machine?' and everything behind it."""

    outcome: Outcome
    why: Said
    items: tuple[Item, ...]
    combined: tuple[Combined, ...]
    released: tuple[Release, ...]
    ignored: tuple[Ignored, ...]
    differ: tuple[str, ...]
    limits: tuple[Said, ...]
    left: tuple[str, ...]
    levels: tuple[tuple[str, HydraulicLevel], ...]
    valid_until: datetime | None
    valid_until_hour: float | None
    rulebook: str
    regime: str
    view: View | None = None
    """What cannot be seen from the seat with what is open; None where nothing is lost."""
    readings: tuple[ReadingInForce, ...] = ()


@dataclass(frozen=True, slots=True)
class AsGraded:
    """A defect as it was graded at a checkpoint."""

    defect: Defect
    checkpoint: Checkpoint
    item: Item


@dataclass(frozen=True, slots=True)
class Hearing:
    """What a verdict is given on: a look, the walk it was, the open defects of the machine, and the place."""

    id: str
    look: Look
    walk: Walk
    book: Rulebook
    place: Place
    defects: tuple[Defect, ...]
    court: Court
    meter_offset: float = 0.0
    until: datetime | None = None
    """Until when a signature would let it hold by the clock."""
    graded: Mapping[str, AsGraded] = field(default_factory=dict, compare=False, repr=False)
    """Defects that were graded before, on the same place by the same rules, by their ids."""


def graded_before(verdict: Verdict, defects: Sequence[Defect], walk: Walk) -> dict[str, AsGraded]:
    """What a verdict says of each defect that it names, with what it was told of."""
    items = {i.defect: i for i in verdict.items if i.defect}
    at = {c.id: c for c in walk.checkpoints}
    return {
        d.id: AsGraded(d, at.get(d.key[0]) or checkpoint_of(walk.model, d.key[0]), items[d.id])
        for d in defects
        if d.id in items
    }


def judge(h: Hearing) -> Verdict:
    """The verdict on a look, with everything that is open on the machine.

    A Hold stands above everything, also above checkpoints not yet looked at. What an entitled person
    released is told; a Hold that waits for another person's signature counts as released until the look
    is signed without one.
    """
    look, walk, book = h.look, h.walk, h.book
    levels = levels_of(look, walk)
    refused = {key for key, level in levels.items() if level.judgement.band is Band.REFUSED}
    unsigned = look.signature is None or bool(look.late)
    waiting = {d.id for d in h.defects if d.pending_by and unsigned and all(_settled_here(h, r.id) for r in d.reports)}
    standing = [d for d in h.defects if d.id not in waiting]

    out = _backups_out(walk, standing, book)
    items: list[Item] = []
    at = {c.id: c for c in walk.checkpoints}
    for defect in standing:
        c = at.get(defect.key[0]) or checkpoint_of(walk.model, defect.key[0])
        was = h.graded.get(defect.id)
        # What stands in for it may be out by now: then it is graded again.
        if was is not None and not c.backup_set and was.checkpoint == c and was.defect == defect:
            items.append(was.item)
        else:
            items.append(item_of(defect, c, h.place, book, h.id, out[c.backup_set or ""]))
    for c in walk.checkpoints:
        items.extend(_unseen(c, look.heads.get(c.id, ()), h))

    left = tuple(c.id for c in walk.checkpoints if c.mandatory and (c.id not in look.heads or c.id in refused))
    combined = tuple(x for rule in book.combinations if (x := combine(rule, items, walk)))
    items.sort(key=lambda item: -item.grade)
    worst = max([Grade.SOUND, *(i.grade for i in items), *(x.grade for x in combined)])
    outcome = _outcome(worst, left)
    clears = walk.clears and look.signature is not None
    hours = h.place.hours
    return Verdict(
        outcome=outcome,
        why=_why(outcome, items, combined, left, walk, levels, refused, h.meter_offset),
        items=tuple(items),
        combined=combined,
        released=_releases(h),
        ignored=tuple(i for i in h.court.ignored if h.court.entries[i.entry].stream == h.id),
        differ=look.differ,
        limits=limits_of(worst, items, combined),
        left=left,
        levels=tuple(levels.items()),
        valid_until=h.until if clears else None,
        valid_until_hour=hours + RUNNING_H if walk.clears and hours is not None and look.opening else None,
        rulebook=book.version,
        regime=book.regime,
        view=view_of(walk, items),
        readings=readings_of(look, walk),
    )


def judge_more(h: Hearing, before: Verdict, entry: Entry) -> Verdict | None:
    """What `judge` comes to after one more entry that reports nothing, on the same walk and the same defects.

    Only what is left and who differs can be otherwise. None where more can: at a checkpoint that somebody could
    not see or measured.
    """
    if not isinstance(entry.what, Answered):
        return before
    at, heads = entry.what.checkpoint, h.look.heads.get(entry.what.checkpoint, ())
    if not all(isinstance(e.what, Answered) and e.what.answer is not Answer.UNSEEN for e in heads):
        return None
    if any(i.checkpoint == at and not i.defect for i in before.items) or any(key == at for key, _ in before.levels):
        return None
    levels = dict(before.levels)
    refused = {key for key, level in levels.items() if level.judgement.band is Band.REFUSED}
    left = tuple(c for c in before.left if c != at)
    worst = max([Grade.SOUND, *(i.grade for i in before.items), *(x.grade for x in before.combined)])
    outcome = _outcome(worst, left)
    why = _why(outcome, list(before.items), before.combined, left, h.walk, levels, refused, h.meter_offset)
    return replace(before, outcome=outcome, why=why, left=left, differ=h.look.differ)


def limits_of(worst: Grade, items: Sequence[Item], combined: Sequence[Combined]) -> tuple[Said, ...]:
    """The limits it may work under; none under a Hold, where there is nothing to limit."""
    if worst is not Grade.LIMIT:
        return ()
    own = [text for i in items if i.grade is Grade.LIMIT for text in i.limits or (DEFAULT_LIMIT,)]
    shared = [x.limit or DEFAULT_LIMIT for x in combined if x.grade is Grade.LIMIT]
    return tuple(dict.fromkeys(own + shared))


def _settled_here(h: Hearing, report: str) -> bool:
    """Whether an act of this look set a report aside."""
    settled = h.court.settled.get(report)
    return settled is not None and h.court.entries[settled.act].stream == h.id


def _backups_out(walk: Walk, defects: Sequence[Defect], book: Rulebook) -> Counter[str]:
    """Of each set of things that stand in for one another, how many are really out: a scratch leaves a mirror in."""
    sets = {c.id: c.backup_set for c in walk.model.family.checkpoints}
    hit = {d.key[0] for d in defects if not d.put_right and any(_is_out(r.finding, book) for r in d.reports)}
    return Counter(str(sets[c]) for c in hit if sets.get(c))


def _is_out(finding: Finding, book: Rulebook) -> bool:
    """Whether it no longer does its work: the worst that can be said of it, or nobody said how bad."""
    mode = book.modes.get(finding.failure_mode)
    for key in mode.attributes if mode else ():
        attribute = book.attributes[key]
        if attribute.kind is AttributeKind.SCALE:
            said = finding.attributes.get(key)
            return said is None or attribute.rank(said) >= len(attribute.choices) - 1
    return True


def _unseen(c: Checkpoint, heads: tuple[Entry, ...], h: Hearing) -> list[Item]:
    """A checkpoint that somebody could not see; where people differ, the worse counts."""
    out = []
    for entry in heads:
        if not isinstance(entry.what, Answered) or entry.what.answer is not Answer.UNSEEN:
            continue
        finding = Finding("unseen", {}, entry.what.reason)
        graded = grade_finding(finding, facts_of(finding, c, h.place, h.book, History(), 0), h.book)
        out.append(
            Item(
                c.id,
                c.name,
                c.station,
                finding,
                graded.grade,
                said(graded.trace),
                graded.trace,
                graded.limits,
                None,
                "",
                (),
                entry.by,
                entry.time,
                1,
                0,
                False,
            )
        )
    return out[:1]


def _releases(h: Hearing) -> tuple[Release, ...]:
    found: dict[tuple[str, str, str, SetAsideBy], Release] = {}
    for reports in h.court.reports.values():
        for report in reports:
            if not _settled_here(h, report.id) or (report.grade < Grade.MEND and report.look == h.id):
                continue
            settled = h.court.settled[report.id]
            if settled.ground is SetAsideBy.PUT_RIGHT:
                continue  # it is told as a Watch of its own
            what = h.court.entries[settled.act].what
            reason = str(getattr(what, "reason", "") or getattr(what, "amends", ""))
            key = (report.checkpoint, report.finding.failure_mode, settled.act, settled.ground)
            made = Release(
                report.checkpoint,
                report.finding.failure_mode,
                report.grade,
                settled.by,
                settled.ground,
                reason,
                settled.pending,
            )
            if key not in found or found[key].grade < made.grade:
                found[key] = made
    in_order = sorted(found.items(), key=lambda pair: (-pair[1].grade, *pair[0]))
    return tuple(made for _, made in in_order)


@dataclass(frozen=True, slots=True)
class ReportGrade:
    """How a finding is graded as a report.

    `as_found`: before it was put right on the spot; `within_hours`: to mend it [h]; `may_put_right`: by the operator.
    """

    grade: Grade
    as_found: Grade
    why: Said
    limits: tuple[Said, ...]
    within_hours: float | None
    may_put_right: bool


def report_grade(finding: Finding, c: Checkpoint, place: Place, book: Rulebook) -> ReportGrade:
    """A finding at a checkpoint, graded as it is reported: by itself, with no history."""
    may = book.may_put_right(finding, c)
    bare = replace(finding, put_right=None)
    graded = grade_finding(bare, facts_of(bare, c, place, book, History(), 0), book)
    why = said(graded.trace)
    if finding.put_right is not None and may:
        return ReportGrade(Grade.WATCH, graded.grade, why, (), None, may)
    return ReportGrade(graded.grade, graded.grade, why, graded.limits, graded.within_hours, may)


def _outcome(worst: Grade, left: tuple[str, ...]) -> Outcome:
    if worst is Grade.HOLD:
        return Outcome.HELD
    if left:
        return Outcome.INCOMPLETE
    if worst is Grade.LIMIT:
        return Outcome.LIMITED
    return Outcome.READY_MENDS_DUE if worst is Grade.MEND else Outcome.READY


def _why(
    outcome: Outcome,
    items: list[Item],
    combined: tuple[Combined, ...],
    left: tuple[str, ...],
    walk: Walk,
    levels: dict[str, HydraulicLevel],
    refused: set[str],
    meter_offset: float,
) -> Said:
    alone = NOTHING if walk.clears else say("This look alone does not clear it for a shift.")

    def names(grade: Grade) -> Said:
        return named(i.name for i in items if i.grade is grade)

    def reason(grade: Grade) -> Said:
        own = next((i for i in items if i.grade is grade), None)
        if own:
            return with_names(names(grade), own.name, own.why)
        return next((x.says for x in combined if x.grade is grade), NOTHING)

    match outcome:
        case Outcome.HELD:
            return say("Do not start it: {why}", why=reason(Grade.HOLD))
        case Outcome.INCOMPLETE:
            first = walk.checkpoint(left[0])
            if len(left) == len(refused & set(left)):
                return say("The level could not be judged: {action}", action=levels[left[0]].judgement.action)
            return say(
                "{n} mandatory checkpoint left, next: {name}.",
                many="{n} mandatory checkpoints left, next: {name}.",
                n=len(left),
                name=Said(first.name, (), "checkpoint") if first else left[0],
            )
        case Outcome.LIMITED:
            why = say("It works only within limits: {why}", why=reason(Grade.LIMIT))
            return together([why, unaccepted(items)])
        case Outcome.READY_MENDS_DUE:
            due = min((i.due_hour for i in items if i.due_hour is not None), default=None)
            return together([mend_by(due, meter_offset, names(Grade.MEND)), alone])
        case Outcome.READY:
            return together([nothing_against(names(Grade.WATCH)), alone])


def named(names: Iterable[str]) -> Said:
    """The first three of several checkpoints, each once, and how many more; nothing if there is none."""
    hit = list(dict.fromkeys(names))
    some = tuple(Said(name, (), "checkpoint") for name in hit[:3])
    if not some:
        return NOTHING
    if len(hit) > 3:
        return say("{names} and {n} more", many="{names} and {n} more", names=some, n=len(hit) - 3)
    return say("{names}", names=some)


def mend_by(due: float | None, meter_offset: float, names: Said) -> Said:
    """That it may work and what is to be mended; `due` [h over all meters]."""
    if due is None:
        return say("It may work; to be mended: {names}.", names=names)
    hours = Number(due - meter_offset, 0, "h")
    return say("It may work; to be mended by {hours} on the meter: {names}.", hours=hours, names=names)


def nothing_against(watched: Said) -> Said:
    """That nothing stands against starting it, and what to look at again."""
    again = say("Look again at: {names}.", names=watched) if watched else NOTHING
    return together([say("Nothing stands against starting it."), again])
