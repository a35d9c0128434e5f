"""What every drawing is made of: shapes with a role, and the strokes that many machines share."""

from __future__ import annotations

import math
from dataclasses import dataclass

Point = tuple[float, float]
Outline = tuple[Point, ...]


@dataclass(frozen=True, slots=True)
class Shape:
    """A line or a filled outline; `role` tells the pen how to draw it, `part` what it is."""

    part: str
    role: str
    points: Outline
    closed: bool = True


@dataclass(frozen=True, slots=True)
class Drawing:
    """All shapes, back to front, and the convex outlines that nobody can walk through.

    A plan shows x and y, a side view x and z, always in metres.
    """

    shapes: tuple[Shape, ...]
    obstacles: tuple[Outline, ...] = ()

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """(left, low, right, high) [m]; a metre each way where nothing is drawn."""
        if not self.shapes:
            return -1.0, -1.0, 1.0, 1.0
        xs = [x for s in self.shapes for x, _ in s.points]
        ys = [y for s in self.shapes for _, y in s.points]
        return min(xs), min(ys), max(xs), max(ys)


def box(x0: float, y0: float, x1: float, y1: float) -> Outline:
    """A rectangle, counter-clockwise."""
    return ((x0, y0), (x1, y0), (x1, y1), (x0, y1))


def rounded(x0: float, y0: float, x1: float, y1: float, r: float, steps: int = 5) -> Outline:
    """A rectangle with round corners of radius r."""
    corners = ((x1 - r, y1 - r, 0.0), (x0 + r, y1 - r, 90.0), (x0 + r, y0 + r, 180.0), (x1 - r, y0 + r, 270.0))
    points = []
    for cx, cy, start in corners:
        for i in range(steps + 1):
            angle = math.radians(start + 90.0 * i / steps)
            points.append((cx + r * math.cos(angle), cy + r * math.sin(angle)))
    return tuple(points)


def circle(x: float, y: float, r: float, steps: int = 28) -> Outline:
    """A circle as a polygon."""
    return tuple((x + r * math.cos(math.tau * i / steps), y + r * math.sin(math.tau * i / steps)) for i in range(steps))


def bar(points: Outline, widths: tuple[float, ...]) -> Outline:
    """A bar along a bent line, as wide at each point as `widths` says.

    >>> bar(((0, 0), (2, 0)), (1, 1))
    ((0.0, -0.5), (2.0, -0.5), (2.0, 0.5), (0.0, 0.5))
    """
    left, right = [], []
    for i, ((x, y), width) in enumerate(zip(points, widths, strict=True)):
        before, after = points[max(0, i - 1)], points[min(len(points) - 1, i + 1)]
        length = math.dist(before, after)
        nx, ny = -(after[1] - before[1]) / length * width / 2, (after[0] - before[0]) / length * width / 2
        left.append((x + nx, y + ny))
        right.append((x - nx, y - ny))
    return (*right, *reversed(left))


def line(part: str, role: str, *points: Point) -> Shape:
    """An open line."""
    return Shape(part, role, points, closed=False)


def wheel_from_side(part: str, x: float, diameter: float, z: float = 0.0) -> list[Shape]:
    """A tyre, its rim and hub from the side, standing on height z."""
    r = diameter / 2
    return [
        Shape(part, "track", circle(x, z + r, r, 40)),
        Shape(part, "panel", circle(x, z + r, r * 0.56)),
        Shape(part, "panel", circle(x, z + r, r * 0.2, 16)),
    ]


def steps_from_side(x: float, floor: float, width: float = 0.34) -> list[Shape]:
    """A ladder from knee height to `floor`."""
    rungs = max(2, round((floor - 0.4) / 0.3))
    out = [line("steps", "hair", (x + dx, 0.4), (x + dx, floor)) for dx in (-width / 2, width / 2)]
    for i in range(rungs):
        z = 0.4 + (floor - 0.4) * i / rungs
        out.append(line("steps", "panel", (x - width / 2, z), (x + width / 2, z)))
    return out


GROUND = 0.6
"""How far the ground line runs out before and behind the machine [m]."""


def with_ground(shapes: list[Shape]) -> Drawing:
    """A side view standing on its ground line."""
    xs = [x for s in shapes for x, _ in s.points]
    ground = line("ground", "ground", (min(xs) - GROUND, 0.0), (max(xs) + GROUND, 0.0))
    return Drawing((ground, *shapes))
