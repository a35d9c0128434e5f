"""An outcome is a finding: what a step, a red warning or a stop without an answer says stands against the machine at
once, whether a page sends more or not."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from jutrel.core.inspection.finding import Finding
from jutrel.core.log.entry import Entry
from jutrel.core.procedure.kinds import Colour, Engine, EngineNow, Remarked, StepOutcome, Stepped
from jutrel.core.procedure.step import Phase, Step, StepKind
from jutrel.core.procedure.words import in_order
from jutrel.core.wording import Said, as_written, say, together

FAILED = "failed"
"""The failure mode of what was not right at the start, in a test or at work."""
RED_AT = {"oil-pressure": "engine-oil"}
"""By needle: the checkpoint at which a red one is looked into; every other red at the display."""
DISPLAY = "display"
UNSAID = say("{name}: it was stopped and nobody had said that it was so.").text


@dataclass(frozen=True, slots=True)
class Stands:
    """Something of a run that stands against the machine: the entry that says so, where, and what, for people."""

    entry: Entry
    checkpoint: str
    says: Said

    @property
    def finding(self) -> Finding:
        """As a finding like any other."""
        return Finding(FAILED, {}, str(self.says)[:400])


def stands_against(step: Step, outcome: StepOutcome) -> bool:
    """Whether what became of a step stands against the machine: a start step or one that a life depends on failed, or
    an interlock of the machine let go. That nobody buckled up yet says nothing of the machine."""
    if not step.checkpoints:
        return False
    if step.kind is StepKind.INTERLOCK:
        return outcome is StepOutcome.LOST
    return outcome in (StepOutcome.FAILED, StepOutcome.LOST) and (step.life or step.phase is Phase.START)


def outcomes_of(
    entries: Sequence[Entry], steps: Iterable[Step], has: Mapping[str, object], stood: Sequence[datetime] = ()
) -> Iterator[Stands]:
    """What the entries of a run say against its machine, in order.

    Parameters
    ----------
    steps
        Those that machines of this model can have.
    has
        The checkpoints that this unit has, by id.
    stood
        When its bus told that the oil pressure came to stand.
    """
    by_id = {s.id: s for s in steps}
    timed = [s for s in by_id.values() if s.within_s is not None and s.life]
    running: datetime | None = None
    answered: set[str] = set()
    for e in in_order(entries):
        match e.what:
            case Stepped(step=key, outcome=outcome, reason=reason) if key in by_id:
                step = by_id[key]
                answered.add(key)
                at = next((c for c in step.checkpoints if c in has), None)
                if at is not None and stands_against(step, outcome):
                    name = Said(step.name, (), "step")
                    says = say("{name}: it was not so.", name=name)
                    if outcome is StepOutcome.LOST:
                        says = say("{name}: it held and let go.", name=name)
                    yield Stands(e, at, together([says, as_written(reason)]) if reason.strip() else says)
            case Remarked(colour=Colour.RED, gauge=gauge, note=note):
                at = RED_AT.get(gauge, DISPLAY)
                says = say("A red warning was reported. Stop in a safe place, tool down, engine off.")
                yield Stands(
                    e, at if at in has else DISPLAY, together([says, as_written(note)]) if note.strip() else says
                )  # fmt: skip
            case Engine(state=EngineNow.RUNNING):
                running, answered = running or e.time, answered if running else set()
            case Engine():
                since, running = running, None
                if since is None:
                    continue
                for step in timed:
                    at = next((c for c in step.checkpoints if c in has), None)
                    told = step.reads and any(since <= t <= e.time for t in stood)
                    if at is not None and step.id not in answered and not told:
                        name = Said(step.name, (), "step")
                        yield Stands(e, at, say(UNSAID, name=name))
            case _:
                pass
