"""What is known of a run: what people said, what the machine told, what was measured, each at its time."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

from jutrel.core.log.entry import Entry
from jutrel.core.panel.told import PanelEventKind, PanelWord, alert_said
from jutrel.core.procedure.engine import UNEXPLAINED, EngineLine
from jutrel.core.procedure.kinds import Colour, EngineNow, Remarked, StepOutcome, Stepped
from jutrel.core.procedure.measured import RunMeasurement
from jutrel.core.procedure.now import Gate, StepNow
from jutrel.core.procedure.step import Phase, Step, StepRole, Wait
from jutrel.core.procedure.words import heads, in_order
from jutrel.core.wording import NOTHING, Said, say

AFRESH = (Phase.START, Phase.WARM_UP, Phase.MOVE_OFF)
"""Phases that are gone through again after each stop of the engine."""
LAST = (Phase.SHUTDOWN, Phase.HAND_OVER)
"""Phases that count from the last start."""
VALUE = (PanelEventKind.SILENT, PanelEventKind.HEARD, PanelEventKind.STOOD)
"""What is told of a signal's value."""


def _red(t: PanelWord) -> bool:
    return t.what is PanelEventKind.ALERT and t.colour is Colour.RED


@dataclass(frozen=True)
class Evidence:
    """The entries of a run that stand, in order, with what is known beside them."""

    steps: Sequence[Step]
    entries: Sequence[Entry]
    gate: Gate
    waits: Mapping[Wait, float] = field(default_factory=dict)
    """Seconds to wait, where they are computed."""
    told: Sequence[PanelWord] = ()
    """What the machine told over its bus meanwhile, if it is read."""
    measured: Sequence[RunMeasurement] = ()
    """What was measured meanwhile at the checkpoints of its tests."""
    greased: Mapping[str, float] = field(default_factory=dict)
    """At how many hours each point was greased before this run [h]."""
    hours: float = 0.0
    """The machine's hours now [h]."""
    owed: Said = NOTHING
    """What the run before this one left unexplained; empty: nothing."""
    left: Entry | None = None
    """The last word of another run about the engine, if that left it running: nobody said that it stands."""

    def __post_init__(self) -> None:
        """Entries once each, by time."""
        once = in_order(self.entries)
        object.__setattr__(self, "entries", once)
        steps = [s for s in self.steps if s.means is not StepRole.LIMITS or self.gate.limits]
        object.__setattr__(self, "steps", steps)
        object.__setattr__(self, "_by_id", {s.id: s for s in steps})
        object.__setattr__(self, "_known", {})
        object.__setattr__(self, "_told", {})
        object.__setattr__(self, "_before", {})
        instead: dict[str, list[str]] = {}
        for s in steps:
            if s.instead:
                for name in (s.instead, *s.spares):
                    instead.setdefault(name, []).append(s.instead)
        object.__setattr__(self, "_instead", instead)
        said: dict[str, list[Entry]] = {}
        for e in once:
            if isinstance(e.what, Stepped):
                said.setdefault(e.what.step, []).append(e)
        object.__setattr__(self, "_said", said)
        object.__setattr__(self, "measured", sorted(self.measured, key=lambda m: (m.at, m.entry)))
        told = sorted(self.told, key=lambda t: (t.at, t.id))
        object.__setattr__(self, "told", told)
        object.__setattr__(self, "line", EngineLine([self.left, *once] if self.left else once, told))

    line: EngineLine = field(init=False, repr=False, compare=False)
    """The course of the engine."""
    _by_id: dict[str, Step] = field(init=False, repr=False, compare=False)
    _said: dict[str, list[Entry]] = field(init=False, repr=False, compare=False)
    _known: dict[object, StepNow] = field(init=False, repr=False, compare=False)
    """How steps stand by sets of words, as they were judged."""
    _told: dict[tuple[str, datetime], StepNow | None] = field(init=False, repr=False, compare=False)
    """How steps stood at times, as they were asked for: nothing that it follows from changes."""
    _before: dict[str, tuple[Step, ...]] = field(init=False, repr=False, compare=False)
    """What comes before a step."""
    _instead: dict[str, list[str]] = field(init=False, repr=False, compare=False)
    """By step, those whose failing makes another one take its place."""

    # --- what the machine told

    def _begun(self, at: datetime) -> datetime | None:
        """Since when the engine runs, if the machine itself says so: then its values are gone by."""
        if self.line.told_at(at) is not EngineNow.RUNNING:
            return None
        return self.line.last(EngineNow.RUNNING, at)

    def stood(self, step: Step, at: datetime) -> PanelWord | None:
        """That the signal of a step came to stand, in this go of the engine."""
        stopped = self.line.last(EngineNow.STOPPED, at)
        found = [
            t for t in self.told
            if t.what is PanelEventKind.STOOD and t.word == step.reads
            and t.at <= at and (stopped is None or t.at > stopped)
        ]  # fmt: skip
        return found[0] if found else None

    def _silent(self, signal: str, at: datetime) -> bool:
        """Whether nobody knows a signal at a time: its value went and did not come back, or the bus is silent."""
        about = [t for t in self.told if t.word == signal and t.at <= at and t.what in VALUE]
        return bool(about) and about[-1].what is PanelEventKind.SILENT

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
        said = heads([e for e in self._said.get(step.id, ()) if e.time <= ended])
        bad = (StepOutcome.FAILED, StepOutcome.LOST)
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
        said = self._said.get(step.id)
        if not said:
            return ()
        begun = None
        if step.phase in AFRESH:
            begun = self.line.last(EngineNow.STOPPED, at)
        elif step.phase in LAST:
            begun = self.line.last(EngineNow.RUNNING, at)
        return heads([e for e in said if e.time <= at and (begun is None or e.time > begun)])
