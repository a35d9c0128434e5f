"""A procedure as data: its phases and steps, and which of them a machine has."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Annotated

from jutrel.core.procedure.greasing import GreasePoint
from jutrel.core.procedure.kinds import EngineNow
from jutrel.core.wording import Words


class Phase(StrEnum):
    """The parts of a run, in the order of the shift."""

    READY = "ready"
    START = "start"
    WARM_UP = "warm-up"
    TESTS = "tests"
    MOVE_OFF = "move-off"
    SHUTDOWN = "shutdown"
    HAND_OVER = "hand-over"


FIRST = {
    Phase.READY: (),
    Phase.START: (Phase.READY,),
    Phase.WARM_UP: (Phase.START,),
    Phase.TESTS: (Phase.START,),
    Phase.MOVE_OFF: (Phase.WARM_UP, Phase.TESTS),
    Phase.SHUTDOWN: (),
    Phase.HAND_OVER: (),
}
"""Phases that are finished before a step of this one: lamps may be tested while it warms up; stopping never waits."""


class StepKind(StrEnum):
    """What a step asks of a person.

    Confirm: say that it is so. Observe: say what is seen. Wait: let the time pass. Interlock: say that it holds, and
    that it no longer does. Test: do, expect, judge.
    """

    CONFIRM = "confirm"
    OBSERVE = "observe"
    WAIT = "wait"
    INTERLOCK = "interlock"
    TEST = "test"


class Wait(StrEnum):
    """What says how long a wait is."""

    SECONDS = "seconds"
    WARM_UP = "warm-up"
    COOL_DOWN = "cool-down"


class StepRole(StrEnum):
    """What a step means, whatever it is called.

    Trained: what the record knows of the person is shown. Accept-limits: its word names the limits that are accepted.
    Last-work: its word says how hard the last ten minutes were. Hour-meter: its figure is the meter's.
    """

    TRAINED = "trained"
    LIMITS = "accept-limits"
    LAST_WORK = "last-work"
    METER = "hour-meter"


FORMER_ROLES = {
    "trained": StepRole.TRAINED,
    "limits": StepRole.LIMITS,
    "place": StepRole.LAST_WORK,
    "meter": StepRole.METER,
}
"""The ids that had these roles before a step said its role: runs that were pinned then go by them."""


@dataclass(frozen=True, slots=True)
class StepPart:
    """One of several things that a step asks for, each by itself; `options`: only where these are fitted."""

    id: str
    name: Annotated[str, Words("step")]
    options: frozenset[str] = frozenset()


@dataclass(frozen=True, slots=True)
class Step:
    """One step.

    Parameters
    ----------
    life
        A life depends on it: it is never skipped.
    no
        What is done where it is not so.
    after
        Steps that come before it, beside the phases that do.
    until
        An interlock is watched from the first crank until this step is done; empty: until the engine stands.
    engine
        What the engine has to be doing.
    wait, wait_s
        What says how long to wait, from the engine's start or the last step of `after`; seconds where it is fixed.
    reads
        The signal of the machine's bus that says so by itself, if it is read; of a wait: what it waits for too.
    needles
        Signals that matter for this step.
    within_s
        It is so within this many seconds of the start, or the engine is stopped.
    unit, low, high
        Of the figure that it asks for; no unit: it asks for none.
    checkpoints
        Where a failed test is reported: the first that the machine has.
    modes
        What is likely wrong there when it fails.
    measures
        Readings that are taken there where one wants a figure: they speak over a word.
    people
        How many it takes.
    parts
        What is looked for one by one: it counts as done with all of them, named in its word.
    ways
        How it can be done: it counts as done with one of them, named in its word.
    near
        Somebody stands in the danger area meanwhile: what was said before of nobody being near is over with it.
    nobody
        It says that nobody is near.
    instead, spares
        It is asked only when the step `instead` failed; it takes the place of that one and of those in `spares`.
    figures
        The machine's own figures that are needed for it.
    role
        What it means to whoever reckons with it.
    families, options, without, when
        On which families (none named: all), with which option, without which, and on which answers of the approach.
    schools
        Where these schools are in force, each as `school.choice`.
    points
        What is greased, point by point: it counts as done when something is said of each that is due.
    """

    id: str
    phase: Phase
    kind: StepKind
    name: Annotated[str, Words("step")]
    does: Annotated[str, Words("step")]
    why: Annotated[str, Words("step")]
    no: Annotated[str, Words("step")] = ""
    life: bool = False
    after: tuple[str, ...] = ()
    until: str = ""
    engine: EngineNow | None = None
    wait: Wait | None = None
    wait_s: float = 0.0
    reads: str = ""
    needles: tuple[str, ...] = ()
    within_s: float | None = None
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    checkpoints: tuple[str, ...] = ()
    modes: tuple[str, ...] = ()
    people: int = 1
    families: frozenset[str] = frozenset()
    options: frozenset[str] = frozenset()
    without: frozenset[str] = frozenset()
    when: frozenset[str] = frozenset()
    parts: tuple[StepPart, ...] = ()
    measures: tuple[str, ...] = ()
    schools: frozenset[str] = frozenset()
    points: tuple[GreasePoint, ...] = ()
    ways: tuple[StepPart, ...] = ()
    near: bool = False
    nobody: bool = False
    instead: str = ""
    spares: tuple[str, ...] = ()
    figures: tuple[str, ...] = ()
    role: StepRole | None = None

    @property
    def means(self) -> StepRole | None:
        """Its role; of a step that was pinned before there were roles, by its id."""
        return self.role or FORMER_ROLES.get(self.id)

    @property
    def waits_for(self) -> tuple[Phase, ...]:
        """Phases that are finished before it: a test with the engine off is made before the start, or at a stop."""
        off = self.phase is Phase.TESTS and self.engine is EngineNow.STOPPED
        return FIRST[Phase.START] if off else FIRST[self.phase]

    @property
    def before_crank(self) -> bool:
        """Whether it belongs before the engine is cranked."""
        return self.phase is Phase.READY or (self.phase is Phase.START and self.engine is not EngineNow.RUNNING)

    def fits(self, options: frozenset[str], answers: Iterable[str], schools: frozenset[str]) -> bool:
        """Whether a machine with these options has it, on an approach with these answers, under these schools."""
        there = self.options <= options and not self.without & options and self.schools <= schools
        return there and (not self.when or bool(self.when & set(answers)))


def having_role(steps: Iterable[Step], role: StepRole) -> frozenset[str]:
    """The ids of the steps with a role.

    >>> sorted(having_role([Step("meter", Phase.SHUTDOWN, StepKind.OBSERVE, "Hour meter", "", "")], StepRole.METER))
    ['meter']
    """
    return frozenset(s.id for s in steps if s.means is role)


def steps_for(
    steps: Sequence[Step], options: frozenset[str], answers: Iterable[str], schools: frozenset[str]
) -> tuple[Step, ...]:  # fmt: skip
    """The steps that a machine has on an occasion, in order, each with the parts and points that it has.

    >>> lamp = Step("lamp", Phase.TESTS, StepKind.TEST, "Lamps", "", "")
    >>> beacon = Step("beacon", Phase.TESTS, StepKind.TEST, "Beacon", "", "", options=frozenset({"beacon"}))
    >>> [s.id for s in steps_for([lamp, beacon], frozenset(), (), frozenset())]
    ['lamp']
    """
    said = frozenset(answers)
    there = [s for s in steps if s.fits(options, said, schools)]
    return tuple(
        replace(
            s,
            points=tuple(p for p in s.points if p.fits(options, schools)),
            parts=tuple(p for p in s.parts if p.options <= options),
        )
        for s in there
    )
