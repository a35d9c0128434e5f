"""A model gives a family its dimensions [m], capacities [L] and places; a unit is one of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Annotated

from jutrel.core.machine.drawing.part import MachinePart
from jutrel.core.machine.family import Checkpoint, EngineState, Family, How, Station, System, SystemClass
from jutrel.core.machine.kind import Because, InspectionKind
from jutrel.core.machine.zone import Zone
from jutrel.core.wording import Said, Words, say

Point = tuple[float, float]
Place = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class RodGroup:
    """Cylinders that move together: rods of one diameter [m] and stroke [m].

    `extension_at_check` is 0 (rods in) to 1 (rods out) in the maker's posture
    for reading the level.
    """

    id: str
    name: Annotated[str, Words("rods")]
    count: int
    rod_diameter: float
    stroke: float
    extension_at_check: float


@dataclass(frozen=True, slots=True)
class HydraulicTank:
    """The hydraulic tank and its sight gauge.

    `area` [m²] is the tank's plan area, `band` [m] the height from low to full
    mark, (`gauge_x`, `gauge_y`) [m] the gauge's place from the tank's centre
    line, `system_oil` [L] all the oil whose expansion the tank must take up,
    `cold_c` [°C] the oil temperature the marks are made for.
    """

    area: float
    band: float
    gauge_x: float
    gauge_y: float
    system_oil: float
    cold_c: float
    posture: Annotated[str, Words("posture")]
    rods: tuple[RodGroup, ...]


@dataclass(frozen=True, slots=True)
class Access:
    """Steps or a ladder: where its foot stands, which stations it leads to, how long up and down [s].

    `checked_by` is the checkpoint that tells whether it carries.
    """

    id: str
    name: Annotated[str, Words("access")]
    foot: Point
    leads_to: tuple[str, ...]
    up_s: float
    down_s: float
    checked_by: str


Limit = float | str


@dataclass(frozen=True, slots=True)
class Model:
    """One model of a family. `reserves` [L]: fluid from FULL to its ADD mark, by fluid.

    `moved` names the station of a checkpoint that this model has elsewhere than its family.
    `gates` [m] are points on the only safe way to a station. `limits` are the maker's figures, `schools` how the maker
    wants done what good hands do differently. `strapping`: by fluid, how many litres stand in its tank at which height
    [m].
    """

    id: str
    maker: str
    name: str
    family: Family
    options: tuple[str, ...]
    shape: Mapping[str, float]
    """Its dimensions [m], by name."""
    tank: HydraulicTank
    reserves: Mapping[str, float]
    station_places: Mapping[str, Point]
    places: Mapping[str, Place]
    access: tuple[Access, ...]
    gates: Mapping[str, Point]
    moved: Mapping[str, str]
    limits: Mapping[str, Limit]
    schools: Mapping[str, str] = field(default_factory=dict)
    strapping: Mapping[str, tuple[tuple[float, float], ...]] = field(default_factory=dict)
    parts: tuple[MachinePart, ...] = ()
    """What it is drawn from; none in what was kept before drawings were made of parts."""
    obstacles: tuple[tuple[Point, ...], ...] = ()
    """Outlines that nobody can walk through [m]."""
    zones: tuple[Zone, ...] = ()
    edges: Mapping[str, float] = field(default_factory=dict)
    """Where its body ends [m]: at the `rear`, and at the `side`."""
    postures: Mapping[str, tuple[MachinePart, ...]] = field(default_factory=dict)
    """Its parts as it is parked under a school, by `school.choice`."""
    on_part: Mapping[str, str] = field(default_factory=dict)
    """The part on which each place lies."""


@dataclass(frozen=True, slots=True)
class Walk:
    """What one walk round this unit consists of: only what applies to it.

    Without a `kind` it is everything the unit has. `because` says what the answers on the
    approach added, took out or made mandatory.
    """

    model: Model
    options: frozenset[str]
    stations: tuple[Station, ...]
    checkpoints: tuple[Checkpoint, ...]
    kind: InspectionKind | None = None
    because: tuple[Because, ...] = ()

    def checkpoint(self, checkpoint_id: str) -> Checkpoint | None:
        """The checkpoint of that id, or None if this walk has none."""
        return next((c for c in self.checkpoints if c.id == checkpoint_id), None)

    def at(self, station: str) -> tuple[Checkpoint, ...]:
        """What is looked at from a station."""
        return tuple(c for c in self.checkpoints if c.station == station)

    def station_of(self, checkpoint_id: str) -> str:
        """The station a checkpoint is looked at from; empty if this walk has no such checkpoint."""
        found = self.checkpoint(checkpoint_id)
        return found.station if found else ""

    @property
    def seconds(self) -> int:
        """Planned looking time [s], without the walking between stations."""
        return sum(c.seconds for c in self.checkpoints)

    @property
    def clears(self) -> bool:
        """Whether a good verdict on it lets the machine work; so does everything there is."""
        return self.kind is None or self.kind.clears


def checkpoint_of(model: Model, checkpoint_id: str) -> Checkpoint:
    """A checkpoint of the model's family, whether or not this unit has it.

    One that the family no longer has stands for itself: what was reported there must not vanish.
    """
    for c in model.family.checkpoints:
        if c.id == checkpoint_id:
            return replace(c, station=model.moved[c.id]) if c.id in model.moved else c
    name = checkpoint_id.replace("-", " ").capitalize()
    other = System("other", say("No longer in the catalog", context="system").text, SystemClass.LIFE)
    return Checkpoint(
        checkpoint_id, name, model.family.stations[0].id, other, "", "", "", How.LOOK, EngineState.OFF, "", True, 0, ()
    )


def walk_of(model: Model, options: frozenset[str]) -> Walk:
    """Everything that a unit of `model` with `options` has.

    A station at which nothing is left to look at falls away.
    """
    checkpoints = tuple(
        replace(c, station=model.moved[c.id]) if c.id in model.moved else c
        for c in model.family.checkpoints
        if c.option is None or c.option in options
    )
    return _with(Walk(model, options, (), ()), checkpoints)


def _with(walk: Walk, checkpoints: tuple[Checkpoint, ...]) -> Walk:
    used = {c.station for c in checkpoints}
    order = {s.id: i for i, s in enumerate(walk.model.family.stations)}
    stations = tuple(s for s in walk.model.family.stations if s.id in used)
    return replace(walk, stations=stations, checkpoints=tuple(sorted(checkpoints, key=lambda c: order[c.station])))


def walk_for(
    walk: Walk,
    kind: InspectionKind,
    answers: Mapping[str, Said],
    open_at: frozenset[str] = frozenset(),
    changed: Mapping[str, Said] = MappingProxyType({}),
    noticed: frozenset[str] = frozenset(),
    resting: Mapping[str, Said] = MappingProxyType({}),
) -> Walk:
    """The part of a unit's walk that a kind of inspection takes, given the answers on the approach.

    Parameters
    ----------
    walk
        Everything the unit has.
    kind
        What the inspection is for.
    answers
        The answers that were given with yes, and for each what it means, as a sentence.
    open_at
        Checkpoints with something open from earlier: they are always looked at again.
    changed
        Checkpoints at which something changed since the look before, and what, as a sentence.
    noticed
        Checkpoints that were answered on the way, whether or not the kind takes them.
    resting
        Checkpoints whose interval is not over yet, and why, as a sentence.
    """
    taken, because = [], []
    for c in walk.checkpoints:
        reason = kind.reason_for(c)
        asked = next((a for a in c.when if a in answers), None)
        out = next((a for a in c.not_when if a in answers), None)
        if c.id in open_at:
            if reason is None or out or (c.when and not asked):
                because.append(Because(c.id, c.name, "added", say("Something is open there from last time.")))
        elif c.id in noticed:
            if reason is None or out or (c.when and not asked):
                because.append(Because(c.id, c.name, "added", say("It was noticed on the way.")))
        elif c.when and asked is None:
            continue
        elif asked is not None:
            because.append(Because(c.id, c.name, "added", answers[asked]))
        elif out is not None:
            if reason is not None:
                because.append(Because(c.id, c.name, "removed", answers[out]))
            continue
        elif reason is None:
            must = next((a for a in c.must_when if a in answers), None) if kind.answers_add else None
            news = changed.get(c.id) if kind.sees_changes else None
            if must is None and news is None:
                continue
            because.append(Because(c.id, c.name, "added", news or answers[str(must)]))
        must = next((a for a in c.must_when if a in answers), None)
        rests = kind.by_interval and c.id not in open_at and c.id not in noticed and must is None and asked is None
        if rests and c.id in resting and not (kind.sees_changes and c.id in changed):
            because.append(Because(c.id, c.name, "removed", resting[c.id]))
            continue
        if must is not None and not c.mandatory:
            c = replace(c, mandatory=True)
            because.append(Because(c.id, c.name, "must", answers[must]))
        taken.append(c)
    return replace(_with(walk, tuple(taken)), kind=kind, because=tuple(because))
