"""A graded finding at its place: grade, reasons, deadline, what to do first."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from jutrel.core.grading.carry import kept_open
from jutrel.core.grading.facts import leak_of
from jutrel.core.grading.finding_grade import Graded, TraceLine
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.rulebook import Rulebook
from jutrel.core.inspection.entry import Carried, Conditions, Entry, Finding
from jutrel.core.inspection.fold import Inspection
from jutrel.core.machine.family import Checkpoint
from jutrel.core.machine.model import Walk
from jutrel.core.reading.leak import LeakReading


@dataclass(frozen=True, slots=True)
class Item:
    """A graded finding at its checkpoint. `due_hour` [h on the hour meter]."""

    checkpoint: str
    name: str
    station: str
    finding: Finding
    grade: Grade
    why: str
    trace: tuple[TraceLine, ...]
    limits: tuple[str, ...]
    due_hour: float | None
    first_action: str
    safe_repair: tuple[str, ...]
    by: str
    since: datetime
    reports: int
    unmended: int
    carried: bool
    leak: LeakReading | None = None


@dataclass(frozen=True, slots=True)
class Scene:
    """What all findings of one inspection share."""

    inspection: Inspection
    walk: Walk
    rulebook: Rulebook
    conditions: Conditions


def item_found(
    scene: Scene, c: Checkpoint, finding: Finding, graded: Graded, entry: Entry, was: Carried | None
) -> Item:
    """A finding of this walk; `was` is the same one from earlier, which it joins."""
    if was is None:
        return _item(scene, c, finding, graded, entry.by, entry.at, 1, 1 if graded.grade >= Grade.MEND else 0, None)
    unmended = was.unmended + (1 if graded.grade >= Grade.MEND else 0)
    return _item(scene, c, finding, graded, entry.by, was.since, was.reports + 1, unmended, was.due_hour)


def item_carried(scene: Scene, c: Checkpoint, was: Carried) -> Item:
    """A finding of an earlier walk that nobody entitled has released."""
    graded = kept_open(Graded(Grade.SOUND, (), (), None), was)
    return _item(
        scene, c, was.finding, graded, was.by, was.since, was.reports, was.unmended, was.due_hour, carried=True
    )


def _said(trace: tuple[TraceLine, ...]) -> str:
    """The worst rule's sentence and what raised it; rules speak in order, the worst last."""
    ground = [line.says for line in trace if line.stage != "raise"][-1:]
    return " ".join(ground + [line.says for line in trace if line.stage == "raise"])


def _item(
    scene: Scene,
    c: Checkpoint,
    finding: Finding,
    graded: Graded,
    by: str,
    since: datetime,
    reports: int,
    unmended: int,
    due_before: float | None,
    carried: bool = False,
) -> Item:
    book, due = scene.rulebook, None
    if graded.grade in (Grade.MEND, Grade.LIMIT) and finding.failure_mode != "unseen":
        due = scene.inspection.hour_meter + (graded.within_hours or book.mend_within_hours)
        if due_before is not None:
            due = min(due, due_before)  # finding it again never buys time
    mode = book.modes.get(finding.failure_mode)
    return Item(
        checkpoint=c.id,
        name=c.name,
        station=c.station,
        finding=finding,
        grade=graded.grade,
        why=_said(graded.trace),
        trace=graded.trace,
        limits=graded.limits,
        due_hour=due,
        first_action=mode.first_action if mode else "",
        safe_repair=tuple(book.safe_repair[e] for e in c.energy if e in book.safe_repair),
        by=by,
        since=since,
        reports=reports,
        unmended=unmended,
        carried=carried,
        leak=leak_of(finding, c, scene.walk.model, scene.conditions.shift_hours),
    )
