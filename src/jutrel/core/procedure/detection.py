"""Where a person detection has to see people: camera by camera, an outer zone that warns and an inner one that alarms.

Zones as they are usual on such systems, from memory; the unit's own setting comes first where it has one.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from jutrel.core.route.ground import Line

INNER_M, OUTER_M = 5.0, 8.0
"""From the machine to the end of the zone that stops it, and of the one that warns [m]; common practice."""
HALF_DEG = 55.0
CORNERS = 16
CAMERAS = {"rear": 180.0, "left": 90.0, "right": -90.0}
"""Where each camera looks [°], left of straight ahead."""


@dataclass(frozen=True, slots=True)
class Field:
    """A zone of a camera: the step that tries it, which part of the step it is, its outline [m]."""

    step: str
    part: str
    outline: Line


def sector(start_m: float, end_m: float, towards_deg: float) -> Line:
    """A stretch of a ring round the origin, as wide as a camera sees.

    >>> [round(x) for x in sector(2.0, 7.0, 180.0)[0]], len(sector(2.0, 7.0, 180.0))
    ([-1, -2], 34)
    """
    turns = [math.radians(towards_deg - HALF_DEG + 2 * HALF_DEG * n / CORNERS) for n in range(CORNERS + 1)]
    near = [(start_m * math.cos(a), start_m * math.sin(a)) for a in turns]
    far = [(end_m * math.cos(a), end_m * math.sin(a)) for a in turns]
    return (*near[::-1], *far)


def fields_of(edges: Mapping[str, float], steps: frozenset[str], stops_m: float = INNER_M) -> tuple[Field, ...]:
    """The zones that the steps of a run try on a machine, the inner one of each camera first.

    `edges`: where the machine ends [m], at the rear and at the side. `stops_m`: where it is set to stop the machine;
    the zone that warns reaches as much farther as is usual.

    >>> [(f.step, f.part) for f in fields_of({"rear": 2.85, "side": 1.5}, frozenset({"detection-rear"}))]
    [('detection-rear', 'inner'), ('detection-rear', 'outer')]
    """
    out = []
    for camera, towards in CAMERAS.items():
        step, edge = f"detection-{camera}", edges.get("rear" if camera == "rear" else "side")
        if step in steps and edge is not None:
            warns_m = stops_m + OUTER_M - INNER_M
            out.append(Field(step, "inner", sector(edge, edge + stops_m, towards)))
            out.append(Field(step, "outer", sector(edge + stops_m, edge + warns_m, towards)))
    return tuple(out)
