"""What was measured for a test of a run: a figure speaks over a word."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from jutrel.core.grading.judged import reading_of
from jutrel.core.inspection.kinds import AnyRead
from jutrel.core.log.entry import Entry
from jutrel.core.machine.model import Walk
from jutrel.core.procedure.step import Step
from jutrel.core.reading.judgement import Band
from jutrel.core.wording import Said


@dataclass(frozen=True, slots=True)
class RunMeasurement:
    """A reading that was taken during a run, and whether the machine may not go on with it.

    Parameters
    ----------
    value, unit
        What it came to; no value: it cannot be told in one figure.
    action
        What follows from it, in a sentence.
    fails
        It says stop: a test that rests on it is not passed.
    replaces
        The entries that its author saw there and sets aside.
    """

    entry: str
    checkpoint: str
    reading: str
    value: float | None
    unit: str
    action: Said
    fails: bool
    by: str
    at: datetime
    replaces: frozenset[str] = frozenset()

    def tries(self, step: Step) -> bool:
        """Whether it is a measurement of this test."""
        return self.reading in step.measures and self.checkpoint in step.checkpoints


def measured_in(entries: Iterable[Entry], walk: Walk) -> tuple[RunMeasurement, ...]:
    """The measurements among the entries of a run that stand, judged by the machine's own figures."""
    out = []
    for e in entries:
        # The hydraulic level is read on a walk, and tries no step.
        if isinstance(e.what, AnyRead) and not e.what.answers:
            r = reading_of(e, walk)
            bad = r.judgement.band is Band.STOP
            action = r.judgement.action
            where = (e.id, e.what.checkpoint, e.what.reading)
            out.append(RunMeasurement(*where, r.value, r.unit, action, bad, e.by, e.time, e.replaces))
    return tuple(out)
