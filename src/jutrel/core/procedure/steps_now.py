"""How each step of a run stands: by what people said of it, by what was measured, by what the machine told."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from datetime import datetime, timedelta

from jutrel.core.log.entry import Entry
from jutrel.core.panel.signals import BY_KEY
from jutrel.core.panel.watch import STANDS_FROM
from jutrel.core.procedure.evidence import Evidence
from jutrel.core.procedure.greasing import PointNow, points_now
from jutrel.core.procedure.kinds import EngineNow, StepOutcome, Stepped
from jutrel.core.procedure.measured import RunMeasurement
from jutrel.core.procedure.now import Mark, StepNow, open_said
from jutrel.core.procedure.step import Step, StepKind, StepRole, Wait
from jutrel.core.wording import NOTHING, Number, Said, say

GRACE_S = 5.0
"""What a hand needs to say that a needle stood in time [s]; common practice."""
TICK_S = 1.0
"""Timers on the page and times of entries differ by less than this [s]."""
ASK_AGAIN_S = 30.0
"""How far ahead a wait is put off that a needle keeps from ending [s]."""
WORST = (StepOutcome.LOST, StepOutcome.FAILED, StepOutcome.SKIPPED, StepOutcome.DONE)
"""Two who have not seen each other's word: the worse counts."""
ENGINE_FIRST = {
    EngineNow.STOPPED: say("First the engine is stopped."),
    EngineNow.CRANKING: say("While it is cranked."),
    EngineNow.RUNNING: say("First the engine runs."),
}


