"""What files of systems, families and kinds of inspection may hold."""

from __future__ import annotations

from typing import Annotated

from pydantic import Discriminator, Field, Tag

from jutrel.catalog.documents.base import Degrees, Document, Id, Text
from jutrel.catalog.documents.procedures import GreasePointDoc
from jutrel.core.machine.family import EngineState, How, Level, ReadingKind, SystemClass


class SystemDoc(Document):
    id: Id
    name: Text
    kind: SystemClass = Field(alias="class")


class SystemsFile(Document):
    systems: list[SystemDoc] = Field(min_length=1)


class NamedDoc(Document):
    id: Id
    name: Text


class OptionDoc(NamedDoc):
    needs: list[Id] = []


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
    limit: str = ""
    unfused: bool = False
    overhead: bool = False
    every: str = Field(default="", pattern=r"^$|^[1-9]\d{0,3} (h|d)$")


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
    limit: str | None = None
    unfused: bool | None = None
    overhead: bool | None = None

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
    choices: list[NamedDoc] = []


class FamilyFile(Document):
    id: Id
    name: Text
    shape: Id
    traits: list[Id] = Field(min_length=1)
    each: dict[Id, list[Id]] = {}
    options: list[OptionDoc] = []
    limits: list[LimitDoc] = []
    order: list[OrderDoc] = []
    stations: list[StationDoc] = Field(min_length=2)
    grease: list[GreasePointDoc] = Field(min_length=1)


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
    by_interval: bool = False


class QuestionDoc(Document):
    id: Id
    asks: Text
    says: Text
    computed: bool = False


class KindsFile(Document):
    kinds: list[KindDoc] = Field(min_length=1)
    questions: list[QuestionDoc]
