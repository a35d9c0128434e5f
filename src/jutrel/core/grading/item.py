"""A defect at its place as the verdict shows it: grade, reasons, deadline, what to do first."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated

from jutrel.core.defect.authority import NEEDED
from jutrel.core.defect.defect import Defect
from jutrel.core.grading.facts import History, Place, facts_of, leak_of
from jutrel.core.grading.finding_grade import Graded, TraceLine, grade_finding
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.rulebook import Rulebook
from jutrel.core.inspection.finding import Finding
from jutrel.core.machine.family import Checkpoint
from jutrel.core.procedure.outcome import FAILED
from jutrel.core.reading.leak import LeakReading
from jutrel.core.wording import NOTHING, Said, Words, say, together


@dataclass(frozen=True, slots=True)
class Item:
    """A graded thing at its checkpoint. `due_hour` [h over all meters]; `carried`: not seen in this look.

    `defect` is empty for a checkpoint that nobody could see. `entries` are the reports' entries, which
    whoever sets it aside must have seen. `pending`: who released it, when another person must confirm.
    `says`: what a reading said to do about it.
    """

    checkpoint: str
    name: Annotated[str, Words("checkpoint")]
    station: str
    finding: Finding
    grade: Grade
    why: Said
    trace: tuple[TraceLine, ...]
    limits: tuple[Said, ...]
    due_hour: float | None
    first_action: Annotated[str, Words("first action")]
    safe_repair: tuple[Annotated[str, Words("safe repair")], ...]
    by: str
    since: datetime
    reports: int
    unmended: int
    carried: bool
    leak: LeakReading | None = None
    defect: str = ""
    entries: tuple[str, ...] = ()
    pending: str = ""
    says: Said = NOTHING
    accepted_by: str = ""
    """Who accepted that it works within its limits."""
    accepted_at: datetime | None = None


UNACCEPTED = say("A supervisor has to accept it by name: until then it stands.")


def unaccepted(items: Iterable[Item]) -> Said:
    """That what limits a machine waits for a supervisor, if any of it does."""
    waits = any(i.grade is Grade.LIMIT and not (i.defect and i.accepted_by) for i in items)
    return UNACCEPTED if waits else NOTHING


def _tells(said: object, name: Said) -> bool:
    if isinstance(said, Said):
        return said == name or any(_tells(value, name) for _, value in said.values)
    return isinstance(said, tuple) and any(_tells(value, name) for value in said)


def with_names(names: Said, first: str, why: Said) -> Said:
    """A reason after the names of what it is about; by itself where it is about one place and tells it.

    >>> why = say("{place}: {answers}.", place=Said("Horn", (), "checkpoint"), answers="reported as “Not at all”")
    >>> str(with_names(Said("Horn", (), "checkpoint"), "Horn", why))
    'Horn: reported as “Not at all”.'
    """
    name = Said(first, (), "checkpoint")
    one = names == name or names == say("{names}", names=(name,))
    return why if one and _tells(why, name) else say("{names}. {why}", names=names, why=why)


def said(trace: tuple[TraceLine, ...]) -> Said:
    """The worst rule's sentence and what raised it; rules speak in order, the worst last."""
    ground = [line.says for line in trace if line.stage not in ("raise", "carried")][-1:]
    rest = [line.says for line in trace if line.stage == "raise"]
    return together(ground + rest + [line.says for line in trace if line.stage == "carried"])


def grade_defect(defect: Defect, c: Checkpoint, place: Place, book: Rulebook, backups_out: int = 0) -> Graded:
    """The grade of an open defect under the conditions of today; never milder than it was reported.

    Overdue, the third shift and growing worse speak whether or not it was reported again.
    """
    history = History(defect.unmended_shifts, defect.previous, defect.due_hour)
    needed = NEEDED[defect.grade]
    if defect.put_right:
        says = say("Found and put right: {done} Look again.", done=defect.put_right)
        trace = TraceLine("put-right", "base", says, "common practice", Grade.WATCH)
        return Graded(Grade.WATCH, (trace,), (), None)
    if defect.latest.finding.failure_mode == FAILED:
        says = together([defect.latest.why, needed])
        return Graded(defect.grade, (TraceLine("outcome", "base", says, "common practice", defect.grade),), (), None)
    findings = [defect.latest.finding]
    if defect.worst.finding != findings[0]:
        findings.append(defect.worst.finding)
    graded = []
    for finding in findings:
        if finding.failure_mode in book.modes and all(a in book.attributes for a in finding.attributes):
            facts = facts_of(finding, c, place, book, history, backups_out)
            graded.append(grade_finding(finding, facts, book, defect.grade, needed))
    if not graded:  # a mode that today's rules have no words for: it stays what it was
        says = together([defect.worst.why, needed])
        line = TraceLine("carried.open", "carried", says, "as reported", defect.grade)
        graded = [Graded(defect.grade, (line,), (), None)]
    worst = max(graded, key=lambda g: g.grade)
    limits = tuple(dict.fromkeys([*worst.limits, *(t for g in graded for t in g.limits), *defect.limits]))
    return Graded(worst.grade, worst.trace, limits, worst.within_hours)


def item_of(defect: Defect, c: Checkpoint, place: Place, book: Rulebook, look: str, backups_out: int = 0) -> Item:
    """An open defect as the verdict of a look shows it."""
    graded = grade_defect(defect, c, place, book, backups_out)
    due = defect.due_hour
    if graded.grade not in (Grade.MEND, Grade.LIMIT):
        due = None
    elif due is None and place.hours is not None:
        due = place.hours + (graded.within_hours or book.mend_within_hours)
    return Item(
        checkpoint=c.id,
        name=c.name,
        station=c.station,
        finding=defect.latest.finding,
        grade=graded.grade,
        why=said(graded.trace),
        trace=graded.trace,
        limits=graded.limits,
        due_hour=due,
        first_action=book.first_action(defect.latest.finding, c),
        safe_repair=tuple(book.safe_repair[e] for e in c.energy if e in book.safe_repair),
        by=defect.first.by,
        since=defect.first.at,
        reports=defect.looks,
        unmended=defect.unmended_shifts,
        carried=all(r.look != look for r in defect.reports),
        leak=leak_of(defect.latest.finding, c, place),
        defect=defect.id,
        entries=tuple(dict.fromkeys(r.entry for r in defect.reports)),
        pending=defect.pending_by,
        says=defect.latest.says,
        accepted_by=defect.accepted_by,
        accepted_at=defect.accepted_at,
    )
