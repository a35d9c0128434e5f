"""A model gives a family its dimensions [m], capacities [L] and places; a unit is one of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jutrel.core.machine.family import Checkpoint, Family, Station

Point = tuple[float, float]
Place = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class ExcavatorShape:
    """Dimensions of a crawler excavator in its parking posture [m].

    Plan frame: origin on the slewing axis, x forward, y left, z up.
    """

    track_length: float
    track_gauge: float
    shoe_width: float
    upper_width: float
    tail_radius: float
    upper_front: float
    cab_length: float
    cab_width: float
    boom_foot_x: float
    boom_width: float
    boom_reach: float
    arm_reach: float
    bucket_width: float
    bucket_length: float
    bucket_teeth: int


@dataclass(frozen=True, slots=True)
class RodGroup:
    """Cylinders that move together: rods of one diameter [m] and stroke [m].

    `extension_at_check` is 0 (rods in) to 1 (rods out) in the maker's posture
    for reading the level.
    """

    id: str
    name: str
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
    posture: str
    rods: tuple[RodGroup, ...]


@dataclass(frozen=True, slots=True)
class Model:
    """One model of a family. `reserves` [L]: fluid from FULL to its ADD mark, by fluid."""

    id: str
    maker: str
    name: str
    family: Family
    options: tuple[str, ...]
    shape: ExcavatorShape
    tank: HydraulicTank
    reserves: Mapping[str, float]
    station_places: Mapping[str, Point]
    places: Mapping[str, Place]


@dataclass(frozen=True, slots=True)
class Walk:
    """What this unit's walk consists of, in order: only what applies to it."""

    model: Model
    options: frozenset[str]
    stations: tuple[Station, ...]
    checkpoints: tuple[Checkpoint, ...]

    def checkpoint(self, checkpoint_id: str) -> Checkpoint | None:
        """The checkpoint of that id, or None if this unit has none."""
        return next((c for c in self.checkpoints if c.id == checkpoint_id), None)

    @property
    def seconds(self) -> int:
        """Planned looking time [s], without the walking between stations."""
        return sum(c.seconds for c in self.checkpoints)


def walk_of(model: Model, options: frozenset[str]) -> Walk:
    """The walk of a unit of `model` that has `options`.

    A station at which nothing is left to look at falls away.
    """
    checkpoints = tuple(c for c in model.family.checkpoints if c.option is None or c.option in options)
    used = {c.station for c in checkpoints}
    stations = tuple(s for s in model.family.stations if s.id in used)
    return Walk(model, options, stations, checkpoints)
