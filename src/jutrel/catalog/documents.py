"""What each kind of catalog file may hold."""

from __future__ import annotations

import dataclasses
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Discriminator, Field, Tag, create_model

from jutrel.core.grading.rulebook import AttributeKind, Pick, Stage, Worse
from jutrel.core.machine.family import EngineState, How, Level, ReadingKind, SystemClass
from jutrel.core.machine.shapes import (
    ArticulatedHaulerShape,
    DozerShape,
    ExcavatorShape,
    MotorGraderShape,
    RigidHaulerShape,
    WheelLoaderShape,
)
from jutrel.core.procedure.kinds import EngineNow
from jutrel.core.procedure.step import Phase, StepKind, Wait

Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9_.-]*$", max_length=60)]
Text = Annotated[str, Field(min_length=1, max_length=400)]
Metres = Annotated[float, Field(gt=0, le=60)]
Share = Annotated[float, Field(ge=0, le=1)]
GradeWord = Annotated[str, Field(pattern="^(watch|mend|limit|hold)$")]
Fact = bool | float | str
ShapeName = Literal["excavator", "wheel-loader", "dozer", "articulated-hauler", "rigid-hauler", "motor-grader"]
Place = Annotated[float, Field(ge=-60, le=60)]
Degrees = Annotated[int, Field(ge=0, le=360)]
Seconds = Annotated[float, Field(gt=0, le=300)]


class Document(BaseModel):
    """Unknown fields are refused: a typing error must not become a silent default."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class SystemDoc(Document):
    id: Id
    name: Text
    kind: SystemClass = Field(alias="class")


class SystemsFile(Document):
    systems: list[SystemDoc] = Field(min_length=1)


class NamedDoc(Document):
    id: Id
    name: Text


class CheckpointDoc(Document):
    id: Id
    name: Text
    system: Id
    duty: Id
    duties: dict[Id, Id] = {}
    look: Text
    why: Text
    how: Text
    how_kind: How
    engine: EngineState = EngineState.OFF
    posture: str = "as parked"
    mandatory: bool = True
    seconds: int = Field(default=8, ge=1, le=600)
    modes: list[Id] = Field(min_length=1)
    option: Id | None = None
    cautions: list[Text] = []
    energy: list[Id] = []
    fluid: Id | None = None
    compartment: Id | None = None
    fluids: list[Id] = []
    pressurised: bool = False
    couplings: list[Id] = []
    near_heat: bool = False
    backup_set: Id | None = None
    sees: list[tuple[Degrees, Degrees]] = []
    through: Id | None = None
    reading: ReadingKind | None = None
    readings: dict[Id, dict[Id, bool | float | Id | list[Id]]] = {}
    also: list[Text] = []
    when: list[Id] = []
    not_when: list[Id] = []
    must_when: list[Id] = []
    limits: list[Id] = []


class UseDoc(Document):
    """A checkpoint that many families have, and what differs on this one."""

    use: Id
    id: Id | None = None
    name: Text | None = None
    look: Text | None = None
    why: Text | None = None
    how: Text | None = None
    posture: str | None = None
    engine: EngineState | None = None
    mandatory: bool | None = None
    seconds: int | None = Field(default=None, ge=1, le=600)
    option: Id | None = None
    cautions: list[Text] | None = None
    backup_set: Id | None = None
    sees: list[tuple[Degrees, Degrees]] | None = None
    near_heat: bool | None = None
    duty: Id | None = None
    duties: dict[Id, Id] | None = None
    modes: list[Id] | None = None
    also: list[Text] | None = None
    readings: dict[Id, dict[Id, bool | float | Id | list[Id]]] | None = None
    limits: list[Id] | None = None

    def on(self, common: CheckpointDoc) -> CheckpointDoc:
        """The common checkpoint with what differs."""
        return common.model_copy(update={k: v for k, v in self if k in self.model_fields_set and k != "use"})


def _which(entry: object) -> str:
    return "use" if isinstance(entry, dict) and "use" in entry else "own"


EntryDoc = Annotated[
    Annotated[UseDoc, Tag("use")] | Annotated[CheckpointDoc, Tag("own")],
    Discriminator(_which),
]


class CommonFile(Document):
    checkpoints: list[CheckpointDoc] = Field(min_length=1)


class StationDoc(Document):
    id: Id
    name: Text
    level: Level
    stance: Text
    checkpoints: list[EntryDoc] = []
    mirror_of: Id | None = None


class OrderDoc(Document):
    first: Id
    then: list[Id] = Field(min_length=1)
    says: Text


class LimitDoc(Document):
    id: Id
    name: Text
    unit: str = ""
    low: float = 0.0
    high: float = 0.0


class FamilyFile(Document):
    id: Id
    name: Text
    shape: ShapeName
    options: list[NamedDoc] = []
    limits: list[LimitDoc] = []
    order: list[OrderDoc] = []
    stations: list[StationDoc] = Field(min_length=2)


def _shape_doc(shape: type) -> type[Document]:
    """What a model file may say of a shape: its dataclass's fields, each within what can be built."""
    fields: dict[str, Any] = {}
    for field in dataclasses.fields(shape):
        if field.type == "int":
            fields[field.name] = (int, Field(ge=0, le=16))
        elif field.name.endswith(("_x", "_front", "_back")):
            fields[field.name] = (float, Field(ge=-30, le=30))
        elif field.name.endswith("_deg"):
            fields[field.name] = (float, Field(ge=-60, le=60))
        elif field.name == "ripper_reach":
            fields[field.name] = (float, Field(ge=0, le=10))
        else:
            fields[field.name] = (Metres, ...)
    return create_model(f"{shape.__name__}Doc", __base__=Document, **fields)


