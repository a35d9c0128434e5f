"""What a run has come to: each step, the engine, what is missing, and the one word for it.

The answer depends on the set of entries, what is known beside them, and the time it is asked for: the same run
replays to the same answer. Nothing here believes that a step is done because a later one is.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from jutrel.core.inspection.kinds import Abandoned
from jutrel.core.log.entry import Entry
from jutrel.core.panel.signals import BY_KEY
from jutrel.core.panel.told import Happening, Told, alert_said
from jutrel.core.panel.watch import STANDS_FROM
from jutrel.core.procedure.engine import LONGEST_CRANK_S, MOST_TRIES, UNEXPLAINED, EngineLine
from jutrel.core.procedure.greasing import PointNow, points_now
from jutrel.core.procedure.kinds import Colour, EngineNow, Outcome, Remarked, Stepped
from jutrel.core.procedure.measured import Measured
from jutrel.core.procedure.now import Gate, Mark, RunState, Stand, StepNow, open_said
from jutrel.core.procedure.step import FIRST, Phase, Step, StepKind, Wait
from jutrel.core.procedure.words import heads, in_order
from jutrel.core.wording import NOTHING, Number, Said, say

__all__ = ["Gate", "Mark", "Run", "RunState", "Stand", "StepNow", "watched"]

GRACE_S = 5.0
"""What a hand needs to say that a needle stood in time [s]; common practice."""
TICK_S = 1.0
"""Timers on the page and times of entries differ by less than this [s]."""
ASK_AGAIN_S = 30.0
"""How far ahead a wait is put off that a needle keeps from ending [s]."""
AFRESH = (Phase.START, Phase.WARM_UP, Phase.MOVE_OFF)
"""Phases that are gone through again after each stop of the engine."""
LAST = (Phase.SHUTDOWN, Phase.HAND_OVER)
"""Phases that count from the last start."""
WORST = (Outcome.LOST, Outcome.FAILED, Outcome.SKIPPED, Outcome.DONE)
"""Two who have not seen each other's word: the worse counts."""
LIMITS = "limits"
"""The step that accepts what the machine may only do within limits."""


