"""How a machine stands, in a word for lists: made from its clearance and from nothing else."""

from __future__ import annotations

from enum import StrEnum

from jutrel.core.clearance.answer import Clearance
from jutrel.core.grading.grade import Grade


class Go(StrEnum):
    """Whether a machine can go. Uninspected: no inspection proves that it may."""

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


def go_of(c: Clearance) -> Go:
    """The word for a clearance: held before anything else, then an inspection under way, then what is missing."""
    if c.start.held:
        return Go.HELD
    if any(x.key == "walking" for x in c.start.lacks):
        return Go.WALKING
    return Go.UNINSPECTED if c.start.lacks else BY_GRADE[c.grade]