SHAPES: dict[str, tuple[type, type[Document]]] = {
    name: (shape, _shape_doc(shape))
    for name, shape in (
        ("excavator", ExcavatorShape),
        ("wheel-loader", WheelLoaderShape),
        ("dozer", DozerShape),
        ("articulated-hauler", ArticulatedHaulerShape),
        ("rigid-hauler", RigidHaulerShape),
        ("motor-grader", MotorGraderShape),
    )
}


class RodDoc(Document):
    id: Id
    name: Text
    count: int = Field(ge=1, le=4)
    rod_diameter: Annotated[float, Field(gt=0, le=0.5)]
    stroke: Annotated[float, Field(gt=0, le=5)]
    extension_at_check: Share


class TankDoc(Document):
    area: Annotated[float, Field(gt=0, le=10)]
    band: Annotated[float, Field(gt=0, le=1)]
    gauge_x: float = Field(ge=-2, le=2)
    gauge_y: float = Field(ge=-2, le=2)
    system_oil: Annotated[float, Field(gt=0, le=10_000)]
    cold_c: float = Field(ge=-40, le=50)
    posture: Text
    rods: list[RodDoc] = Field(min_length=1)


class AccessDoc(Document):
    id: Id
    name: Text
    foot: tuple[Place, Place]
    leads_to: list[Id] = Field(min_length=1)
    up_s: Seconds
    down_s: Seconds
    checked_by: Id


class ModelFile(Document):
    id: Id
    maker: Text
    name: Text
    family: Id
    options: list[Id] = []
    shape: dict[str, Any]
    tank: TankDoc
    reserves: dict[Id, Annotated[float, Field(gt=0)]]
    limits: dict[Id, float | str] = {}
    schools: dict[Id, Id] = {}
    strapping: dict[Id, Annotated[list[tuple[float, float]], Field(min_length=2, max_length=200)]] = {}
    access: list[AccessDoc] = Field(min_length=1)
    stations: dict[Id, tuple[Place, Place]]
    gates: dict[Id, tuple[Place, Place]] = {}
    moved: dict[Id, Id] = {}
    places: dict[Id, tuple[Place, Place, Annotated[float, Field(ge=0, le=12)]]]


class TakeDoc(Document):
    says: Text
    checkpoints: list[Id] = []
    systems: list[Id] = []
    classes: list[SystemClass] = []
    duties: list[Id] = []
    modes: list[Id] = []
    how: list[How] = []
    mandatory_only: bool = False


class KindDoc(Document):
    id: Id
    name: Text
    says: Text
    clears: bool
    takes: list[TakeDoc] = []
    walked: bool = True
    answers_add: bool = True
    ends: bool = False
    sees_changes: bool = False
    continues: bool = False


class QuestionDoc(Document):
    id: Id
    asks: Text
    says: Text
    computed: bool = False


class KindsFile(Document):
    kinds: list[KindDoc] = Field(min_length=1)
    questions: list[QuestionDoc]


class PartDoc(Document):
    id: Id
    name: Text


