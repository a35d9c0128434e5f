"""Walking from station to station without walking through the machine."""

from __future__ import annotations

import heapq
import math
from collections.abc import Sequence

from jutrel.core.machine.model import Point

CLEARANCE_M = 0.35  # a person's shoulder; the line is where the middle of the body goes

Polygon = Sequence[Point]


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
    for i, (x1, y1) in enumerate(polygon):
        x2, y2 = polygon[(i + 1) % len(polygon)]
        nx, ny = y2 - y1, x1 - x2  # outward
        start = nx * (a[0] - x1) + ny * (a[1] - y1)
        run = nx * (b[0] - a[0]) + ny * (b[1] - a[1])
        if abs(run) < 1e-12:
            if start >= -1e-9:
                return False
            continue
        at = -start / run
        if run < 0:
            enter = max(enter, at)
        else:
            leave = min(leave, at)
    return leave - enter > 1e-9


def inside(p: Point, polygon: Polygon) -> bool:
    """Whether a point lies strictly inside a convex, counter-clockwise polygon."""
    return all(
        (x2 - x1) * (p[1] - y1) - (y2 - y1) * (p[0] - x1) > 1e-9
        for (x1, y1), (x2, y2) in zip(polygon, [*polygon[1:], polygon[0]], strict=True)
    )


def shortest_leg(a: Point, b: Point, obstacles: Sequence[Polygon]) -> tuple[tuple[Point, ...], float]:
    """The shortest way [m] from a to b past convex obstacles, as a polyline and its length.

    A visibility graph over the obstacles' corners, grown by a person's shoulder,
    searched with Dijkstra's method.

    >>> line, metres = shortest_leg((0, 2), (4, 2), [((1, 0), (3, 0), (3, 3), (1, 3))])
    >>> len(line), round(metres, 2)
    (4, 5.7)
    """
    # A station may stand closer than a shoulder's breadth; then only the bare outline stops the line.
    walls = [
        g if not (inside(a, g) or inside(b, g)) else tuple(p)
        for p, g in ((p, _grown(p, CLEARANCE_M)) for p in obstacles)
    ]
    corners = [c for p in obstacles for c in _grown(p, CLEARANCE_M)]
    nodes = [a, b, *(c for c in corners if not any(inside(c, w) for w in walls))]
    best = {0: 0.0}
    came: dict[int, int] = {}
    queue = [(0.0, 0)]
    while queue:
        cost, here = heapq.heappop(queue)
        if here == 1:
            break
        if cost > best[here]:
            continue
        for there, node in enumerate(nodes):
            if there == here or any(crosses(nodes[here], node, w) for w in walls):
                continue
            total = cost + math.dist(nodes[here], node)
            if total < best.get(there, math.inf):
                best[there], came[there] = total, here
                heapq.heappush(queue, (total, there))
    if 1 not in best:
        return (a, b), math.dist(a, b)
    line, at = [b], 1
    while at in came:
        at = came[at]
        line.append(nodes[at])
    return tuple(reversed(line)), best[1]
