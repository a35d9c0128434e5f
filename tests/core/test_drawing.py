"""The drawings: what stands in the way is all of the machine, and no way leads through anything that is drawn."""

from __future__ import annotations

import itertools

import pytest
from shapely.geometry import LineString, MultiPoint, Polygon
from shapely.ops import unary_union

from jutrel.catalog import catalog
from jutrel.core.machine.drawing import Shape, plan_drawing, side_drawing
from jutrel.core.machine.family import Level
from jutrel.core.machine.model import Model, walk_of
from jutrel.core.machine.shapes import RigidHaulerShape
from jutrel.core.route.ground import CLEARANCE_M
from jutrel.core.route.plan import Lap, plan_route

MODELS = list(catalog().models.values())
HEAD_M = 1.9
OVERHEAD = ("body", "canopy")
"""Parts of a rigid hauler that reach out over a person's head: one walks under them, past wheels and frame."""


def solid_shapes(model: Model) -> list[Shape]:
    """What a person on the ground would bump into, as drawn from above."""
    overhead = OVERHEAD if isinstance(model.shape, RigidHaulerShape) else ()
    return [s for s in plan_drawing(model.shape).shapes if not s.part.startswith(overhead or "-")]


def test_what_is_walked_under_is_over_a_head() -> None:
    for model in MODELS:
        if isinstance(model.shape, RigidHaulerShape):
            back = min(x for o in plan_drawing(model.shape).obstacles for x, _ in o)
            hung = [
                z
                for s in side_drawing(model.shape).shapes
                if s.part.startswith(OVERHEAD)
                for x, z in s.points
                if x < back - 0.05
            ]
            assert hung
            assert min(hung) > HEAD_M, model.id


@pytest.mark.parametrize("model", MODELS, ids=lambda m: m.id)
def test_outlines_are_convex_and_hold_everything_drawn(model: Model) -> None:
    drawing = plan_drawing(model.shape)
    outlines = [Polygon(o) for o in drawing.obstacles]
    for outline in outlines:
        assert outline.is_valid
        assert outline.exterior.is_ccw
        assert outline.convex_hull.area == pytest.approx(outline.area)
    # Nobody bumps into a part that the outline forgot: a hand's breadth at most stands over.
    wall = unary_union(outlines).buffer(0.12)
    for shape in solid_shapes(model):
        out = [p for p in shape.points if not wall.covers(MultiPoint([p]))]
        assert not out, (shape.part, out[:3])


@pytest.mark.parametrize("model", MODELS, ids=lambda m: m.id)
def test_no_leg_crosses_what_is_drawn(model: Model) -> None:
    """Not only the outline: the very shapes of tracks, wheels, body and tool."""
    walk = walk_of(model, frozenset(model.options))
    solid = unary_union([Polygon(s.points).buffer(0) for s in solid_shapes(model) if s.closed and len(s.points) > 2])
    level = {s.id: s.level for s in walk.stations}
    lap = Lap(walk)
    for a, b in itertools.combinations(lap.stations, 2):
        line, metres = lap.ways[lap.stations.index(a)][lap.stations.index(b)]
        assert metres >= LineString([line[0], line[-1]]).length - 1e-9
        assert not LineString(line).intersects(solid.buffer(CLEARANCE_M - 0.15)), (a, b)
    for leg in plan_route(walk).legs:
        if level[leg.station] in (Level.GROUND, Level.UNDER) and len(leg.line) > 1:
            assert not LineString(leg.line[1:] if leg.line[0] not in lap.feet else leg.line).intersects(solid)


@pytest.mark.parametrize("model", MODELS, ids=lambda m: m.id)
def test_the_two_views_agree(model: Model) -> None:
    """Part by part, what both views show is as long from the side as from above."""
    above, side = plan_drawing(model.shape), side_drawing(model.shape)

    def reach(shapes: tuple[object, ...], part: str) -> tuple[float, float]:
        xs = [x for s in shapes if s.part == part for x, _ in s.points]  # type: ignore[attr-defined]
        return min(xs), max(xs)

    shared = {s.part for s in above.shapes} & {s.part for s in side.shapes}
    whole = [s.part for s in above.shapes if s.role in ("body", "cab", "track") and s.part in shared]
    assert whole
    for part in whole:
        if part in ("cab", "track-left") or part.startswith("tyre"):
            assert reach(above.shapes, part) == pytest.approx(reach(side.shapes, part), abs=0.35), part
    assert all(z >= -0.01 for s in side.shapes for _, z in s.points)