class StepDoc(Document):
    id: Id
    phase: Phase
    kind: StepKind = StepKind.CONFIRM
    name: Text
    does: Text
    why: Text
    no: str = ""
    life: bool = False
    after: list[Id] = []
    until: str = ""
    engine: EngineNow | None = None
    wait: Wait | None = None
    wait_s: float = Field(default=0.0, ge=0, le=3600)
    reads: str = ""
    needles: tuple[str, ...] = ()
    within_s: float | None = Field(default=None, gt=0, le=600)
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    checkpoints: list[Id] = []
    modes: list[Id] = []
    measures: list[Id] = []
    people: int = Field(default=1, ge=1, le=2)
    parts: list[PartDoc] = []
    families: list[Id] = []
    options: list[Id] = []
    without: list[Id] = []
    when: list[Id] = []
    schools: list[str] = []
    greases: bool = False


class ProcedureFile(Document):
    steps: list[StepDoc] = Field(min_length=1)


class GreasePointDoc(Document):
    id: Id
    name: Text
    at: Id
    fittings: int = Field(ge=1, le=40)
    strokes: int = Field(ge=1, le=60)
    every_h: float = Field(ge=1, le=4000)
    options: list[Id] = []
    without: list[Id] = []
    schools: list[str] = []


class GreaseFile(Document):
    points: dict[Id, list[GreasePointDoc]]


class SchoolChoiceDoc(Document):
    id: Id
    name: Text
    why: Text
    minutes: float | None = Field(default=None, ge=1, le=60)


class SchoolDoc(Document):
    id: Id
    asks: Text
    why: Text
    usual: Id
    choices: list[SchoolChoiceDoc] = Field(min_length=2)
    families: list[Id] = []
    by_model: bool = False


class SchoolsFile(Document):
    schools: list[SchoolDoc] = Field(min_length=1)


class ChoiceDoc(Document):
    id: Id
    label: Text


class AttributeDoc(Document):
    id: Id
    ask: Text
    kind: AttributeKind
    told: str = ""
    choices: list[ChoiceDoc] = []
    worse: Worse = Worse.UP
    unit: str = ""
    low: float = 0.0
    high: float = 1e6


class PutRightDoc(Document):
    says: Text
    systems: list[Id] = []
    duties: list[Id] = []
    not_duties: list[Id] = []
    unless: dict[Id, Fact] = {}


class ModeDoc(Document):
    id: Id
    name: Text
    attributes: list[Id] = Field(min_length=1)
    alone: list[Id] = []
    first_action: Text
    put_right: PutRightDoc | None = None


class FailureModesFile(Document):
    attributes: list[AttributeDoc]
    modes: list[ModeDoc]
    safe_repair: dict[Id, Text]


class AtLeastDoc(Document):
    at_least: Fact


class RuleDoc(Document):
    id: Id
    stage: Stage = Stage.FLOOR
    says: Text
    source: Text
    modes: list[Id] = []
    duties: list[Id] = []
    when: dict[Id, AtLeastDoc | Fact | list[Fact]] = {}
    grade: GradeWord | None = None
    within_hours: Annotated[float, Field(gt=0)] | None = None
    limit: Text | None = None


class CombinationDoc(Document):
    id: Id
    says: Text
    source: Text
    grade: GradeWord
    limit: Text | None = None
    count: int = Field(default=0, ge=0)
    at_least: GradeWord = "watch"
    pick: Pick = Pick.ANY
    together: list[tuple[Id, Id]] = []
    all_of: list[Id] = []
    unseen_deg: tuple[Degrees, Degrees] | None = None


class CellDoc(Document):
    grade: Text
    limit: Text | None = None
    says: Text | None = None
    source: Text | None = None


Table = dict[Id, dict[Annotated[str, Field(pattern=r"^[A-Za-z0-9_+-]+$", max_length=80)], str | CellDoc]]


class DutyFile(Document):
    id: Id
    name: Text
    order: int = Field(ge=1, le=99)
    kind: SystemClass = Field(alias="class")
    parts: Text
    degraded: Text
    lost: Text
    limit: Text | None = None
    table: Table = Field(min_length=1)


class AnyDutyFile(Document):
    table: Table = Field(min_length=1)


class CitationDoc(Document):
    id: Id
    text: Text
    scope: Text
    from_memory: bool = True


class CitationsFile(Document):
    citations: list[CitationDoc] = Field(min_length=1)


class RulesFile(Document):
    rules: list[RuleDoc]
    combinations: list[CombinationDoc] = []


class RegimeFile(Document):
    id: Id
    name: Text
    scope: Text
    caution: Text
    records: list[Text] = []
    also: list[Id] = []
    floors: list[RuleDoc]
