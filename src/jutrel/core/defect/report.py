"""A report: one finding of one entry, with the grade it had. Nothing but an entitled act sets it aside."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.finding import Finding
from jutrel.core.people import Role
from jutrel.core.wording import NOTHING, Said

Key = tuple[str, str, int]


@dataclass(frozen=True, slots=True)
class Report:
    """A finding as it was reported.

    `slot` tells apart findings of one mode in one answer. `as_found` is the grade before it was put right
    on the spot. `shift_start`, `shift_hours` [h]: the shift it belongs to. `hours` [h]: the machine's
    hours then, None if not known. `may_put_right`: it is the operator's own to put right there. `says`: what a
    reading said to do about it.
    """

    entry: str
    index: int
    look: str
    checkpoint: str
    slot: int
    finding: Finding
    grade: Grade
    as_found: Grade
    why: Said
    limits: tuple[Said, ...]
    within_hours: float | None
    by: str
    role: Role
    at: datetime
    shift_start: datetime
    shift_hours: float
    hours: float | None
    may_put_right: bool
    says: Said = NOTHING
    reading: str = ""
    """The reading that found it, if one did."""

    @property
    def id(self) -> str:
        """Entry and place in it; the first report's id is the defect's."""
        return f"{self.entry}.{self.index}"

    @property
    def key(self) -> Key:
        """What it is about: checkpoint, failure mode, which of several there."""
        return (self.checkpoint, self.finding.failure_mode, self.slot)

    @property
    def due_hour(self) -> float | None:
        """The machine's hours [h] by which it is to be mended; None if it has no date."""
        if self.hours is None or self.within_hours is None or self.grade not in (Grade.MEND, Grade.LIMIT):
            return None
        return self.hours + self.within_hours


def slots_of(findings: tuple[Finding, ...]) -> tuple[int, ...]:
    """For each finding, how many of its mode stand before it in the same answer.

    >>> slots_of((Finding("leak"), Finding("crack"), Finding("leak")))
    (0, 0, 1)
    """
    seen: dict[str, int] = {}
    out = []
    for finding in findings:
        out.append(seen.get(finding.failure_mode, 0))
        seen[finding.failure_mode] = out[-1] + 1
    return tuple(out)