@dataclass(frozen=True)
class Run:
    """The entries of a run that stand, in order, with what is known beside them."""

    steps: Sequence[Step]
    entries: Sequence[Entry]
    gate: Gate
    waits: Mapping[Wait, float] = field(default_factory=dict)
    """Seconds to wait, where they are computed."""
    told: Sequence[Told] = ()
    """What the machine told over its bus meanwhile, if it is read."""
    measured: Sequence[Measured] = ()
    """What was measured meanwhile at the checkpoints of its tests."""
    greased: Mapping[str, float] = field(default_factory=dict)
    """At how many hours each point was greased before this run [h]."""
    hours: float = 0.0
    """The machine's hours now [h]."""
    owed: Said = NOTHING
    """What the run before this one left unexplained; empty: nothing."""

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
        object.__setattr__(self, "measured", sorted(self.measured, key=lambda m: (m.at, m.entry)))
        told = sorted(self.told, key=lambda t: (t.at, t.id))
        object.__setattr__(self, "told", told)
        object.__setattr__(self, "line", EngineLine(once, told))

    line: EngineLine = field(init=False, repr=False, compare=False)
    """The course of the engine."""

    # --- what the machine told

    def _begun(self, at: datetime) -> datetime | None:
        """Since when the engine runs, if the machine itself says so: then its values are gone by."""
        if self.line.told_at(at) is not EngineNow.RUNNING:
            return None
        return self.line.last(EngineNow.RUNNING, at)

    def stood(self, step: Step, at: datetime) -> Told | None:
        """That the signal of a step came to stand, in this go of the engine."""
        stopped = self.line.last(EngineNow.STOPPED, at)
        found = [
            t for t in self.told
            if t.what is Happening.STOOD and t.word == step.reads and t.at <= at and (stopped is None or t.at > stopped)
        ]  # fmt: skip
        return found[0] if found else None

    def _silent(self, signal: str, at: datetime) -> bool:
        """Whether nobody knows a signal at a time: its value went and did not come back, or the bus is silent."""
        about = [t for t in self.told if t.word == signal and t.at <= at and t.what in VALUE]
        return bool(about) and about[-1].what is Happening.SILENT

    def unexplained(self, at: datetime) -> Said:
        """That it was stopped for something bad and nobody wrote down what was found; empty if not."""
        if self.owed and not self.line.cause_since(None, at):
            return self.owed
        span = self.line.ended(at)
        if span is None:
            return NOTHING
        began, ended = span
        bad = self.reds(began, ended) or any(self._gave_up(s, began, ended) for s in self.steps)
        if not bad or self.line.cause_since(ended, at):
            return NOTHING
        return UNEXPLAINED

    def _gave_up(self, step: Step, began: datetime, ended: datetime) -> bool:
        """Whether a step that proves the start failed while the engine ran."""
        if step.phase is not Phase.START or step.before_crank:
            return False
        said = heads([e for e in self._said.get(step.id, ()) if e.time <= ended])  # type: ignore[attr-defined]
        bad = (Outcome.FAILED, Outcome.LOST)
        return any(e.time > began and isinstance(e.what, Stepped) and e.what.outcome in bad for e in said)

    def reds(self, since: datetime, until: datetime) -> list[Said]:
        """What was red between two times, by people and by the machine."""
        out = []
        for e in self.entries:
            if isinstance(e.what, Remarked) and e.what.colour is Colour.RED and since < e.time <= until:
                out.append(say("A red warning was reported. Stop in a safe place, tool down, engine off."))
                break
        named = {t.word: None for t in self.told if _red(t) and since <= t.at <= until}
        return out + [alert_said(k) for k in named]

    # --- steps

    def _slot(self, step: Step, at: datetime) -> tuple[Entry, ...]:
        """What is said of a step at a time, in this go."""
        said = self._said.get(step.id)  # type: ignore[attr-defined]
        if not said:
            return ()
        begun = None
        if step.phase in AFRESH:
            begun = self.line.last(EngineNow.STOPPED, at)
        elif step.phase in LAST:
            begun = self.line.last(EngineNow.RUNNING, at)
        return heads([e for e in said if e.time <= at and (begun is None or e.time > begun)])

    def step_at(self, step: Step, at: datetime) -> StepNow:
        """How a step stands at a time."""
        return self._told_of(step, at) or self._open(step, at)

    def _told_of(self, step: Step, at: datetime) -> StepNow | None:
        """How a step stands by what people said of it, else by what the machine measured; None: nobody knows."""
        found = self._slot(step, at)
        bad = self._measured_bad(step, at)
        if found:
            told = self._known_as(step, found)
            if bad is None or told.mark in (Mark.FAILED, Mark.LOST):
                return told
            return _with(told, Mark.VOID, say("It was measured otherwise: {action}", action=bad.action))
        if bad is not None:
            return StepNow(step, Mark.FAILED, bad.action, by=bad.by, at=bad.at)
        if not step.reads or step.kind is not StepKind.OBSERVE:
            return None
        stood = self.stood(step, at)
        if stood is None or self.lacking(step, stood.at):
            return None
        told = StepNow(step, Mark.DONE, say("The machine says so."), value=stood.value, at=stood.at)
        late = self._late(step, stood.at)
        return _with(told, Mark.VOID, late) if late else told

    def _measured_bad(self, step: Step, at: datetime) -> Measured | None:
        """The measurement that fails a test: the newest of a reading counts, whatever is said beside it."""
        newest = {m.reading: m for m in self.measured if m.at <= at and m.tries(step)}
        return next((m for m in newest.values() if m.fails), None)

    def _late(self, step: Step, at: datetime, grace: float = TICK_S) -> Said:
        """That something came too late after the start; empty if it came in time."""
        began = self.line.last(EngineNow.RUNNING, at)
        if step.within_s is None or began is None or (at - began).total_seconds() <= step.within_s + grace:
            return NOTHING
        return say("It was said {took} after the start.", took=Number((at - began).total_seconds(), 0, "s"))

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
            return StepNow(step, Mark.WAITING, self._waits_for(step, at), over)
        return StepNow(step, Mark.OPEN, ready_at=over)

    def _waits_for(self, step: Step, at: datetime) -> Said:
        signal = BY_KEY.get(step.reads)
        if signal is None or self._begun(at) is None or self.stood(step, at) or self._silent(step.reads, at):
            return say("The time is not over yet.")
        return say("{name}: from {low} on.", name=signal.name, low=Number(STANDS_FROM[signal.key], 0, signal.unit))

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
        stood = self.stood(step, at) if step.reads else None
        if (late := self._late(step, at, GRACE_S)) and (stood is None or self._late(step, stood.at)):
            return late
        if ungreased := [p.point.name for p in self.points(step, at) if p.open]:
            return say("Nothing said yet of: {point}", point=Said(ungreased[0], (), "grease"))
        if untried := [Said(p.name, (), "step") for p in step.parts if p.id not in what.word.split()]:
            return say("Not tried yet: {part}", part=untried[0])
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

    def points(self, step: Step, at: datetime) -> tuple[PointNow, ...]:
        """What a step greases, point by point, as it stood at a time."""
        if not step.points:
            return ()
        return points_now(step.points, [e for e in self.entries if e.time <= at], self.greased, self.hours)

    def lacking(self, step: Step, at: datetime) -> list[Said]:
        """What has to come before a step and has not, at a time."""
        out = []
        state, _ = self.line.at(at)
        if step.engine is not None and state is not step.engine:
            out.append(ENGINE_FIRST[step.engine])
        for other in self.steps:
            named = other.id in step.after
            if not named and other.phase not in FIRST[step.phase]:
                continue
            if other is step or other.id == LIMITS or (other.kind is StepKind.INTERLOCK and not named):
                continue  # interlocks are watched by themselves, and limits may come up at any time
            told = self._told_of(other, at)
            if told is None or not told.settled:
                out.append(say("First: {name}", name=Said(other.name, (), "step")))
        return out

    def over_at(self, step: Step, at: datetime) -> datetime | None:
        """When the time of a step is over; None if it has none, or nothing began it."""
        if step.wait is None:
            return None
        seconds = step.wait_s if step.wait is Wait.SECONDS else self.waits.get(step.wait, step.wait_s)
        times = [e.time for a in step.after if a in self._by_id for e in self._slot(self._by_id[a], at)]  # type: ignore[attr-defined]
        began = max(times, default=None) if step.after else self.line.last(EngineNow.RUNNING, at)
        if began is None:
            return None
        over = began + timedelta(seconds=seconds)
        if not step.reads or self._begun(at) is None:
            return over
        stood = self.stood(step, at)
        if stood is not None:
            return max(over, stood.at)
        return over if self._silent(step.reads, at) else max(over, at + timedelta(seconds=ASK_AGAIN_S))

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
        engine, engine_heads = self.line.at(now)
        steps = tuple(self.step_at(s, now) for s in self.steps)
        started = self.line.last(EngineNow.RUNNING, now)
        tries = self.line.tries(now)
        lacking = self.before_crank(now, engine is EngineNow.RUNNING)
        cause = self.line.tries(now) >= MOST_TRIES or bool(self.unexplained(now))
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
            may_crank=self.gate.may and not lacking and not cause and not self.line.no_crank(now),
            needs_cause=cause,
            due_at=due,
        )

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
        stopped = self.line.last(EngineNow.STOPPED, now)
        said = self._said.items()  # type: ignore[attr-defined]
        again = {k for k, all_ in said if any(e.time <= now and (stopped is None or e.time > stopped) for e in all_)}
        return any(s.id in again and s.phase is Phase.START for s in self.steps)

    def _preparing(
        self, lacking: list[Said], started: datetime | None, now: datetime
    ) -> tuple[Stand, Said, list[Said]]:  # fmt: skip
        stand = Stand.PREPARING if started is None else Stand.STOPPED
        if not self.gate.may:
            says = self.gate.why if self.gate.held else say("Do not start it: {why}", why=self.gate.why)
            return stand, says, [self.gate.why, *lacking]
        if lacking:
            return stand, say("Not ready to start yet."), lacking
        if rest := self.unexplained(now) or self.line.no_crank(now):
            return stand, rest, [rest]
        return stand, say("Ready to start."), []

    def _wrong(
        self, engine: EngineNow, steps: Sequence[StepNow], lacking: list[Said], started: datetime | None, now: datetime
    ) -> list[Said]:
        """Why an engine that turns is to be stopped at once."""
        out = [self.gate.why] if self.gate.held else []
        out += lacking
        if engine is EngineNow.CRANKING:
            since = self.line.last(EngineNow.CRANKING, now)
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
        if started is not None:
            out += self.reds(started, now)
        if why := self.unexplained(now):
            out.append(why)
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


def _red(t: Told) -> bool:
    return t.what is Happening.ALERT and t.colour is Colour.RED


VALUE = (Happening.SILENT, Happening.HEARD, Happening.STOOD)
"""What is told of a signal's value."""


def _with(told: StepNow, mark: Mark, says: Said) -> StepNow:
    return StepNow(
        told.step, mark, says, told.ready_at, told.heads, told.value, told.by, told.at, told.reason
    )  # fmt: skip


def watched(run: Run, now: datetime) -> Iterable[StepNow]:
    """Interlocks that are watched at a time."""
    for step in run.steps:
        if step.kind is StepKind.INTERLOCK and not run.released(step, now):
            yield run.step_at(step, now)
