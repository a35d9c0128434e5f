"""What goes over the wire of a run from key to key."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field

from jutrel.api.inspection.wire_verdict import JudgementOut
from jutrel.api.machine.wire import DrawingOut
from jutrel.api.machine.wire_file import LockOut
from jutrel.api.panel.wire import PanelOut
from jutrel.api.wire import MachineOut, Out, PickOut
from jutrel.core.clearance.go import Go
from jutrel.core.machine.putting_right import Cure
from jutrel.core.machine.zone import Zone
from jutrel.core.procedure.again import Again
from jutrel.core.procedure.detection import Field as DetectionField
from jutrel.core.procedure.gauges import GaugeRead
from jutrel.core.procedure.greasing import Took
from jutrel.core.procedure.handover import HandoverLine
from jutrel.core.procedure.kinds import Colour, EngineNow
from jutrel.core.procedure.state import Mark, Stand
from jutrel.core.procedure.step import Phase, StepKind, StepRole, Wait
from jutrel.core.training import Briefing


class HoldingOut(Out):
    """Something that holds the machine. `yours`: whoever asks may start it to put that right, in place."""

    name: str
    entries: list[str]
    yours: bool
    moved: bool = Field(description="Whether it may be moved for that.")
    cures: list[Cure] = Field(description="What is done about it with power, in place.")


class GateOut(Out):
    """Whether the machine may be started, as its open defects and its last inspection say."""

    go: Go
    may: bool
    held: bool
    why: str
    no_work: str = Field(description="Why it may be started and may not work; empty: it may, or may not start either.")
    limits: list[str]
    locks: list[LockOut]
    valid_until: datetime | None = Field(
        default=None, description="When the inspection that lets it work runs out; none: nothing lets it."
    )
    valid_until_hour: float | None = Field(default=None, description="And at which hours of the machine.")
    accepted_as: str = Field(description="Names these limits: accepting them says so.")
    cure: str = Field(description="What it may be started for, by whoever asks, and for nothing else; empty: nothing.")
    moved: bool = Field(description="Whether that is to move it to a named place.")
    no_cure: str = Field(description="Why their own word that they start it to put it right does not count any more.")
    holding: list[HoldingOut]


class RunStepTextOut(Out):
    """A step of the procedure as it is written: the same in every run of machines that are alike."""

    id: str
    phase: Phase
    kind: StepKind
    role: StepRole | None = Field(description="What it means, whatever it is called.")
    wait: Wait | None = Field(description="What says how long to wait.")
    name: str
    does: str
    why: str
    no: str
    life: bool
    unit: str
    low: float
    high: float
    checkpoint: str = Field(description="Where a failed test is reported; empty: nowhere.")
    modes: list[str]
    people: int
    engine: EngineNow | None
    within_s: float | None
    needles: list[str] = Field(description="Signals of the machine's bus that matter for it.")
    parts: list[PickOut]
    ways: list[PickOut] = Field(description="How it can be done: its word names one of them.")
    near: bool = Field(description="Somebody stands in the danger area meanwhile.")
    nobody: bool = Field(description="It says that nobody is near.")
    figures: list[StepFigureOut] = Field(description="The machine's own figures that are needed for it.")
    measures: list[str] = Field(description="Readings that may be taken for it, at its checkpoint.")


class RunStepOut(Out):
    """How a step stands. `heads`: entries that another word about it sets aside."""

    id: str
    mark: Mark
    says: str
    settled: bool
    watched: bool = Field(description="An interlock that has to hold now.")
    ready_at: datetime | None
    heads: list[str]
    value: float | None
    by: str
    at: datetime | None
    reason: str
    taken: list[StepTakenOut] = Field(description="What was measured for it in this run, oldest first.")
    points: list[PointOut]
    measured: bool = Field(description="The machine itself said so.")


class StepFigureOut(Out):
    """A figure of this machine; no value: nobody gave it, and the manual says it."""

    name: str
    value: float | str | None
    unit: str


class PointOut(Out):
    """A place that is greased. `at`: on the machine's plan [m]; `took`: what became of it in this run."""

    id: str
    name: str
    checkpoint: str = Field(description="Where a fitting that takes no grease is reported.")
    at: tuple[float, float] | None
    fittings: int
    strokes: int = Field(description="For each fitting, with a hand gun.")
    every_h: float
    due: bool
    last: float | None = Field(description="Hours of the machine when it was greased before.")
    took: Took | None
    strokes_given: int
    note: str
    by: str
    heads: list[str]


