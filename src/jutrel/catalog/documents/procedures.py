"""What files of procedures, grease points and schools may hold."""

from __future__ import annotations

from pydantic import Field

from jutrel.catalog.documents.base import Document, Id, Text
from jutrel.core.procedure.kinds import EngineNow
from jutrel.core.procedure.step import Phase, StepKind, StepRole, Wait


class StepPartDoc(Document):
    id: Id
    name: Text
    options: list[Id] = []


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
    parts: list[StepPartDoc] = []
    ways: list[StepPartDoc] = []
    near: bool = False
    nobody: bool = False
    instead: str = ""
    spares: list[Id] = []
    figures: list[Id] = []
    role: StepRole | None = None
    traits: list[Id] = []
    not_traits: list[Id] = []
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
    choices: list[SchoolChoiceDoc] = Field(min_length=1)
    traits: list[Id] = []
    by_model: bool = False
    at: list[Id] = []


class SchoolsFile(Document):
    schools: list[SchoolDoc] = Field(min_length=1)
