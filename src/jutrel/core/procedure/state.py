"""What a run has come to: each step, the engine, what is missing, and the one word for it.

The answer depends on the set of entries, what is known beside them, and the time it is asked for: the same run
replays to the same answer. Nothing here believes that a step is done because a later one is.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from enum import StrEnum

from jutrel.core.inspection.kinds import Abandoned
from jutrel.core.log.entry import Entry
from jutrel.core.procedure.kinds import Colour, Engine, EngineNow, Outcome, Remarked, Stepped
from jutrel.core.procedure.step import FIRST, Phase, Step, StepKind, Wait
from jutrel.core.wording import NOTHING, Number, Said, say

GRACE_S = 5.0
"""What a hand needs to say that a needle stood in time [s]; common practice."""
TICK_S = 1.0
"""Timers on the page and times of entries differ by less than this [s]."""
LONGEST_CRANK_S, REST_S, MOST_TRIES = 30.0, 120.0, 3
"""Common practice, as in the reading "cranking"."""
AFRESH = (Phase.START, Phase.WARM_UP, Phase.MOVE_OFF)
"""Phases that are gone through again after each stop of the engine."""
LAST = (Phase.SHUTDOWN, Phase.HAND_OVER)
"""Phases that count from the last start."""
WORST = (Outcome.LOST, Outcome.FAILED, Outcome.SKIPPED, Outcome.DONE)
"""Two who have not seen each other's word: the worse counts."""
MOST_STEPS_BACK = 60
"""How long a row of words with wrong clocks is put in order; a circle of names ends here."""
LIMITS = "limits"
"""The step that accepts what the machine may only do within limits."""


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
    """How a run stands. Stop: the engine is to be stopped at once."""

    PREPARING = "preparing"
    CRANKING = "cranking"
    STARTED = "started"
    STOP = "stop"
    WARMING = "warming"
    READY_TO_WORK = "ready-to-work"
    WORKING = "working"
    SHUTTING_DOWN = "shutting-down"
    STOPPED = "stopped"
    SECURED = "secured"
    ENDED = "ended"


@dataclass(frozen=True, slots=True)
class Gate:
    """Whether the machine may be started, as its open defects and its last inspection say.

    `held`: it is not to run at all. `limits`: what it may only do; `accepted_as` names these limits, so that accepting
    others does not count for them.
    """

    may: bool
    held: bool
    why: Said
    limits: tuple[Said, ...] = ()
    accepted_as: str = ""


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

    @property
    def settled(self) -> bool:
        """Whether what comes after it may go on."""
        return self.mark in (Mark.DONE, Mark.SKIPPED) or (
            self.mark is Mark.FAILED and self.step.kind is StepKind.TEST and not self.step.life
        )


