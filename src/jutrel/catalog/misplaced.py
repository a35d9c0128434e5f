"""Places that cannot be right on a machine: a mirror below the seat, things strung along a line."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from itertools import product

from jutrel.catalog.build_drawing import ComposedDrawing
from jutrel.catalog.documents.drawings import HeightDoc
from jutrel.core.errors import BadInput
from jutrel.core.machine.drawing.part import Spot
from jutrel.core.wording import say

EVEN_M = 0.004
"""Places that are strung along a line stand in steps as even as this [m]; what was built does not."""
SHORTEST_STEP_M = 0.05


def misplaced(drawn: ComposedDrawing, heights: Collection[HeightDoc]) -> BadInput | None:
    """The first place that cannot be right on a machine, with what is wrong."""
    for doc in heights:
        for checkpoint in sorted(c for c in drawn.places if any(_means(p, c) for p in doc.places)):
            z = drawn.places[checkpoint][2]
            for bound, sign in ((doc.above, 1), (doc.below, -1)):
                if bound is None:
                    continue
                edge = drawn.heights[bound] if bound in drawn.heights else drawn.places.get(bound, (0, 0, z))[2]
                if sign * (z - edge) < 0:
                    return _wrong_height(checkpoint, bound, z, edge, sign > 0)
    if four := in_even_steps(drawn.places):
        says = say("{those} stand in even steps along a line; say where each of them is", those=", ".join(four))
        return BadInput(four[0], says)
    return None


def _wrong_height(checkpoint: str, bound: str, z: float, edge: float, above: bool) -> BadInput:
    at, limit = round(z, 2), round(edge, 2)
    if above:
        return BadInput(
            checkpoint, "is at {z} m; it stands higher than '{bound}', {edge} m", z=at, bound=bound, edge=limit
        )
    return BadInput(checkpoint, "is at {z} m; it lies lower than '{bound}', {edge} m", z=at, bound=bound, edge=limit)


def _means(pattern: str, checkpoint: str) -> bool:
    return checkpoint.startswith(pattern[:-1]) if pattern.endswith("*") else checkpoint == pattern


def in_even_steps(places: Mapping[str, Spot]) -> tuple[str, ...]:
    """Four places that somebody strung along a line; empty where there are none.

    >>> in_even_steps({"a": (0, 0, 1), "b": (0.2, 0, 1), "c": (0.4, 0, 1), "d": (0.6, 0, 1), "e": (0.7, 0, 1)})
    ('a', 'b', 'c', 'd')
    """
    near: dict[tuple[int, int, int], list[str]] = {}
    """By cell: the places that can be within reach of a spot in it."""

    def cell(x: float, y: float, z: float) -> tuple[int, int, int]:
        return round(x / EVEN_M / 2), round(y / EVEN_M / 2), round(z / EVEN_M / 2)

    for name, spot in places.items():
        cx, cy, cz = cell(*spot)
        for dx, dy, dz in product((-1, 0, 1), repeat=3):
            near.setdefault((cx + dx, cy + dy, cz + dz), []).append(name)

    def at(*spot: float) -> str:
        x, y, z = spot
        return next((n for n in near.get(cell(x, y, z), ()) if math.dist(places[n], spot) <= EVEN_M), "")

    names = list(places)
    for a in names:
        for b in names:
            (ax, ay, az), (bx, by, bz) = places[a], places[b]
            x, y, z = bx - ax, by - ay, bz - az
            if x * x + y * y + z * z < SHORTEST_STEP_M**2:
                continue
            if (c := at(bx + x, by + y, bz + z)) and (d := at(bx + 2 * x, by + 2 * y, bz + 2 * z)):
                return a, b, c, d
    return ()
