"""The life of an open defect from its first report on: what was done about it, by whom, and how far it is."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from jutrel.core.defect.defect import Defect
from jutrel.core.defect.kinds import Accepted, Acknowledged, Asked, AskedOf, Isolated, Rechecked, Released
from jutrel.core.grading.grade import Grade
from jutrel.core.log.entry import Entry
from jutrel.core.people import Role


class DefectStage(StrEnum):
    """How far a defect is on its way to being closed."""

    REPORTED = "reported"
    SEEN = "seen"
    IN_REPAIR = "in-repair"
    REPAIRED = "repaired"


ORDER = (DefectStage.REPORTED, DefectStage.SEEN, DefectStage.IN_REPAIR, DefectStage.REPAIRED)
DONE = {
    Acknowledged: DefectStage.SEEN,
    Accepted: DefectStage.SEEN,
    Isolated: DefectStage.IN_REPAIR,
    Released: DefectStage.REPAIRED,
}
ABOUT = ("acknowledged", "asked", "accepted", "isolated", "released", "rechecked")
"""Kinds of entries that tell of a defect's life."""


@dataclass(frozen=True, slots=True)
class Life:
    """How far a defect is, and the entries that brought it there, oldest first."""

    stage: DefectStage
    steps: tuple[Entry, ...]

    @property
    def asked(self) -> frozenset[AskedOf]:
        """Who was asked and has done nothing about it since."""
        waits: set[str] = set()
        for step in self.steps:
            if isinstance(step.what, Asked):
                waits.add(step.what.role)
            else:
                waits.discard(step.role)
        return frozenset(AskedOf(w) for w in waits)


def may_ask(life: Life, role: Role, grade: Grade, accepted: bool) -> tuple[AskedOf, ...]:
    """Whom somebody of a role may ask about a defect: who can do what they cannot, once until something is done."""
    if life.stage is DefectStage.REPAIRED:
        return ()
    can = {AskedOf.MECHANIC: True, AskedOf.SUPERVISOR: grade is Grade.LIMIT and not accepted}
    return tuple(of for of, use in can.items() if use and of not in life.asked and of.value != role.value)


def life_of(defect: Defect, entries: Iterable[Entry]) -> Life:
    """What became of an open defect since its last report.

    Parameters
    ----------
    defect
        It, with the reports that are still open.
    entries
        All entries about defects of its machine, in any order.

    Notes
    -----
    A step counts from the report that its author had seen. What was done before the thing was reported
    again is told, and does not bring it further: it was found again, so that was not enough.
    """
    own = {r.entry for r in defect.reports}
    steps = sorted((e for e in entries if _is_about(e, defect, own)), key=lambda e: (e.time, e.id))
    since = defect.latest.at
    stages = [DONE[type(e.what)] for e in steps if e.time >= since and type(e.what) in DONE]
    if not defect.pending_by:  # a release that did not count has repaired nothing
        stages = [s for s in stages if s is not DefectStage.REPAIRED]
    return Life(max(stages, key=ORDER.index, default=DefectStage.REPORTED), tuple(steps))


def _is_about(entry: Entry, defect: Defect, own: set[str]) -> bool:
    what = entry.what
    if isinstance(what, Rechecked):
        return bool(defect.release) and what.release == defect.release
    if not isinstance(what, (Acknowledged, Asked, Accepted, Isolated, Released)):
        return False
    return (what.checkpoint, what.failure_mode) == defect.key[:2] and bool(entry.replaces & own)
