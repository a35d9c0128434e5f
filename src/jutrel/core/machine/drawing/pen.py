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


def wheel_from_above(part: str, x: float, y: float, diameter: float, width: float) -> list[Shape]:
    """A tyre in plan, with its tread."""
    half, w = diameter / 2, width / 2
    lugs = [
        line(part, "hair", (x - half + diameter * i / 9, y - w), (x - half + diameter * i / 9, y + w))
        for i in range(1, 9)
    ]
    return [Shape(part, "track", rounded(x - half, y - w, x + half, y + w, min(half, w) * 0.45)), *lugs]


def wheel_from_side(part: str, x: float, diameter: float, z: float = 0.0) -> list[Shape]:
    """A tyre, its rim and hub from the side, standing on height z."""
    r = diameter / 2
    return [
        Shape(part, "track", circle(x, z + r, r, 40)),
        Shape(part, "panel", circle(x, z + r, r * 0.56)),
        Shape(part, "panel", circle(x, z + r, r * 0.2, 16)),
    ]


def wheels_from_above(axles: dict[str, float], gauge: float, diameter: float, width: float) -> list[Shape]:
    """A left and a right tyre on every axle; `axles` gives each one's name and x."""
    return [
        shape
        for name, x in axles.items()
        for side, sign in (("left", 1.0), ("right", -1.0))
        for shape in wheel_from_above(f"tyre-{name}-{side}", x, sign * gauge / 2, diameter, width)
    ]


def tracks_from_above(length: float, gauge: float, shoe: float) -> list[Shape]:
    """Both tracks with their shoes."""
    shapes = []
    for side, sign in (("left", 1.0), ("right", -1.0)):
        y0, y1 = sign * gauge / 2 - shoe / 2, sign * gauge / 2 + shoe / 2
        shapes.append(Shape(f"track-{side}", "track", rounded(-length / 2, y0, length / 2, y1, shoe * 0.28)))
        shapes += [
            line(f"shoe-{side}", "hair", (-length / 2 + length / 22 * i, y0), (-length / 2 + length / 22 * i, y1))
            for i in range(2, 21)
        ]
    return shapes


def track_from_side(length: float, height: float) -> list[Shape]:
    """The track nearest to the eye, with idler, sprocket and rollers."""
    r = height / 2
    ends = length / 2 - r
    bottom = [
        Shape("roller", "panel", circle(-ends * 0.72 + ends * 1.44 * i / 6, r * 0.42, r * 0.2, 14)) for i in range(7)
    ]
    top = [Shape("carrier", "panel", circle(sign * ends * 0.35, height - r * 0.42, r * 0.13, 12)) for sign in (-1, 1)]
    return [
        Shape("track-left", "track", rounded(-length / 2, 0.0, length / 2, height, r * 0.98, 9)),
        Shape(
            "track-frame",
            "panel",
            rounded(-length / 2 + r * 0.3, r * 0.3, length / 2 - r * 0.3, height - r * 0.3, r * 0.68, 7),
        ),
        Shape("idler", "steel", circle(ends, r, r * 0.62)),
        Shape("sprocket", "steel", circle(-ends, r, r * 0.62)),
        Shape("sprocket", "panel", circle(-ends, r, r * 0.28, 16)),
        *bottom,
        *top,
    ]


def cab_from_side(back: float, front: float, floor: float, top: float, rake: float = 0.16) -> list[Shape]:
    """A cab with its door and glass; the windscreen leans back by `rake`."""
    low = floor + (top - floor) * 0.42
    return [
        Shape("cab", "cab", ((back, floor), (front, floor), (front, low), (front - rake, top), (back, top))),
        Shape(
            "cab-glass",
            "panel",
            ((back + 0.14, low), (front - 0.1, low), (front - rake - 0.06, top - 0.14), (back + 0.14, top - 0.14)),
        ),
        line("door", "hair", ((back + front) / 2, floor + 0.08), ((back + front) / 2, top - 0.14)),
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
