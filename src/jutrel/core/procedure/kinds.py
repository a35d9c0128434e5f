"""The entries of a run: what was done of a procedure, what the engine does, what was noticed at work."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated

from jutrel.core.inspection.finding import Prose, Word
from jutrel.core.log.codec import Between, Slug, Text
from jutrel.core.log.kinds import StreamKind, kind
from jutrel.core.people import WALKERS

RUN = "run"
"""The kind of look that a run is: opened with it, from key to key."""


class StepOutcome(StrEnum):
    """What became of a step. Lost: an interlock that held holds no longer."""

    DONE = "done"
    FAILED = "failed"
    SKIPPED = "skipped"
    LOST = "lost"


class EngineNow(StrEnum):
    """What the engine does."""

    STOPPED = "stopped"
    CRANKING = "cranking"
    RUNNING = "running"


class Sense(StrEnum):
    """How something was noticed at work. Gauge: a needle was read by eye; its colour is the band in which it stands."""

    NOISE = "noise"
    SMELL = "smell"
    FEEL = "feel"
    SIGHT = "sight"
    LAMP = "lamp"
    GAUGE = "gauge"


class Colour(StrEnum):
    """How urgent it is: red is stopped for at once, amber at the next stop."""

    RED = "red"
    AMBER = "amber"
    NONE = "none"


@kind("stepped", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Stepped:
    """A step of the procedure, and what became of it.

    `value` is the figure that the step asks for, in its unit; `word` what was accepted with it. `reason`: why it was
    skipped, or what was seen when it failed.
    """

    step: Slug
    outcome: StepOutcome
    value: Annotated[float, Between(-1e6, 1e6)] | None = None
    word: Word = ""
    reason: Prose = ""


@kind("engine", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Engine:
    """What the engine does from now on. `why`: why it was stopped at once, or what was found before trying again."""

    state: EngineNow
    why: Prose = ""


@kind("remarked", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Remarked:
    """Something noticed at work: how, how urgent, and where on the machine (a station, or nowhere in particular).

    `gauge`: which needle, where one was read by eye; without a colour it stands in the green.
    """

    sense: Sense
    colour: Colour
    station: Annotated[str, Text(60, 0, r"([A-Za-z0-9][A-Za-z0-9_.-]*)?")] = ""
    note: Prose = ""
    gauge: Word = ""


@kind("filled", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Filled:
    """What was filled up: which fluid, how much [L], and whether gloves and eye protection were on."""

    fluid: Slug
    litres: Annotated[float, Between(0, 20_000)]
    protected: bool
