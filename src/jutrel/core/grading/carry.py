"""Findings of earlier walks: who may release them, and how they stay open."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jutrel.core.grading.finding_grade import Graded, TraceLine
from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.entry import Carried, Entry, Role

RELEASED_BY = {
    Grade.WATCH: "Whoever looks again and finds it sound closes it.",
    Grade.MEND: "A mechanic releases it.",
    Grade.LIMIT: "A mechanic releases it.",
    Grade.HOLD: "A mechanic releases it and another person signs.",
}


@dataclass(frozen=True, slots=True)
class Release:
    """An earlier finding that somebody entitled found sound again."""

    checkpoint: str
    failure_mode: str
    grade: Grade
    by: str
    other_must_sign: bool


def may_release(entry: Entry, was: Carried, signer: str | None) -> bool:
    """Whether an answer may end, or ease, what an earlier walk left open.

    A Watch is closed by whoever looks again; from Mend upward it takes a mechanic. Who
    releases a Hold does not sign it: with that mechanic's signature it stays.
    """
    grade = Grade.of(was.grade)
    if grade <= Grade.WATCH:
        return True
    return entry.role is Role.MECHANIC and not (grade is Grade.HOLD and signer == entry.by)


def kept_open(graded: Graded, was: Carried) -> Graded:
    """The grade it had, with the reason why it still has it."""
    grade = Grade.of(was.grade)
    often = f", reported {was.reports} times" if was.reports > 1 else ""
    line = TraceLine(
        "carried.open",
        "carried",
        f"Open since {was.since:%Y-%m-%d} as {grade.word.capitalize()}{often}. {RELEASED_BY[grade]}",
        "30 CFR 56.14100(c): defects stay recorded until corrected",
        grade,
    )
    return replace(graded, grade=grade, trace=(*graded.trace, line))