@dataclass(frozen=True, slots=True)
class RunState:
    """What a run has come to at a time.

    `missing`: what stands between here and the next thing; `engine_heads`: the entries that say what the engine does.
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


@dataclass(frozen=True)
class Run:
    """The entries of a run that stand, in order, with what is known beside them."""

    steps: Sequence[Step]
    entries: Sequence[Entry]
    gate: Gate
    waits: Mapping[Wait, float] = field(default_factory=dict)
    """Seconds to wait, where they are computed."""

    def __post_init__(self) -> None:
        """Entries once each, by time."""
        once = in_order(self.entries)
        object.__setattr__(self, "entries", once)
        steps = [s for s in self.steps if s.id != LIMITS or self.gate.limits]
        object.__setattr__(self, "steps", steps)
        object.__setattr__(self, "_by_id", {s.id: s for s in steps})
        object.__setattr__(self, "_known", {})
        said: dict[str, list[Entry]] = {}
        for e in once:
            if isinstance(e.what, Stepped):
                said.setdefault(e.what.step, []).append(e)
        object.__setattr__(self, "_said", said)
        object.__setattr__(self, "_engine", [e for e in once if isinstance(e.what, Engine)])

    # --- the engine

    def _changes(self, at: datetime) -> list[Entry]:
        return [e for e in self._engine if e.time <= at]  # type: ignore[attr-defined]

    def engine_at(self, at: datetime) -> tuple[EngineNow, tuple[Entry, ...]]:
        """What the engine does at a time, and the entries that say so; who differ: it runs until both are seen."""
        found = heads(self._changes(at))
        said = {e.what.state for e in found}  # type: ignore[attr-defined]
        for state in (EngineNow.RUNNING, EngineNow.CRANKING):
            if state in said:
                return state, found
        return EngineNow.STOPPED, found

    def last(self, state: EngineNow, at: datetime) -> datetime | None:
        """When the engine began to do that last."""
        times = [e.time for e in self._changes(at) if e.what.state is state]  # type: ignore[attr-defined]
        return times[-1] if times else None

    def tries(self, at: datetime) -> int:
        """Cranks since it ran last, or since somebody wrote down what was found."""
        count = 0
        for e in self._changes(at):
            match e.what:
                case Engine(state=EngineNow.RUNNING):
                    count = 0
                case Engine(state=EngineNow.CRANKING, why=why):
                    count = 1 if why.strip() else count + 1
                case _:
                    pass
        return count

    # --- steps

    def _slot(self, step: Step, at: datetime) -> tuple[Entry, ...]:
        """What is said of a step at a time, in this go."""
        said = self._said.get(step.id)  # type: ignore[attr-defined]
        if not said:
            return ()
        begun = None
        if step.phase in AFRESH:
            begun = self.last(EngineNow.STOPPED, at)
        elif step.phase in LAST:
            begun = self.last(EngineNow.RUNNING, at)
        return heads([e for e in said if e.time <= at and (begun is None or e.time > begun)])

    def step_at(self, step: Step, at: datetime) -> StepNow:
        """How a step stands at a time."""
        found = self._slot(step, at)
        return self._known_as(step, found) if found else self._open(step, at)

    def _known_as(self, step: Step, found: tuple[Entry, ...]) -> StepNow:
        """How a step stands by what is said of it: judged once for each set of words."""
        key = (step.id, *(e.id for e in found))
        known: dict[object, StepNow] = self._known  # type: ignore[attr-defined]
        if key not in known:
            known[key] = self._judged(step, found)
        return known[key]

    def _open(self, step: Step, at: datetime) -> StepNow:
        lacking = self.lacking(step, at)
        if lacking:
            return StepNow(step, Mark.LATER, lacking[0])
        over = self.over_at(step, at)
        if over is not None and over > at:
            return StepNow(step, Mark.WAITING, say("The time is not over yet."), over)
        return StepNow(step, Mark.OPEN, ready_at=over)

    def _judged(self, step: Step, found: Sequence[Entry]) -> StepNow:
        entry = min(found, key=lambda e: (WORST.index(e.what.outcome), e.time, e.id))  # type: ignore[attr-defined]
        what = entry.what
        assert isinstance(what, Stepped)
        told = StepNow(
            step, Mark.VOID, NOTHING, None, tuple(e.id for e in found), what.value, entry.by, entry.time, what.reason
        )
        match what.outcome:
            case Outcome.LOST:
                return _with(told, Mark.LOST, say("It holds no longer."))
            case Outcome.FAILED:
                return _with(told, Mark.FAILED, NOTHING)
            case Outcome.SKIPPED:
                why = self.no_skip(step, what.reason)
                return _with(told, Mark.VOID if why else Mark.SKIPPED, why)
            case Outcome.DONE:
                why = self._no_count(step, what, entry.time)
                return _with(told, Mark.VOID if why else Mark.DONE, why)

    @staticmethod
    def no_skip(step: Step, reason: str) -> Said:
        """Why a step cannot be skipped; empty if it can."""
        if step.life:
            return say("A life depends on it: it is not skipped.")
        return NOTHING if reason.strip() else say("Say why it was skipped.")

    def _no_count(self, step: Step, what: Stepped, at: datetime) -> Said:
        """Why a word that a step is done does not count; empty if it does."""
        lacking = self.lacking(step, at)
        if lacking:
            return lacking[0]
        if step.id == LIMITS and what.word != self.gate.accepted_as:
            return say("The limits are others now: read them again.")
        over = self.over_at(step, at)
        if over is not None and at < over - timedelta(seconds=TICK_S):
            return say("It was said before the time was over.")
        if step.within_s is not None and (began := self.last(EngineNow.RUNNING, at)) is not None:
            took = (at - began).total_seconds()
            if took > step.within_s + GRACE_S:
                return say("It was said {took} after the start.", took=Number(took, 0, "s"))
        if step.unit:
            if what.value is None:
                return say("The figure is missing.")
            if not step.low <= what.value <= step.high:
                return say(
                    "It is between {low} and {high}.",
                    low=Number(step.low, 0, step.unit),
                    high=Number(step.high, 0, step.unit),
                )
        return NOTHING

    def lacking(self, step: Step, at: datetime) -> list[Said]:
        """What has to come before a step and has not, at a time."""
        out = []
        state, _ = self.engine_at(at)
        if step.engine is not None and state is not step.engine:
            out.append(ENGINE_FIRST[step.engine])
        for other in self.steps:
            named = other.id in step.after
            if not named and other.phase not in FIRST[step.phase]:
                continue
            if other is step or other.id == LIMITS or (other.kind is StepKind.INTERLOCK and not named):
                continue  # interlocks are watched by themselves, and limits may come up at any time
            found = self._slot(other, at)
            if not found or not self._known_as(other, found).settled:
                out.append(say("First: {name}", name=Said(other.name, (), "step")))
        return out

    def over_at(self, step: Step, at: datetime) -> datetime | None:
        """When the time of a step is over; None if it has none, or nothing began it."""
        if step.wait is None:
            return None
        seconds = step.wait_s if step.wait is Wait.SECONDS else self.waits.get(step.wait, step.wait_s)
        times = [e.time for a in step.after if a in self._by_id for e in self._slot(self._by_id[a], at)]  # type: ignore[attr-defined]
        began = max(times, default=None) if step.after else self.last(EngineNow.RUNNING, at)
        return None if began is None else began + timedelta(seconds=seconds)

    def before_crank(self, at: datetime, running: bool = False) -> list[Said]:
        """What is missing before the engine may be cranked, or while it turns.

        Limits that came up while it runs are read and accepted before it works on; nobody stops the engine for that.
        """
        out: list[Said] = []
        for step in self.steps:
            if not step.before_crank or (running and step.id == LIMITS):
                continue
            now = self.step_at(step, at)
            if step.kind is StepKind.INTERLOCK:
                if now.mark is not Mark.DONE and not self.released(step, at):
                    out.append(open_said(step, now))
            elif not now.settled:
                out.append(open_said(step, now))
        return out

    def released(self, step: Step, at: datetime) -> bool:
        """Whether an interlock is watched no longer, because what it was watched for has come."""
        until = self._by_id.get(step.until)  # type: ignore[attr-defined]
        return until is not None and self.step_at(until, at).mark is Mark.DONE

    # --- the whole

    def at(self, now: datetime) -> RunState:
        """What the run has come to at a time."""
        engine, engine_heads = self.engine_at(now)
        steps = tuple(self.step_at(s, now) for s in self.steps)
        started = self.last(EngineNow.RUNNING, now)
        tries = self.tries(now)
        lacking = self.before_crank(now, engine is EngineNow.RUNNING)
        due = self._due(steps, started) if engine is EngineNow.RUNNING else None
        stand, says, missing = self._stand(engine, steps, lacking, started, now)
        return RunState(
            stand=stand,
            says=says,
            missing=tuple(missing),
            steps=steps,
            engine=engine,
            engine_since=engine_heads[-1].time if engine_heads else None,
            engine_heads=tuple(e.id for e in engine_heads),
            started_at=started,
            tries=tries,
            may_crank=self.gate.may and not lacking and not self._no_crank(now),
            due_at=due,
        )

    def _no_crank(self, now: datetime) -> Said:
        """Why the starter may not be turned again; empty if it may."""
        cranks = [e for e in self._changes(now) if e.what.state is EngineNow.CRANKING]  # type: ignore[attr-defined]
        tries = self.tries(now)
        if tries >= MOST_TRIES:
            return say("Three tries: look for the cause first. Fuel, air, battery, interlock.")
        if tries and cranks:
            ended = [e.time for e in self._changes(now) if e.time >= cranks[-1].time and e is not cranks[-1]]
            rested = (now - (ended[0] if ended else now)).total_seconds()
            if rested < REST_S:
                return say("Let the starter rest {n} more.", n=Number(REST_S - rested, 0, "s"))
        return NOTHING

    @staticmethod
    def _due(steps: Sequence[StepNow], started: datetime | None) -> datetime | None:
        waiting = [s.step.within_s for s in steps if s.step.within_s is not None and not s.settled]
        return started + timedelta(seconds=min(waiting)) if waiting and started is not None else None

    def _stand(
        self, engine: EngineNow, steps: Sequence[StepNow], lacking: list[Said], started: datetime | None, now: datetime
    ) -> tuple[Stand, Said, list[Said]]:
        ended = any(isinstance(e.what, Abandoned) for e in self.entries)
        if engine is EngineNow.STOPPED:
            if ended:
                return Stand.ENDED, say("This run was ended with a reason."), []
            if started is None or self._starting_again(now):
                return self._preparing(lacking, started, now)
            left = [open_said(s.step, s) for s in steps if s.step.phase is Phase.SHUTDOWN and not s.settled]
            if left:
                return Stand.STOPPED, say("The engine stands. It is not secured yet."), left
            return Stand.SECURED, say("Engine off, tool down, keys away."), []
        wrong = self._wrong(engine, steps, lacking, started, now)
        if wrong:
            first = say("Stop the engine: {why}", why=wrong[0])
            if engine is EngineNow.CRANKING:
                first = say("Let go of the key: {why}", why=wrong[0])
            return Stand.STOP, first, wrong
        if engine is EngineNow.CRANKING:
            return Stand.CRANKING, say("Crank for 30 s at most."), []
        return self._running(steps)

    def _starting_again(self, now: datetime) -> bool:
        """Whether somebody began to go through the start again after a stop."""
        stopped = self.last(EngineNow.STOPPED, now)
        said = self._said.items()  # type: ignore[attr-defined]
        again = {k for k, all_ in said if any(e.time <= now and (stopped is None or e.time > stopped) for e in all_)}
        return any(s.id in again and s.phase is Phase.START for s in self.steps)

    def _preparing(
        self, lacking: list[Said], started: datetime | None, now: datetime
    ) -> tuple[Stand, Said, list[Said]]:  # fmt: skip
        stand = Stand.PREPARING if started is None else Stand.STOPPED
        if not self.gate.may:
            return stand, say("Do not start it: {why}", why=self.gate.why), [self.gate.why, *lacking]
        if lacking:
            return stand, say("Not ready to start yet."), lacking
        if rest := self._no_crank(now):
            return stand, rest, [rest]
        return stand, say("Ready to start."), []

    def _wrong(
        self, engine: EngineNow, steps: Sequence[StepNow], lacking: list[Said], started: datetime | None, now: datetime
    ) -> list[Said]:
        """Why an engine that turns is to be stopped at once."""
        out = [self.gate.why] if self.gate.held else []
        out += lacking
        if engine is EngineNow.CRANKING:
            since = self.last(EngineNow.CRANKING, now)
            if since is not None and (now - since).total_seconds() > LONGEST_CRANK_S + TICK_S:
                out.append(say("A starter takes 30 s at most."))
            return out
        for s in steps:
            if s.step.phase is not Phase.START or s.step.before_crank or s.settled:
                continue
            name = Said(s.step.name, (), "step")
            if s.mark in (Mark.FAILED, Mark.LOST, Mark.VOID):
                out.append(say("{name}. {no}", name=name, no=Said(s.step.no, (), "step") if s.step.no else s.says))
            elif s.step.within_s and started and (now - started).total_seconds() > s.step.within_s + GRACE_S:
                n = Number(s.step.within_s, 0, "s")
                out.append(say("{name}: nobody said within {n} that it is so.", name=name, n=n))
        for e in self.entries:
            if isinstance(e.what, Remarked) and e.what.colour is Colour.RED and started and started < e.time <= now:
                out.append(say("A red warning was reported. Stop in a safe place, tool down, engine off."))
                break
        return out

    def _running(self, steps: Sequence[StepNow]) -> tuple[Stand, Said, list[Said]]:
        if any(s.step.phase is Phase.SHUTDOWN and s.mark in (Mark.DONE, Mark.FAILED) for s in steps):
            left = [open_said(s.step, s) for s in steps if s.step.phase is Phase.SHUTDOWN and not s.settled]
            return Stand.SHUTTING_DOWN, say("Tool down, cool down, then the key."), left
        start = [open_said(s.step, s) for s in steps if s.step.phase is Phase.START and not self._through(s)]
        if start:
            return Stand.STARTED, say("No throttle until it stands."), start
        left = [
            open_said(s.step, s)
            for s in steps
            if (s.step.phase in (Phase.WARM_UP, Phase.TESTS) or s.step.id == LIMITS) and not s.settled
        ]
        if left:
            return Stand.WARMING, say("Not ready to work yet."), left
        going = [open_said(s.step, s) for s in steps if s.step.phase is Phase.MOVE_OFF and not s.settled]
        if going:
            return Stand.READY_TO_WORK, say("Ready to work."), going
        return Stand.WORKING, say("Loads low, straight up and down slopes. Stop if anyone comes near."), []

    @staticmethod
    def _through(s: StepNow) -> bool:
        return s.settled or s.step.kind is StepKind.INTERLOCK


ENGINE_FIRST = {
    EngineNow.STOPPED: say("First the engine is stopped."),
    EngineNow.CRANKING: say("While it is cranked."),
    EngineNow.RUNNING: say("First the engine runs."),
}


def in_order(entries: Iterable[Entry]) -> list[Entry]:
    """Entries once each, by time; what sets another aside came after it, whatever a device's clock says."""
    once = {e.id: e for e in entries}
    placed = dict(once)
    for _ in range(MOST_STEPS_BACK):
        moved = False
        for e in list(placed.values()):
            late = max((placed[r].time for r in e.replaces if r in placed and r != e.id), default=None)
            if late is not None and late >= e.time:
                placed[e.id] = replace(e, heard_at=late + timedelta(microseconds=1))
                moved = True
        if not moved:
            break
    return sorted(placed.values(), key=lambda e: (e.time, e.id))


def heads(entries: Sequence[Entry]) -> tuple[Entry, ...]:
    """Those that no other of them has seen and set aside."""
    named = {r for e in entries for r in e.replaces if r != e.id}
    kept = tuple(e for e in entries if e.id not in named)
    return kept or tuple(entries)  # a circle of names sets nothing aside


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


def _with(told: StepNow, mark: Mark, says: Said) -> StepNow:
    return StepNow(
        told.step, mark, says, told.ready_at, told.heads, told.value, told.by, told.at, told.reason
    )  # fmt: skip


def watched(run: Run, now: datetime) -> Iterable[StepNow]:
    """Interlocks that are watched at a time."""
    for step in run.steps:
        if step.kind is StepKind.INTERLOCK and not run.released(step, now):
            yield run.step_at(step, now)
