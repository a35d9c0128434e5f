"""What goes over the wire about a machine and the way round it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import asdict
from datetime import datetime
from typing import Literal

from pydantic import Field

from jutrel.api.inspection.wire import DefectOut
from jutrel.api.inspection.wire_finding import ConditionsIn
from jutrel.api.wire import Finite, In, KindOut, MachineOut, Out, Slug, Uuid7
from jutrel.core.clearance.go import Go
from jutrel.core.grading.rulebook import AttributeKind, Choice
from jutrel.core.machine.drawing.pen import Shape
from jutrel.core.machine.family import EngineState, How, Level, ReadingKind
from jutrel.core.machine.file import GoodPicture
from jutrel.core.machine.kind import Because, Question
from jutrel.core.route.plan import Leg, Unreached
from jutrel.core.route.precedence import ComesBefore, Direction


class ShapeOut(Out, of=Shape):
    pass


class DrawingOut(Out):
    shapes: list[ShapeOut]
    bounds: tuple[float, float, float, float]


class SidesOut(Out):
    """The machine as one sees it from its left and from its right. From the left, x is counted backwards."""

    left: DrawingOut
    right: DrawingOut


class YardMachineOut(Out):
    machine: MachineOut
    go: Go
    why: str
    limits: list[str]
    open_findings: int
    signed_by: str | None
    signed_at: datetime | None
    valid_until: datetime | None
    cleared_for: list[str] = Field(description="Ids of those who may start it as it stands; others take it over.")
    walked_by: str | None
    walker: str | None = Field(description="Id of whoever walked last in the walk under way.")
    answered: int
    planned: int
    last: str | None = Field(description="Id of the newest signed inspection.")
    current: str | None = Field(description="Id of the walk under way.")
    drawing: str = Field(description="The name of its plan drawing.")


class YardOut(Out):
    site: str
    zone: str
    machines: list[YardMachineOut]


class StationOut(Out):
    id: str
    name: str
    level: Level
    stance: str
    at: tuple[float, float]
    height: float = Field(description="Height of where one stands, metres.")
    line: list[tuple[float, float]] = Field(description="The way there from the station before, metres.")
    metres: float
    look_s: int = Field(description="Planned looking time, seconds.")
    seconds: float = Field(description="Planned time at this station and on the way to it.")


class BoundOut(Out):
    """A reading that is taken at a checkpoint; `known`: inputs that the machine's own figures give."""

    reading: str
    title: str
    control: str
    known: dict[str, bool | float | str | list[float]]


class CheckpointOut(Out):
    id: str
    name: str
    station: str
    system: str
    system_id: str
    put_right: list[str] = Field(description="Failure modes that are the operator's own to put right here.")
    life: bool
    look: str
    why: str
    how: str
    how_kind: How
    engine: EngineState
    posture: str
    mandatory: bool
    seconds: int
    failure_modes: list[str]
    cautions: list[str]
    fluid: str | None
    duty: str = Field(description="What it is there for, in words; empty in what was kept before parts had duties.")
    duty_id: str
    fluids: list[str] = Field(description="Fluids that can leak there, where there are several.")
    couplings: list[str] = Field(description="Where a leak there can come from.")
    pressurised: bool
    reading: ReadingKind | None
    readings: list[BoundOut] = Field(default=[], description="What can be measured there.")
    also: list[str]
    here: list[str] = Field(description="How it is done on this site or machine, where good hands differ.")
    limits: list[str]
    option: str | None
    at: tuple[float, float, float]
    part: str = Field(description="The part of the drawing on which it is; empty where that is not known.")
    side: Literal["left", "right"] = Field(description="The side from which it is shown: where one stands.")


class ChoiceOut(Out, of=Choice):
    pass


class AttributeOut(Out):
    id: str
    ask: str
    kind: AttributeKind
    choices: list[ChoiceOut]
    unit: str


class ModeOut(Out):
    id: str
    name: str
    attributes: list[str]
    first_action: str
    put_right: str = Field(description="What putting it right on the spot is called; empty: never the operator's own.")


class RodOut(Out):
    id: str
    name: str
    extension_at_check: float


