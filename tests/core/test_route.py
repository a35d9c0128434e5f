"""The way round the machine: no leg through it, none longer than it must be."""

from __future__ import annotations

import heapq
import itertools
import math

from hypothesis import given, settings
from hypothesis import strategies as st

from jutrel.core.machine.drawing import plan_drawing
from jutrel.core.route.ground import CLEARANCE_M, crosses, inside, shortest_leg
from tests.deep import DEEP
from tests.walks import MODEL

DRAWING = plan_drawing(MODEL)
spots = st.tuples(st.floats(-6, 9), st.floats(-5, 5)).filter(
    lambda p: all(not inside(p, _box(o, CLEARANCE_M + 0.05)) for o in DRAWING.obstacles)
)


def _box(points: tuple[tuple[float, float], ...], by: float) -> tuple[tuple[float, float], ...]:
    xs, ys = [x for x, _ in points], [y for _, y in points]
    return (
        (min(xs) - by, min(ys) - by),
        (max(xs) + by, min(ys) - by),
        (max(xs) + by, max(ys) + by),
        (min(xs) - by, max(ys) + by),
    )


def dense_grid(a: tuple[float, float], b: tuple[float, float], step: float = 0.1) -> float:
    """Shortest path on a fine grid with long moves: never shorter than the truth, little longer."""
    walls = [_box(o, CLEARANCE_M - 1e-6) for o in DRAWING.obstacles]
    moves = [(i, j) for i, j in itertools.product(range(-4, 5), repeat=2) if math.gcd(i, j) == 1]
    start, goal = (round(a[0] / step), round(a[1] / step)), (round(b[0] / step), round(b[1] / step))
    best, queue = {start: 0.0}, [(0.0, start)]
    while queue:
        cost, here = heapq.heappop(queue)
        if here == goal:
            return cost
        if cost > best[here]:
            continue
        for i, j in moves:
            there = (here[0] + i, here[1] + j)
            if abs(there[0] * step) > 11 or abs(there[1] * step) > 8:
                continue
            p, q = (here[0] * step, here[1] * step), (there[0] * step, there[1] * step)
            total = cost + math.dist(p, q)
            if total < best.get(there, math.inf) and not any(crosses(p, q, w) for w in walls):
                best[there] = total
                heapq.heappush(queue, (total, there))
    return math.inf


@given(spots, spots)
@settings(max_examples=8 if DEEP else 4, deadline=None)
def test_as_short_as_a_dense_grid_says(a: tuple[float, float], b: tuple[float, float]) -> None:
    line, metres = shortest_leg(a, b, DRAWING.obstacles)
    assert metres <= dense_grid(a, b) + 0.15  # the grid rounds the two ends
    assert metres >= math.dist(a, b) - 1e-9
    assert math.isclose(metres, sum(math.dist(p, q) for p, q in itertools.pairwise(line)))


@given(spots, spots)
def test_no_leg_runs_through_the_machine(a: tuple[float, float], b: tuple[float, float]) -> None:
    line, metres = shortest_leg(a, b, DRAWING.obstacles)
    for p, q in itertools.pairwise(line):
        assert not any(crosses(p, q, o) for o in DRAWING.obstacles)
    assert math.isclose(metres, shortest_leg(b, a, DRAWING.obstacles)[1])


def test_drawing_is_to_scale() -> None:
    x0, y0, x1, y1 = DRAWING.bounds
    s = MODEL.shape
    assert math.isclose(x0, -s["tail_radius"], abs_tol=0.01)
    assert math.isclose(y1 - y0, s["track_gauge"] + s["shoe_width"], abs_tol=0.11)  # and the steps on both sides
    tracks = [p for shape in DRAWING.shapes if shape.role == "track" for p in shape.points]
    assert math.isclose(max(x for x, _ in tracks) - min(x for x, _ in tracks), s["track_length"], abs_tol=1e-9)
    assert sum(shape.part == "tooth" for shape in DRAWING.shapes) == s["bucket_teeth"]
    assert x1 > s["boom_foot_x"] + s["boom_reach"] + s["arm_reach"]