class BriefingOut(Out, of=Briefing):
    """What the record knows of the person who asks and this model; `offer`: somebody should show them."""


class SchoolNowOut(Out):
    """How it is done here what good hands do differently."""

    id: str
    asks: str
    choice: str
    name: str


class AgainOut(Out, of=Again):
    """Something to look at after a stop, before the machine works on; `station`: where, if somebody said."""


class StepTakenOut(Out):
    """A measurement for a test. `fails`: it is not passed with that until it is taken again, naming this `entry`."""

    entry: str
    reading: str
    value: float | None
    unit: str
    says: str
    fails: bool
    at: datetime


class FieldOut(Out, of=DetectionField):
    """A zone of a camera of the person detection: the step and the part that try it, its outline in metres."""


class WaitOut(Out):
    """How long to wait, and why."""

    minutes: float | None
    judgement: JudgementOut


class RunLineOut(Out, of=HandoverLine):
    pass


class RunNoteOut(Out):
    """What the run before left for whoever comes next."""

    text: str
    by: str
    at: datetime
    lines: list[RunLineOut]


class HandedOut(Out):
    """The note that was handed over with this run."""

    text: str
    by: str
    at: datetime


class ZoneOut(Out, of=Zone):
    """An area where the machine pinches, crushes or strikes: its outline in metres."""


class GaugeOut(Out, of=GaugeRead):
    """A gauge that is read by eye. `colour`: the band in which it stood last, none for green; null: not read yet."""

    colour: Colour | None
    at: datetime | None


class RunFixedOut(Out):
    """What does not change in a run: how its steps are written, and how the machine is drawn."""

    steps: list[RunStepTextOut]
    options: list[str]
    schools: list[SchoolNowOut]
    fluids: dict[str, str]
    stations: dict[str, str]
    station_places: dict[str, tuple[float, float]] = Field(description="Where they lie on the plan [m].")
    drawing: DrawingOut
    zones: list[ZoneOut]
    detection: list[FieldOut]


class RunOut(Out):
    """A run as it stands at `now`. Without `run` it has not begun; `missing`: what stands before the next thing."""

    machine: MachineOut
    run: str | None
    now: datetime
    stand: Stand
    says: str
    missing: list[str]
    ready_to_start: bool
    ready_to_work: bool
    may_crank: bool
    engine: EngineNow
    engine_since: datetime | None
    engine_heads: list[str]
    started_at: datetime | None
    due_at: datetime | None = Field(description="Until when the oil pressure is to stand.")
    tries: int
    needs_cause: bool = Field(description="What was found has to be written down before it is cranked again.")
    panel: PanelOut | None = Field(description="What the machine tells over its bus; null: it is not read.")
    gate: GateOut
    steps: list[RunStepOut]
    warm_up: WaitOut
    cool_down: WaitOut | None = Field(description="None: nobody said how hard the last ten minutes were.")
    lines: list[RunLineOut] = Field(description="What is worth knowing of it, for the hand-over.")
    red: bool = Field(description="A red warning was reported.")
    before: RunNoteOut | None
    handed: HandedOut | None
    gauges: list[GaugeOut] = Field(description="What needles there are to read by eye, and how each stood last.")
    counted: list[str] = Field(description="What the run used up so far: engine hours, starts, fuel.")
    again: list[AgainOut]
    briefing: BriefingOut
    fixed_name: str = Field(description="Names what does not change in this run; ask with it as `known`.")
    fixed: RunFixedOut | None = Field(default=None, description="That; null: the client has it already.")