class TankOut(Out):
    posture: str
    cold_c: float
    rods: list[RodOut]


class QuestionOut(Out, of=Question):
    pass


class BecauseOut(Out, of=Because):
    """What an answer on the approach changed."""

    change: Literal["added", "removed", "must"]


class LimitOut(Out):
    """One of the machine's figures; `own`: this unit's, not its model's."""

    id: str
    name: str
    unit: str
    value: float | str
    own: bool


class UnreachedOut(Out, of=Unreached):
    pass


class RuleOut(Out, of=ComesBefore, without=("carries",)):
    """Station `first` comes before `then`, and why."""


class ReadingOut(Out):
    """The hour meter's furthest reading: the entry it stands in, when, by whom, what it showed."""

    entry: str
    at: datetime
    by: str
    shown: float


class GoodOut(Out, of=GoodPicture):
    """How a checkpoint looks when it is sound, as somebody of the site photographed it."""

    photo: str


def good_out(pictures: Iterable[GoodPicture], names: Mapping[str, str]) -> list[GoodOut]:
    """Pictures of sound checkpoints with the names of who took them."""
    return [GoodOut.model_validate({**asdict(p), "by": names.get(p.by, p.by)}) for p in pictures]


class WalkFixedOut(Out):
    """What is the same in all walks of machines that are alike."""

    kinds: list[KindOut]
    questions: list[QuestionOut]
    limits: list[LimitOut]
    model_id: str
    options: list[str]
    drawing: DrawingOut
    sides: SidesOut
    checkpoints: list[CheckpointOut]
    modes: list[ModeOut]
    attributes: list[AttributeOut]
    tank: TankOut


class LogEndOut(Out):
    """Where a machine's log ends. An opening names the end that its device knew: what stands before it happened
    before it."""

    seq: int
    head: str = Field(description="The hash of the entry there; empty before the first.")


class WalkNowOut(Out):
    """What a walk is for this machine on this occasion. Stations stand in the planned order."""

    machine: MachineOut
    log: LogEndOut
    kind: KindOut | None = Field(description="None: everything the unit has.")
    clears_not: str = Field(description="Why a short inspection that begins now would clear nothing; else empty.")
    because: list[BecauseOut]
    unreached: list[UnreachedOut]
    rules: list[RuleOut]
    moving_s: float
    show_me: list[str] = Field(description="Checkpoints this walk asks to be shown with a photo.")
    good: list[GoodOut] = Field(description="How checkpoints look when they are sound.")
    may_show_good: bool = Field(description="Whether this person may take such a picture.")
    zone: str
    shift_hours: float
    stations: list[StationOut]
    carried: list[DefectOut] = Field(description="What was open before, worst first.")
    open_inspection: str | None
    open_by: str = Field(description="Who walks it.")
    last_reading: ReadingOut | None
    planned_s: float
    people: dict[str, str]


class WalkOut(WalkFixedOut, WalkNowOut):
    """A walk: what it is on this occasion, and what it shows of the machine."""


class OccasionIn(In):
    """What is about to be walked. `inspection`: the walk this belongs to, once it has begun."""

    purpose: Slug = "pre-start"
    conditions: ConditionsIn = ConditionsIn()
    inspection: Uuid7 | None = None


class RouteIn(In):
    """Asks for the way on. `done`: stations that are finished; `here`: the one stood at."""

    purpose: Slug = "pre-start"
    conditions: ConditionsIn = ConditionsIn()
    open_at: list[Slug] = Field(default=[], max_length=200, description="Checkpoints with something open.")
    done: list[Slug] = Field(default=[], max_length=40)
    here: Slug | None = None
    blocked: list[Slug] = Field(default=[], max_length=40)
    pin_start: Slug | None = None
    direction: Direction | None = None
    people: Literal[1, 2] = 1


class LegOut(Out, of=Leg):
    pass


class RouteOut(Out):
    """One person's way: proven the shortest in walking and climbing that keeps every rule."""

    legs: list[LegOut]
    moving_s: Finite
    looking_s: int
    unreached: list[UnreachedOut]


class RoutesOut(Out):
    people: list[RouteOut]
