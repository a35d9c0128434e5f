"""Walking from place to place on the ground without walking through what stands there."""

from __future__ import annotations

import math
from collections.abc import Sequence

from jutrel.core.machine.model import Point

CLEARANCE_M = 0.35  # a person's shoulder; the line is where the middle of the body goes

Polygon = Sequence[Point]
Line = tuple[Point, ...]


def _grown(polygon: Polygon, by: float) -> tuple[Point, ...]:
    """A convex, counter-clockwise polygon with its corners pushed out along their bisectors."""
    out = []
    n = len(polygon)
    for i, (x, y) in enumerate(polygon):
        (px, py), (qx, qy) = polygon[i - 1], polygon[(i + 1) % n]
        a, b = math.hypot(x - px, y - py), math.hypot(qx - x, qy - y)
        n1 = ((y - py) / a, -(x - px) / a)
        n2 = ((qy - y) / b, -(qx - x) / b)
        scale = by / (1 + n1[0] * n2[0] + n1[1] * n2[1])
        out.append((x + (n1[0] + n2[0]) * scale, y + (n1[1] + n2[1]) * scale))
    return tuple(out)


def crosses(a: Point, b: Point, polygon: Polygon) -> bool:
    """Whether the segment a-b runs through the inside of a convex, counter-clockwise polygon.

    >>> box = ((0, 0), (2, 0), (2, 2), (0, 2))
    >>> crosses((-1, 1), (3, 1), box), crosses((-1, 2), (3, 2), box)
    (True, False)
    """
    enter, leave = 0.0, 1.0
    x1, y1 = polygon[-1]
    dx, dy = b[0] - a[0], b[1] - a[1]
    for x2, y2 in polygon:
        nx, ny = y2 - y1, x1 - x2  # outward
        start = nx * (a[0] - x1) + ny * (a[1] - y1)
        run = nx * dx + ny * dy
        x1, y1 = x2, y2
        if abs(run) < 1e-12:
            if start >= -1e-9:
                return False
            continue
        at = -start / run
        if run < 0:
            enter = max(enter, at)
        else:
            leave = min(leave, at)
        if leave - enter <= 1e-9:
            return False
    return True


def inside(p: Point, polygon: Polygon) -> bool:
    """Whether a point lies strictly inside a convex, counter-clockwise polygon."""
    return all(
        (x2 - x1) * (p[1] - y1) - (y2 - y1) * (p[0] - x1) > 1e-9
        for (x1, y1), (x2, y2) in zip(polygon, [*polygon[1:], polygon[0]], strict=True)
    )


class Ground:
    """The ground around a machine: convex outlines stand on it, and a person keeps a shoulder's breadth off.

    A shortest way past convex outlines bends only at their corners, so the corners and
    who sees whom make a graph that holds every shortest way (visibility graph: Lozano-Pérez,
    Wesley 1979). Corner to corner is solved once, for all places.
    """

    def __init__(self, obstacles: Sequence[Polygon]) -> None:
        self.walls = [_grown(p, CLEARANCE_M) for p in obstacles]
        self.corners = [c for wall in self.walls for c in wall if self.free(c)]
        n = len(self.corners)
        self._far = [[math.inf] * n for _ in range(n)]
        self._next = [list(range(n)) for _ in range(n)]
        for i, a in enumerate(self.corners):
            self._far[i][i] = 0.0
            for j in range(i):
                if self.sees(a, self.corners[j]):
                    self._far[i][j] = self._far[j][i] = math.dist(a, self.corners[j])
        for k in range(n):  # Floyd, Warshall (1962)
            through = self._far[k]
            for i in range(n):
                to_k, row, step = self._far[i][k], self._far[i], self._next[i]
                if to_k == math.inf:
                    continue
                for j in range(n):
                    if to_k + through[j] < row[j] - 1e-12:
                        row[j] = to_k + through[j]
                        step[j] = step[k]

    def free(self, p: Point) -> bool:
        """Whether a person can stand at p."""
        return not any(inside(p, wall) for wall in self.walls)

    def sees(self, a: Point, b: Point) -> bool:
        """Whether one can walk straight from a to b."""
        return not any(crosses(a, b, wall) for wall in self.walls)

    def _in_sight(self, p: Point) -> list[tuple[int, float]]:
        return [(i, math.dist(p, c)) for i, c in enumerate(self.corners) if self.sees(p, c)]

    def ways(self, places: Sequence[Point]) -> list[list[tuple[Line, float]]]:
        """The shortest way [m] between every two places; infinitely long where there is none."""
        sight = [self._in_sight(p) if self.free(p) else [] for p in places]
        stand = [self.free(p) for p in places]
        out: list[list[tuple[Line, float]]] = [[((p,), 0.0) for p in places] for _ in places]
        for i, a in enumerate(places):
            reach = [
                min(((d + self._far[k][c], k) for k, d in sight[i]), default=(math.inf, -1))
                for c in range(len(self.corners))
            ]
            for j in range(i):
                b = places[j]
                if not (stand[i] and stand[j]):
                    found: tuple[Line, float] = ((a, b), math.inf)
                elif self.sees(a, b):
                    found = ((a, b), math.dist(a, b))
                else:
                    metres, last = min(((reach[c][0] + d, c) for c, d in sight[j]), default=(math.inf, -1))
                    bends: list[Point] = []
                    if math.isfinite(metres):
                        at = reach[last][1]
                        bends.append(self.corners[at])
                        while at != last:
                            at = self._next[at][last]
                            bends.append(self.corners[at])
                    found = ((a, *bends, b), metres)
                out[i][j] = found
                out[j][i] = (found[0][::-1], found[1])
        return out


def shortest_leg(a: Point, b: Point, obstacles: Sequence[Polygon]) -> tuple[Line, float]:
    """The shortest way [m] from a to b past convex obstacles, as a polyline and its length.

    Infinitely long if somebody would have to squeeze through.

    >>> line, metres = shortest_leg((0, 2), (4, 2), [((1, 0), (3, 0), (3, 3), (1, 3))])
    >>> len(line), round(metres, 2)
    (4, 5.7)
    """
    return Ground(obstacles).ways((a, b))[0][1]
