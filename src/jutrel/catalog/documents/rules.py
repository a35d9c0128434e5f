"""What files of failure modes, duties, rules, sources and regimes may hold."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from jutrel.catalog.documents.base import Degrees, Document, Fact, GradeWord, Id, Text
from jutrel.core.grading.rulebook import AttributeKind, Pick, RuleStage, Worse
from jutrel.core.machine.family import SystemClass
from jutrel.core.people import Role


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
    checkpoints: list[Id] = []
    says: Text
    systems: list[Id] = []
    duties: list[Id] = []
    not_duties: list[Id] = []
    unless: dict[Id, Fact] = {}


class FirstDoc(Document):
    says: Text
    checkpoints: list[Id] = []
    systems: list[Id] = []
    duties: list[Id] = []
    fluids: list[Id] = []
    when: dict[Id, Fact] = {}


class ModeDoc(Document):
    id: Id
    name: Text
    attributes: list[Id]
    alone: list[Id] = []
    first_action: Text
    first: list[FirstDoc] = []
    put_right: PutRightDoc | None = None
    powered: list[Role] = []


class FailureModesFile(Document):
    attributes: list[AttributeDoc]
    modes: list[ModeDoc]
    safe_repair: dict[Id, Text]


class AtLeastDoc(Document):
    at_least: Fact


class RuleDoc(Document):
    id: Id
    stage: RuleStage = RuleStage.FLOOR
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
    moved: bool = False
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
