"""A family of machines: the stations you stand at and the checkpoints you look at from there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Annotated

from jutrel.core.wording import Words


class Level(StrEnum):
    """Where the person is: on the ground, kneeling at the ground, on the deck, in the cab."""

    GROUND = "ground"
    UNDER = "under"
    DECK = "deck"
    CAB = "cab"


class EngineState(StrEnum):
    """What the engine must be doing while a checkpoint is looked at."""

    OFF_COLD = "off-cold"
    OFF = "off"
    KEY_ON = "key-on"
    IDLING = "idling"
    EITHER = "either"


class How(StrEnum):
    """What the person does at a checkpoint."""

    LOOK = "look"
    FEEL = "feel"
    READ = "read"
    MEASURE = "measure"
    DRAIN = "drain"
    OPERATE = "operate"


class SystemClass(StrEnum):
    """Life: a failure hurts people. Machine: it breaks the machine. Service: it annoys."""

    LIFE = "life"
    MACHINE = "machine"
    SERVICE = "service"


@dataclass(frozen=True, slots=True)
class Bound:
    """A reading that is taken at a checkpoint, and what of it the machine knows.

    `given`: inputs that are always so there; `figures`: inputs by the machine's own figure of that name, or
    `reserve.` and a fluid for the litres between its marks; several where the input is a list.
    """

    reading: str
    given: Mapping[str, float | str | bool] = field(default_factory=dict)
    figures: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


class ReadingKind(StrEnum):
    """A reading that Jutrel computes at a checkpoint."""

    HYDRAULIC_LEVEL = "hydraulic-level"


@dataclass(frozen=True, slots=True)
class System:
    """A system of the machine, such as the service brake, and its class."""

    id: str
    name: Annotated[str, Words("system")]
    kind: SystemClass


@dataclass(frozen=True, slots=True)
class Duty:
    """What a part is there for, which decides how much a failure of it matters, and its class.

    `limit`: under what limit it may work where no rule says a narrower one.
    """

    id: str
    name: Annotated[str, Words("duty")]
    kind: SystemClass
    limit: Annotated[str, Words("limit")] = ""
    moved: bool = False
    """Whether a machine that this holds may be moved to where it is put right, if its cure needs power."""


@dataclass(frozen=True, slots=True)
class Option:
    """Equipment that some units have and others have not; `needs`: options without which it cannot be there."""

    id: str
    name: Annotated[str, Words("equipment")]
    needs: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Station:
    """A standing place of the lap, or a level that is climbed to."""

    id: str
    name: Annotated[str, Words("station")]
    level: Level
    stance: Annotated[str, Words("stance")]


@dataclass(frozen=True, slots=True)
class Checkpoint:
    """One thing to look at. `seconds` is the time [s] it takes a practised person.

    `near_heat` is true where a flammable fluid could reach a hot part.
    `backup_set` names the set of things that stand in for one another, such as
    the mirror and the camera of one side.
    """

    id: str
    name: Annotated[str, Words("checkpoint")]
    station: str
    system: System
    look: Annotated[str, Words("look")]
    why: Annotated[str, Words("why")]
    how: Annotated[str, Words("how")]
    how_kind: How
    engine: EngineState
    posture: Annotated[str, Words("posture")]
    mandatory: bool
    seconds: int
    failure_modes: tuple[str, ...]
    option: str | None = None
    cautions: tuple[Annotated[str, Words("caution")], ...] = ()
    energy: tuple[str, ...] = ()
    fluid: str | None = None
    near_heat: bool = False
    backup_set: str | None = None
    reading: ReadingKind | None = None
    also: tuple[Annotated[str, Words("also called")], ...] = ()
    """Other words that people search it by."""
    when: tuple[str, ...] = ()
    """Approach answers one of which must be given for it to be in the walk; none: always."""
    not_when: tuple[str, ...] = ()
    """Approach answers that take it out of the walk."""
    must_when: tuple[str, ...] = ()
    """Approach answers that make it mandatory."""
    limits: tuple[str, ...] = ()
    """The machine's own figures that are needed here."""
    compartment: str | None = None
    """Whose content its fluid is; None: a compartment of its own that nobody has measured."""
    duty: Duty | None = None
    """None in what was kept before parts had duties: there the system's class counts."""
    duties: Mapping[str, Duty] = field(default_factory=dict)
    """By failure mode, where what fails there has another duty: the lamps in a grille, the oil of a cylinder."""
    pressurised: bool = False
    """Whether its lines are under pressure when the machine works."""
    couplings: tuple[str, ...] = ()
    """Where a leak there can come from, the worst first; one alone need not be asked for."""
    fluids: tuple[str, ...] = ()
    """The fluids that can leak there, where there are several."""
    sees: tuple[tuple[int, int], ...] = ()
    """What it shows the operator: from, to, clockwise from straight ahead [deg]."""
    through: str | None = None
    """The screen without which it shows nothing."""
    readings: tuple[Bound, ...] = ()
    """What can be measured there."""
    limit: Annotated[str, Words("limit")] = ""
    """Under what limit it may work when this part has failed, where its duty's words do not fit it."""
    unfused: bool = False
    """Whether its cables lie before any fuse, or beside fuel or a battery."""
    overhead: bool = False
    """Whether it falls on people when it comes off."""
    every_h: float = 0.0
    every_days: int = 0
    """After so many hours [h] or days it is looked at again before a shift; 0: each time."""

    @property
    def by_interval(self) -> bool:
        """Whether it is not looked at before each shift."""
        return bool(self.every_h or self.every_days)

    @property
    def kind(self) -> SystemClass:
        """Whether lives, the machine, or comfort depend on it."""
        return self.duty.kind if self.duty else self.system.kind

    def duty_of(self, mode: str) -> Duty | None:
        """The duty of what fails there in this way."""
        return self.duties.get(mode, self.duty)


@dataclass(frozen=True, slots=True)
class OrderRule:
    """Station `first` comes before the stations `then`, and why."""

    first: str
    then: tuple[str, ...]
    says: Annotated[str, Words("order")]


@dataclass(frozen=True, slots=True)
class FigureChoice:
    """One of the few things that a figure without a unit can be."""

    id: str
    name: Annotated[str, Words("figure")]


@dataclass(frozen=True, slots=True)
class LimitKind:
    """A figure or grade that a model gives and a unit may override; no unit: text, or one of `choices`.

    `low` and `high` bound what can be meant.
    """

    id: str
    name: Annotated[str, Words("figure")]
    unit: Annotated[str, Words("unit")] = ""
    low: float = 0.0
    high: float = 0.0
    choices: tuple[FigureChoice, ...] = ()

    def label(self, value: float | str) -> float | str:
        """A value as it is told: a choice by its name."""
        return next((c.name for c in self.choices if c.id == value), value)


@dataclass(frozen=True, slots=True)
class Family:
    """A template: what every machine of this kind has, in the order of the lap."""

    id: str
    name: Annotated[str, Words("family")]
    shape: str
    options: tuple[Option, ...]
    stations: tuple[Station, ...]
    checkpoints: tuple[Checkpoint, ...]
    order: tuple[OrderRule, ...] = ()
    limits: tuple[LimitKind, ...] = ()
    traits: tuple[str, ...] = ()
    """What it is made of."""