class StepsNow(Evidence):
    """The steps of a run, each as it stands at a time."""

    def step_at(self, step: Step, at: datetime) -> StepNow:
        """How a step stands at a time."""
        now = self._told_of(step, at) or self._open(step, at)
        return replace(now, spared=True) if self.spared(step, at) else now

    def _told_of(self, step: Step, at: datetime) -> StepNow | None:
        """How a step stands by what people said of it, else by what the machine measured; None: nobody knows."""
        key = (step.id, at)
        if key not in self._told:
            self._told[key] = self._told_anew(step, at)
        return self._told[key]

    def _told_anew(self, step: Step, at: datetime) -> StepNow | None:
        found = self._slot(step, at)
        bad = self._measured_bad(step, at)
        if found:
            told = self._known_as(step, found)
            if step.nobody and told.mark is Mark.DONE and (near := self._near_since(told.at, at)):
                return _with(told, Mark.VOID, near)
            if bad is None or told.mark in (Mark.FAILED, Mark.LOST):
                return told
            return _with(told, Mark.VOID, say("It was measured otherwise: {action}", action=bad.action))
        if bad is not None:
            return StepNow(step, Mark.FAILED, bad.action, by=bad.by, at=bad.at)
        if not step.reads or step.kind is not StepKind.OBSERVE:
            return None
        stood = self.stood(step, at)
        if stood is None or self.first_lacking(step, stood.at):
            return None
        told = StepNow(step, Mark.DONE, say("The machine says so."), value=stood.value, at=stood.at)
        late = self._late(step, stood.at)
        return _with(told, Mark.VOID, late) if late else told

    def _near_since(self, since: datetime | None, at: datetime) -> Said:
        """That somebody was near after a time, for a test that is made so; empty if not."""
        near = {s.id: s for s in self.steps if s.near}
        said = self._said
        seen = [n for n in near if any(since is None or since < e.time <= at for e in said.get(n, ()))]
        if not seen:
            return NOTHING
        name = Said(near[seen[-1]].name, (), "step")
        return say("Somebody was near since, for: {name}. Look round once more.", name=name)

    def there(self, step: Step, at: datetime) -> bool:
        """Whether a step is asked for at all: what comes in place of another is only once that one failed."""
        return not step.instead or self._has_failed(step.instead, at)

    def spared(self, step: Step, at: datetime) -> bool:
        """Whether nothing more is asked of a step, because another came in its place."""
        return not self.there(step, at) or any(self._has_failed(x, at) for x in self._instead.get(step.id, ()))

    def _has_failed(self, key: str, at: datetime) -> bool:
        told = self._told_of(self._by_id[key], at) if key in self._by_id else None
        return told is not None and told.mark is Mark.FAILED

    def _measured_bad(self, step: Step, at: datetime) -> RunMeasurement | None:
        """The measurement that fails a test, whatever is said beside it: until somebody who saw it takes it again."""
        taken = [m for m in self.measured if m.at <= at and m.tries(step)]
        gone = {r for m in taken for r in m.replaces}
        return next((m for m in taken if m.fails and m.entry not in gone), None)

    def _late(self, step: Step, at: datetime, grace: float = TICK_S) -> Said:
        """That something came too late after the start; empty if it came in time."""
        began = self.line.last(EngineNow.RUNNING, at)
        if step.within_s is None or began is None or (at - began).total_seconds() <= step.within_s + grace:
            return NOTHING
        return say("It was said {took} after the start.", took=Number((at - began).total_seconds(), 0, "s"))

    def _known_as(self, step: Step, found: tuple[Entry, ...]) -> StepNow:
        """How a step stands by what is said of it: judged once for each set of words."""
        key = (step.id, *(e.id for e in found))
        known: dict[object, StepNow] = self._known
        if key not in known:
            known[key] = self._judged(step, found)
        return known[key]

    def _open(self, step: Step, at: datetime) -> StepNow:
        if lacking := self.first_lacking(step, at):
            return StepNow(step, Mark.LATER, lacking)
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
            case StepOutcome.LOST:
                return _with(told, Mark.LOST, say("It holds no longer."))
            case StepOutcome.FAILED:
                return _with(told, Mark.FAILED, NOTHING)
            case StepOutcome.SKIPPED:
                why = self.no_skip(step, what.reason)
                return _with(told, Mark.VOID if why else Mark.SKIPPED, why)
            case StepOutcome.DONE:
                if why := self._no_count(step, what, entry.time, entry.by):
                    return _with(told, Mark.VOID, why)
                return _with(told, Mark.DONE, self._late_said(step, entry.time))

    @staticmethod
    def no_skip(step: Step, reason: str) -> Said:
        """Why a step cannot be skipped; empty if it can."""
        if step.life:
            return say("A life depends on it: it is not skipped.")
        return NOTHING if reason.strip() else say("Say why it was skipped.")

    def _late_said(self, step: Step, at: datetime) -> Said:
        """That it was said too late and the machine told nothing of it in time; empty if not."""
        stood = self.stood(step, at) if step.reads else None
        late = self._late(step, at, GRACE_S)
        return late if late and (stood is None or self._late(step, stood.at)) else NOTHING

    def _no_count(self, step: Step, what: Stepped, at: datetime, by: str) -> Said:
        """Why a word that a step is done does not count; empty if it does."""
        if lacking := self.first_lacking(step, at):
            return lacking
        if step.means is StepRole.LIMITS and what.word != self.gate.accepted_as:
            return say("The limits are others now: read them again.")
        over = self.over_at(step, at)
        if over is not None and at < over - timedelta(seconds=TICK_S):
            return say("It was said before the time was over.")
        if (late := self._late_said(step, at)) and by != self.line.starter(at):
            return late  # who started it may say it late, and it is told so
        if ungreased := [p.point.name for p in self.points(step, at) if p.unsaid]:
            return say("Nothing said yet of: {point}", point=Said(ungreased[0], (), "grease"))
        if untried := [Said(p.name, (), "step") for p in step.parts if p.id not in what.word.split()]:
            return say("Not tried yet: {part}", part=untried[0])
        if step.ways and len({w.id for w in step.ways} & set(what.word.split())) != 1:
            return say("Say how it was tried.")
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

    def first_lacking(self, step: Step, at: datetime) -> Said:
        """The first thing that has to come before a step and has not, at a time; empty: nothing."""
        state, _ = self.line.at(at)
        if step.engine is not None and state is not step.engine:
            return ENGINE_FIRST[step.engine]
        for other in self._coming_before(step):
            told = self._told_of(other, at)
            if (told is None or not told.settled) and not self.spared(other, at):
                return say("First: {name}", name=Said(other.name, (), "step"))
        return NOTHING

    def _coming_before(self, step: Step) -> tuple[Step, ...]:
        """The steps that come before one: of the phases before it, and those that it names.

        Interlocks are watched by themselves, and limits may come up at any time.
        """
        if step.id not in self._before:
            phases = step.waits_for
            self._before[step.id] = tuple(
                other
                for other in self.steps
                if (other.id in step.after or (other.phase in phases and other.kind is not StepKind.INTERLOCK))
                and other is not step
                and other.means is not StepRole.LIMITS
            )
        return self._before[step.id]

    def over_at(self, step: Step, at: datetime) -> datetime | None:
        """When the time of a step is over; None if it has none, or nothing began it."""
        if step.wait is None:
            return None
        seconds = step.wait_s if step.wait is Wait.SECONDS else self.waits.get(step.wait, step.wait_s)
        times = [e.time for a in step.after if a in self._by_id for e in self._slot(self._by_id[a], at)]
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
            if not step.before_crank or (running and step.means is StepRole.LIMITS):
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
        until = self._by_id.get(step.until)
        return until is not None and self.step_at(until, at).mark is Mark.DONE

    def watched(self, now: datetime) -> Iterable[StepNow]:
        """Interlocks that are watched at a time."""
        for step in self.steps:
            if step.kind is StepKind.INTERLOCK and not self.released(step, now):
                yield self.step_at(step, now)


def _with(told: StepNow, mark: Mark, says: Said) -> StepNow:
    return replace(told, mark=mark, says=says)
