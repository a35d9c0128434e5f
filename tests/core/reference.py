"""Independent answers to compare the planner with: other libraries, other methods."""

from __future__ import annotations

import math
import random
from collections.abc import Sequence

import networkx
from ortools.sat.python import cp_model
from shapely.geometry import LineString, MultiPoint, Point, Polygon, box
from shapely.ops import unary_union

Place = tuple[float, float]
Matrix = list[list[int]]


def _closed(before: Sequence[int]) -> list[int]:
    """Everything that must come before each place, directly or through others."""
    order = networkx.DiGraph((i, j) for j, bits in enumerate(before) for i in range(len(before)) if bits >> i & 1)
    return [sum(1 << i for i in networkx.ancestors(order, j)) if j in order else 0 for j in range(len(before))]


def proven_optimum(cost: Matrix, before: Sequence[int], start: int = 0, seconds: float = 120.0) -> int:
    """What OR-Tools CP-SAT proves to be the least cost: a circuit through an end node, with positions.

    It is helped as far as the rules alone help: steps that they forbid are left out, and positions
    are no wider than they allow.
    """
    n, whole = len(cost), _closed(before)
    after = [sum(1 << j for j in range(n) if whole[j] >> i & 1) for i in range(n)]
    model = cp_model.CpModel()
    position = [model.new_int_var(whole[i].bit_count(), n - 1 - after[i].bit_count(), f"p{i}") for i in range(n)]
    arcs: list[tuple[int, int, object]] = [(n, start, model.new_constant(1))]
    terms = []
    for i in range(n):
        if not after[i]:
            arcs.append((i, n, model.new_bool_var("")))
        for j in range(n):
            if j in (i, start) or whole[i] >> j & 1 or after[i] & whole[j]:
                continue  # j comes before i, or something between the two
            goes = model.new_bool_var("")
            arcs.append((i, j, goes))
            terms.append(cost[i][j] * goes)
            model.add(position[j] == position[i] + 1).only_enforce_if(goes)
    model.add_circuit(arcs)
    for j in range(n):
        for i in range(n):
            if whole[j] >> i & 1 and not after[i] & whole[j]:
                model.add(position[i] + 1 <= position[j])
    model.minimize(sum(terms))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 2
    solver.parameters.linearization_level = 2
    solver.parameters.max_time_in_seconds = seconds
    status = solver.solve(model)
    assert status == cp_model.OPTIMAL, solver.status_name(status)
    return round(solver.objective_value)


def nearest_neighbour(cost: Sequence[Sequence[float]], before: Sequence[int], start: int = 0) -> float:
    """What a person does without a plan: always on to the nearest that may come next."""
    seen, here, total = 1 << start, start, 0.0
    while seen != (1 << len(cost)) - 1:
        free = [j for j in range(len(cost)) if not seen >> j & 1 and not before[j] & ~seen]
        here, before_here = min(free, key=lambda j: cost[here][j]), here
        total += cost[before_here][here]
        seen |= 1 << here
    return total


class FreeGround:
    """Shortest ways by Shapely's geometry and NetworkX's Dijkstra over one visibility graph."""

    def __init__(self, obstacles: Sequence[Sequence[Place]], clearance: float) -> None:
        grown = [Polygon(o).buffer(clearance, join_style="mitre", mitre_limit=50) for o in obstacles]
        self.wall = unary_union(grown)
        self.inner = self.wall.buffer(-1e-7)
        self.graph = networkx.Graph()
        corners = [c for polygon in grown for c in list(polygon.exterior.coords)[:-1]]
        self.corners = [c for c in corners if not self.inner.contains(Point(c))]
        for i, a in enumerate(self.corners):
            self._join(a, self.corners[:i])

    def _join(self, a: Place, others: Sequence[Place]) -> None:
        self.graph.add_node(a)
        for b in others:
            way = LineString([a, b])
            if not way.intersects(self.inner):
                self.graph.add_edge(a, b, metres=way.length)

    def metres(self, a: Place, b: Place) -> float:
        self._join(a, self.corners)
        self._join(b, [*self.corners, a])
        try:
            return float(networkx.dijkstra_path_length(self.graph, a, b, "metres"))
        except networkx.NetworkXNoPath:
            return float("inf")
        finally:
            for p in {a, b} - set(self.corners):
                self.graph.remove_node(p)

    def hits(self, line: Sequence[Place]) -> bool:
        return bool(len(line) > 1 and LineString(line).intersects(self.inner))


def layout(stations: int, rng: random.Random) -> tuple[list[list[Place]], list[Place], list[float], list[int]]:
    """Random outlines of a machine and a neighbour, places round them, climbs, and rules like those of a walk."""
    long, wide = rng.uniform(5, 13), rng.uniform(2.5, 6)
    obstacles = [list(box(0, 0, long, wide).exterior.coords)[:-1]]
    tool = rng.uniform(1.0, wide * 1.3)
    obstacles.append(
        list(box(long - 0.1, (wide - tool) / 2, long + rng.uniform(1, 6), (wide + tool) / 2).exterior.coords)[:-1]
    )
    if rng.random() < 0.5:
        odd = MultiPoint([(rng.uniform(0, 4), wide + rng.uniform(2.5, 6)) for _ in range(6)]).convex_hull
        obstacles.append(list(odd.exterior.coords)[:-1])
    obstacles = [o if Polygon(o).exterior.is_ccw else o[::-1] for o in obstacles]
    walls = unary_union([Polygon(o).buffer(0.4, join_style="mitre", mitre_limit=50) for o in obstacles])
    places: list[Place] = []
    while len(places) < stations:
        p = (rng.uniform(-3, long + 9), rng.uniform(-3, wide + 9))
        if not walls.contains(Point(p)) and Point(p).distance(walls) < 3:
            places.append(p)
    climb = [0.0] + [rng.uniform(4, 14) if rng.random() < 0.15 else 0.0 for _ in range(stations - 1)]
    before = [0, *([1] * (stations - 1))]
    before[-1] = (1 << stations) - 1 - (1 << (stations - 1))
    for j in range(1, stations - 1):
        others = [i for i in range(1, stations - 1) if i != j and not climb[i]]
        if climb[j] and others:  # what is climbed was checked first, from a place near its foot
            before[j] |= 1 << min(others, key=lambda i: math.dist(places[i], places[j]))
        elif rng.random() < 0.06:  # and a few other rules, in the order of the numbers
            before[j] |= sum(1 << i for i in rng.sample(range(1, j), min(1, j - 1)) if not climb[i])
    return obstacles, places, climb, before


def step_costs(ways: Sequence[Sequence[tuple[object, float]]], climb: Sequence[float]) -> list[list[float]]:
    """Seconds from place to place at a metre a second: down what was climbed, over, up what is climbed."""
    n = len(ways)
    return [[ways[i][j][1] + 0.8 * climb[i] + climb[j] if i != j else 0.0 for j in range(n)] for i in range(n)]
