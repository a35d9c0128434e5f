"""What a run has come to at a time, as whoever asks sees it: each step, the engine, what is missing, the one word."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from jutrel.core.procedure.kinds import EngineNow
from jutrel.core.procedure.step import Step, StepKind
from jutrel.core.wording import NOTHING, Said, say


class Mark(StrEnum):
    """How a step stands. Void: it was said, and does not count."""

    OPEN = "open"
    LATER = "later"
    WAITING = "waiting"
    DONE = "done"
    FAILED = "failed"
    SKIPPED = "skipped"
    LOST = "lost"
    VOID = "void"


class Stand(StrEnum):
    """How a run stands. Stop: the engine is to be stopped at once. Not cleared: it runs, and may not work any more."""

    PREPARING = "preparing"
    CRANKING = "cranking"
    STARTED = "started"
    STOP = "stop"
    WARMING = "warming"
    READY_TO_WORK = "ready-to-work"
    WORKING = "working"
    NOT_CLEARED = "not-cleared"
    PUTTING_RIGHT = "putting-right"
    SHUTTING_DOWN = "shutting-down"
    STOPPED = "stopped"
    SECURED = "secured"
    ENDED = "ended"


@dataclass(frozen=True, slots=True)
class Gate:
    """Whether the machine may be started, as its open defects and its last inspection say.

    `held`: it is not to run at all. `limits`: what it may only do; `accepted_as` names these limits, so that accepting
    others does not count for them. `no_work`: why it may run and be tested and not work; `until`: when what clears it
    runs out, and at which hours of the machine [h].
    """

    may: bool
    held: bool
    why: Said
    limits: tuple[Said, ...] = ()
    accepted_as: str = ""
    no_work: Said = NOTHING
    until: datetime | None = None
    until_hour: float | None = None
    cure: Said = NOTHING
    """What it is started for, where it is started to put it right and for nothing else; `moved`: to another place."""
    moved: bool = False
    no_cure: Said = NOTHING
    """Why somebody's own word that they start it to put it right does not count, or not any more."""


@dataclass(frozen=True, slots=True)
class StepNow:
    """A step, how it stands, and why it does not count or cannot be done yet.

    `ready_at`: when a wait is over. `heads`: the entries that say so, which another word about it sets aside.
    """

    step: Step
    mark: Mark
    says: Said = NOTHING
    ready_at: datetime | None = None
    heads: tuple[str, ...] = ()
    value: float | None = None
    by: str = ""
    at: datetime | None = None
    reason: str = ""
    spared: bool = False
    """Another step came in its place."""

    @property
    def settled(self) -> bool:
        """Whether what comes after it may go on."""
        return (
            self.spared
            or self.mark in (Mark.DONE, Mark.SKIPPED)
            or (self.mark is Mark.FAILED and self.step.kind is StepKind.TEST and not self.step.life)
        )


@dataclass(frozen=True, slots=True)
class RunState:
    """What a run has come to at a time.

    `missing`: what stands between here and the next thing; `engine_heads`: the entries that say what the engine does.
    `needs_cause`: what was found has to be written down before it is cranked again.
    `tries`: since it ran last, or since somebody wrote down what was found. `due_at`: until when the oil pressure is
    to stand.
    """

    stand: Stand
    says: Said
    missing: tuple[Said, ...]
    steps: tuple[StepNow, ...]
    engine: EngineNow
    engine_since: datetime | None
    engine_heads: tuple[str, ...]
    started_at: datetime | None
    tries: int
    may_crank: bool
    needs_cause: bool
    due_at: datetime | None

    @property
    def ready_to_start(self) -> bool:
        """Whether the engine may be cranked now."""
        return self.stand in (Stand.PREPARING, Stand.STOPPED) and self.may_crank

    @property
    def ready_to_work(self) -> bool:
        """Whether it may leave the parking place, or has."""
        return self.stand in (Stand.READY_TO_WORK, Stand.WORKING)

    def step(self, key: str) -> StepNow | None:
        """The step of that id."""
        return next((s for s in self.steps if s.step.id == key), None)


def open_said(step: Step, now: StepNow) -> Said:
    """A step that is not settled, with why where something was said about it."""
    name = Said(step.name, (), "step")
    match now.mark:
        case Mark.FAILED:
            return say("{name}: it is not so.", name=name)
        case Mark.LOST | Mark.VOID:
            return say("{name}: {why}", name=name, why=now.says)
        case _:
            return name
