"""What each kind of catalog file may hold."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from jutrel.core.grading.rulebook import AttributeKind, Pick, Stage, Worse
from jutrel.core.machine.family import EngineState, How, Level, ReadingKind, SystemClass

Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9_.-]*$", max_length=60)]
Text = Annotated[str, Field(min_length=1, max_length=400)]
Metres = Annotated[float, Field(gt=0, le=60)]
Share = Annotated[float, Field(ge=0, le=1)]
GradeWord = Annotated[str, Field(pattern="^(watch|mend|limit|hold)$")]
Fact = bool | float | str


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
    near_heat: bool = False
    backup_set: Id | None = None
    reading: ReadingKind | None = None
    also: list[Text] = []


class StationDoc(Document):
    id: Id
    name: Text
    level: Level
    stance: Text
    checkpoints: list[CheckpointDoc] = []
    mirror_of: Id | None = None


class FamilyFile(Document):
    id: Id
    name: Text
    options: list[NamedDoc] = []
    stations: list[StationDoc] = Field(min_length=1)


class ShapeDoc(Document):
    track_length: Metres
    track_gauge: Metres
    shoe_width: Metres
    upper_width: Metres
    tail_radius: Metres
    upper_front: Metres
    cab_length: Metres
    cab_width: Metres
    boom_foot_x: float
    boom_width: Metres
    boom_reach: Metres
    arm_reach: Metres
    bucket_width: Metres
    bucket_length: Metres
    bucket_teeth: int = Field(ge=0, le=12)


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


class ModelFile(Document):
    id: Id
    maker: Text
    name: Text
    family: Id
    options: list[Id] = []
    shape: ShapeDoc
    tank: TankDoc
    reserves: dict[Id, Annotated[float, Field(gt=0)]]
    stations: dict[Id, tuple[float, float]]
    places: dict[Id, tuple[float, float, float]]


class ChoiceDoc(Document):
    id: Id
    label: Text


class AttributeDoc(Document):
    id: Id
    ask: Text
    kind: AttributeKind
    choices: list[ChoiceDoc] = []
    worse: Worse = Worse.UP
    unit: str = ""
    low: float = 0.0
    high: float = 1e6


class ModeDoc(Document):
    id: Id
    name: Text
    attributes: list[Id] = Field(min_length=1)
    first_action: Text


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


class RulesFile(Document):
    rules: list[RuleDoc]
    combinations: list[CombinationDoc] = []


class RegimeFile(Document):
    id: Id
    name: Text
    caution: Text
    floors: list[RuleDoc]
