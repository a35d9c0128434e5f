"""May this machine be started? One verdict from all answers, and the reasons for it."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from jutrel.core.grading.carry import Release, kept_open, may_release
from jutrel.core.grading.combine import Combined, combine
from jutrel.core.grading.facts import carried_at, facts_of
from jutrel.core.grading.finding_grade import grade_finding
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import Item, Scene, item_carried, item_found
from jutrel.core.grading.rulebook import Rulebook
from jutrel.core.inspection.entry import Answer, Answered, Carried, Conditions, Entry, Finding, Measured
from jutrel.core.inspection.fold import Inspection
from jutrel.core.machine.family import Checkpoint
from jutrel.core.machine.model import Walk
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.tank import HydraulicLevel, hydraulic_level
from jutrel.core.units import plain

VALID_HOURS = 10.0
"""Ten hours of running is a new inspection."""
DEFAULT_LIMIT = "This shift only, and only after the supervisor has accepted it by name."


class Outcome(StrEnum):
    """The verdict in a word."""

    READY = "ready"
    READY_MENDS_DUE = "ready-mends-due"
    LIMITED = "limited"
    HELD = "held"
    INCOMPLETE = "incomplete"


@dataclass(frozen=True, slots=True)
class Verdict:
    """The answer to 'may I start this machine?' and everything behind it."""

    outcome: Outcome
    why: str
    items: tuple[Item, ...]
    combined: tuple[Combined, ...]
    released: tuple[Release, ...]
    limits: tuple[str, ...]
    left: tuple[str, ...]
    levels: tuple[tuple[str, HydraulicLevel], ...]
    valid_until: datetime | None
    valid_until_hour: float | None
    rulebook: str
    regime: str


def judge(inspection: Inspection, walk: Walk, rulebook: Rulebook) -> Verdict:
    """The verdict on an inspection, from its folded log and the machine's walk.

    A Hold stands above everything, also above checkpoints not yet looked at. A finding
    of an earlier walk stays until somebody entitled finds it sound: a mechanic from
    Mend upward, and for a Hold another person must sign.
    """
    opened = inspection.opened
    conditions = opened.conditions if opened else Conditions()
    earlier = carried_at(opened.carried if opened else ())
    levels = _levels(inspection, walk)
    refused = {key for key, level in levels.items() if level.judgement.band is Band.REFUSED}
    found = {c.id: _findings_at(c, inspection.answers.get(c.id), levels.get(c.id)) for c in walk.checkpoints}
    # Redundant sets: how many of each are out.
    out = Counter(c.backup_set for c in walk.checkpoints if c.backup_set and found[c.id])

    scene = Scene(inspection, walk, rulebook, conditions)
    signer = inspection.signature.by if inspection.signature else None
    items: list[Item] = []
    released: list[Release] = []
    for c in walk.checkpoints:
        entry = inspection.answers.get(c.id)
        before = {one.finding.failure_mode: one for one in earlier.get(c.id, ())}
        for finding in found[c.id]:
            assert entry is not None
            was = before.pop(finding.failure_mode, None)
            backups = out[c.backup_set or ""]
            facts = facts_of(finding, c, conditions, walk.model, rulebook, was, backups, inspection.hour_meter)
            graded = grade_finding(finding, facts, rulebook)
            if was and Grade.of(was.grade) > graded.grade and not may_release(entry, was, signer):
                graded = kept_open(graded, was)
            items.append(item_found(scene, c, finding, graded, entry, was))
        # Looking again and finding it sound is what releases; a different defect at the place does not.
        sound = entry is not None and not found[c.id] and c.id not in refused
        for was in before.values():
            if sound and entry is not None and may_release(entry, was, signer):
                grade = Grade.of(was.grade)
                released.append(Release(c.id, was.finding.failure_mode, grade, entry.by, grade is Grade.HOLD))
            else:
                items.append(item_carried(scene, c, was))

    left = tuple(c.id for c in walk.checkpoints if c.mandatory and (c.id not in inspection.answers or c.id in refused))
    combined = tuple(x for rule in rulebook.combinations if (x := combine(rule, items, walk)))
    items.sort(key=lambda item: -item.grade)
    worst = max([Grade.SOUND, *(i.grade for i in items), *(x.grade for x in combined)])
    outcome = _outcome(worst, left)
    limits: tuple[str, ...] = ()
    if worst is Grade.LIMIT:  # under a Hold there is nothing to limit
        own = [text for i in items if i.grade is Grade.LIMIT for text in i.limits or (DEFAULT_LIMIT,)]
        shared = [x.limit or DEFAULT_LIMIT for x in combined if x.grade is Grade.LIMIT]
        limits = tuple(dict.fromkeys(own + shared))
    signed_at = inspection.signature.at if inspection.signature else None
    return Verdict(
        outcome=outcome,
        why=_why(outcome, items, combined, left, walk, levels, refused, opened.meter_offset if opened else 0.0),
        items=tuple(items),
        combined=combined,
        released=tuple(released),
        limits=limits,
        left=left,
        levels=tuple(levels.items()),
        valid_until=signed_at + timedelta(hours=conditions.shift_hours) if signed_at and walk.clears else None,
        valid_until_hour=inspection.hour_meter + VALID_HOURS if opened and walk.clears else None,
        rulebook=rulebook.version,
        regime=rulebook.regime,
    )


def open_findings(verdict: Verdict) -> tuple[Carried, ...]:
    """What the next walk has to know of: every graded finding but the merely unseen."""
    return tuple(
        Carried(i.checkpoint, i.finding, i.grade.word, i.since, i.by, i.reports, i.unmended, i.due_hour)
        for i in verdict.items
        if i.finding.failure_mode != "unseen"
    )


def _levels(inspection: Inspection, walk: Walk) -> dict[str, HydraulicLevel]:
    levels = {}
    for key, entry in inspection.answers.items():
        if isinstance(m := entry.what, Measured):
            levels[key] = hydraulic_level(walk.model.tank, m.seen, m.oil_c, m.pitch_deg, m.roll_deg, m.extensions)
    return levels


def _findings_at(checkpoint: Checkpoint, entry: Entry | None, level: HydraulicLevel | None) -> tuple[Finding, ...]:
    """The findings that an answer or a reading amounts to."""
    if level is not None:
        if level.corrected is None or level.judgement.band is Band.IN_BAND:
            return ()
        state = "very-low" if level.judgement.band is Band.STOP else "low" if level.corrected < 0 else "over"
        key = "over_level" if state == "over" else "low_level"
        return (Finding("level", {key: state}, level.judgement.action),)
    if entry is None or not isinstance(entry.what, Answered):
        return ()
    match entry.what.answer:
        case Answer.SOUND:
            return ()
        case Answer.UNSEEN:
            return (Finding("unseen", {}, entry.what.reason),)
        case Answer.DEFECT:
            return entry.what.findings


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
) -> str:
    alone = "" if walk.clears else " This look alone does not clear it for a shift."

    def names(grade: Grade) -> str:
        hit = list(dict.fromkeys(i.name for i in items if i.grade is grade))
        return ", ".join(hit[:3]) + (f" and {len(hit) - 3} more" if len(hit) > 3 else "")

    def reason(grade: Grade) -> str:
        own = next((i for i in items if i.grade is grade), None)
        if own:
            return f"{names(grade)}. {own.why}"
        return next((x.says for x in combined if x.grade is grade), "")

    match outcome:
        case Outcome.HELD:
            return f"Do not start it: {reason(Grade.HOLD)}"
        case Outcome.INCOMPLETE:
            first = walk.checkpoint(left[0])
            if len(left) == len(refused & set(left)):
                return f"The level could not be judged: {levels[left[0]].judgement.action}"
            points = "checkpoint" if len(left) == 1 else "checkpoints"
            return f"{len(left)} mandatory {points} left, next: {first.name if first else left[0]}."
        case Outcome.LIMITED:
            return f"It works only within limits: {reason(Grade.LIMIT)}"
        case Outcome.READY_MENDS_DUE:
            due = min((i.due_hour for i in items if i.due_hour is not None), default=meter_offset) - meter_offset
            return f"It may work; to be mended by {plain(due, 0)} h on the meter: {names(Grade.MEND)}.{alone}"
        case Outcome.READY:
            watched = names(Grade.WATCH)
            again = f" Look again at: {watched}." if watched else ""
            return f"Nothing stands against starting it.{again}{alone}"
