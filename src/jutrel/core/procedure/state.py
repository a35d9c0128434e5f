"""What a run has come to: each step, the engine, what is missing, and the one word for it.

The answer depends on the set of entries, what is known beside them, and the time it is asked for: the same run
replays to the same answer. Nothing here believes that a step is done because a later one is.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from jutrel.core.inspection.kinds import Abandoned
from jutrel.core.procedure.engine import LONGEST_CRANK_S, MOST_TRIES
from jutrel.core.procedure.kinds import EngineNow
from jutrel.core.procedure.now import Gate, Mark, RunState, Stand, StepNow, open_said
from jutrel.core.procedure.step import Phase, StepKind, StepRole
from jutrel.core.procedure.steps_now import GRACE_S, TICK_S, StepsNow
from jutrel.core.wording import NOTHING, Number, Said, say, together

SOON = timedelta(minutes=30)
"""So long before it the end of a clearance is told: enough to finish a load and park; common practice."""
END_WORK = say("It does not work now. Put down what is up, nobody near, then park and stop the engine.")
ALONE = say("Nothing else, and no work. Nobody near: stop it if anybody comes.")
__all__ = ["Gate", "Mark", "Run", "RunState", "Stand", "StepNow"]


class Run(StepsNow):
    """The entries of a run that stand, in order, with what is known beside them; what it has come to at a time."""

    def at(self, now: datetime) -> RunState:
        """What the run has come to at a time."""
        engine, engine_heads = self.line.at(now)
        steps = tuple(s for s in (self.step_at(s, now) for s in self.steps) if not s.spared or s.heads)
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
        return self._running(steps, now)

    def _starting_again(self, now: datetime) -> bool:
        """Whether somebody began to go through the start again after a stop."""
        stopped = self.line.last(EngineNow.STOPPED, now)
        said = self._said.items()
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

    def _running(self, steps: Sequence[StepNow], now: datetime) -> tuple[Stand, Said, list[Said]]:
        if any(s.step.phase is Phase.SHUTDOWN and s.mark in (Mark.DONE, Mark.FAILED) for s in steps):
            left = [open_said(s.step, s) for s in steps if s.step.phase is Phase.SHUTDOWN and not s.settled]
            return Stand.SHUTTING_DOWN, say("Tool down, cool down, then the key."), left
        start = [open_said(s.step, s) for s in steps if s.step.phase is Phase.START and not self._through(s)]
        if start:
            return Stand.STARTED, say("No throttle until it stands."), start
        if self.gate.cure:
            return self._putting_right(steps, now)
        left = [
            open_said(s.step, s)
            for s in steps
            if (s.step.phase in (Phase.WARM_UP, Phase.TESTS) or s.step.means is StepRole.LIMITS) and not s.settled
        ]
        if left:
            return Stand.WARMING, say("Not ready to work yet."), left
        why = self.gate.no_work or (NOTHING if self.gate.may else self.gate.why)
        if why and not any(s.step.phase is Phase.MOVE_OFF and s.settled for s in steps):
            return Stand.WARMING, say("It is not ready to work: {why}", why=why), [why]
        if why:
            return Stand.NOT_CLEARED, say("{end} {why}", end=END_WORK, why=why), [why]
        going = [open_said(s.step, s) for s in steps if s.step.phase is Phase.MOVE_OFF and not s.settled]
        soon = self._soon(now)
        if going:
            return Stand.READY_TO_WORK, together([say("Ready to work."), soon]), going
        says = say("Loads low, straight up and down slopes. Stop if anyone comes near.")
        return Stand.WORKING, together([says, soon]), []

    def _soon(self, now: datetime) -> Said:
        """That what clears it ends soon; empty if not."""
        if self.gate.until is None or self.gate.until - now > SOON:
            return NOTHING
        minutes = max(0.0, (self.gate.until - now).total_seconds() / 60)
        return say("What clears it ends in {n}: plan where to park.", n=Number(minutes, 0, "min"))

    def _putting_right(self, steps: Sequence[StepNow], now: datetime) -> tuple[Stand, Said, list[Said]]:
        """It runs for its cure: in place once it has started well, moved once what a life depends on was tried."""
        if not self.gate.may:
            return Stand.NOT_CLEARED, say("{end} {why}", end=END_WORK, why=self.gate.why), [self.gate.why]
        soon = self._soon(now)
        tests = [s for s in steps if s.step.phase is Phase.TESTS and s.step.life and not s.settled]
        if self.gate.moved and tests:
            return Stand.WARMING, say("Not before it is moved:"), [open_said(s.step, s) for s in tests]
        return Stand.PUTTING_RIGHT, together([say("{cure}. {alone}", cure=self.gate.cure, alone=ALONE), soon]), []

    @staticmethod
    def _through(s: StepNow) -> bool:
        return s.settled or s.step.kind is StepKind.INTERLOCK
