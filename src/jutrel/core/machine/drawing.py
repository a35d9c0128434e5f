"""The plan drawing: lines and outlines in metres, computed from a model's dimensions.

Screen and paper draw the same shapes, so they cannot disagree.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from jutrel.core.machine.model import ExcavatorShape, Point


@dataclass(frozen=True, slots=True)
class Shape:
    """A line or a filled outline; `role` tells the pen how to draw it, `part` what it is."""

    part: str
    role: str
    points: tuple[Point, ...]
    closed: bool = True


@dataclass(frozen=True, slots=True)
class Drawing:
    """All shapes, back to front, and the outlines that nobody can walk through."""

    shapes: tuple[Shape, ...]
    obstacles: tuple[tuple[Point, ...], ...]

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """(x_min, y_min, x_max, y_max) [m]."""
        xs = [x for s in self.shapes for x, _ in s.points]
        ys = [y for s in self.shapes for _, y in s.points]
        return min(xs), min(ys), max(xs), max(ys)


def _box(x0: float, y0: float, x1: float, y1: float) -> tuple[Point, ...]:
    return ((x0, y0), (x1, y0), (x1, y1), (x0, y1))


def _rounded(x0: float, y0: float, x1: float, y1: float, r: float, steps: int = 5) -> tuple[Point, ...]:
    corners = ((x1 - r, y1 - r, 0.0), (x0 + r, y1 - r, 90.0), (x0 + r, y0 + r, 180.0), (x1 - r, y0 + r, 270.0))
    points = []
    for cx, cy, start in corners:
        for i in range(steps + 1):
            angle = math.radians(start + 90.0 * i / steps)
            points.append((cx + r * math.cos(angle), cy + r * math.sin(angle)))
    return tuple(points)


def _tracks(s: ExcavatorShape) -> list[Shape]:
    shapes = []
    for side, sign in (("left", 1.0), ("right", -1.0)):
        middle = sign * s.track_gauge / 2
        y0, y1 = middle - s.shoe_width / 2, middle + s.shoe_width / 2
        x0, x1 = -s.track_length / 2, s.track_length / 2
        shapes.append(Shape(f"track-{side}", "track", _rounded(x0, y0, x1, y1, s.shoe_width * 0.28)))
        pitch = s.track_length / 22
        shapes += [
            Shape(f"shoe-{side}", "hair", ((x0 + pitch * i, y0), (x0 + pitch * i, y1)), closed=False)
            for i in range(2, 21)
        ]
    return shapes


def _upper(s: ExcavatorShape) -> list[Shape]:
    half = s.upper_width / 2
    # The counterweight's back is an arc of the tail radius about the slewing axis.
    swing = math.asin(min(1.0, half / s.tail_radius))
    arc = tuple(
        (-s.tail_radius * math.cos(a), s.tail_radius * math.sin(a))
        for a in (swing - 2 * swing * i / 12 for i in range(13))
    )
    house = ((s.upper_front, half), *arc, (s.upper_front, -half))
    weight_front = -s.tail_radius * math.cos(swing) + 0.15 * s.tail_radius
    cab_front = s.upper_front + 0.12
    bay = (weight_front + 0.08, -half + 0.1, -0.35, -half + 0.85)
    left_bay = (weight_front + 0.08, half - 0.8, cab_front - s.cab_length - 0.1, half - 0.1)
    tank = (-0.25, -half + 0.1, 0.55, -half + 0.85)
    fuel = (0.62, -half + 0.1, s.upper_front - 0.1, -half + 0.85)
    engine = (weight_front + 0.08, -half + 0.95, weight_front + 0.08 + 1.0, half - 0.9)
    return [
        Shape("house", "body", house),
        Shape("counterweight", "hidden", ((weight_front, half), (weight_front, -half)), closed=False),
        Shape("engine", "panel", _box(*engine)),
        Shape("left-bay", "panel", _box(*left_bay)),
        Shape("pump-bay", "panel", _box(*bay)),
        Shape("hydraulic-tank", "panel", _box(*tank)),
        Shape("fuel-tank", "panel", _box(*fuel)),
        Shape("cab", "cab", _rounded(cab_front - s.cab_length, half - s.cab_width, cab_front, half, 0.14)),
        Shape(
            "cab-glass",
            "panel",
            (
                (cab_front - 0.16, half - s.cab_width + 0.14),
                (cab_front - 0.1, half - s.cab_width / 2),
                (cab_front - 0.16, half - 0.14),
            ),
            closed=False,
        ),
    ]


def _equipment(s: ExcavatorShape) -> list[Shape]:
    w, foot = s.boom_width / 2, s.boom_foot_x
    elbow, nose = foot + s.boom_reach, foot + s.boom_reach + s.arm_reach
    boom = (
        (foot, w),
        (foot + s.boom_reach * 0.45, w * 1.12),
        (elbow, w * 0.8),
        (elbow, -w * 0.8),
        (foot + s.boom_reach * 0.45, -w * 1.12),
        (foot, -w),
    )
    arm = ((elbow - 0.35, w * 0.62), (nose, w * 0.5), (nose, -w * 0.5), (elbow - 0.35, -w * 0.62))
    bw, tip = s.bucket_width / 2, nose + s.bucket_length
    bucket = (
        (nose - 0.12, bw * 0.92),
        (tip - 0.2, bw),
        (tip, bw * 0.8),
        (tip, -bw * 0.8),
        (tip - 0.2, -bw),
        (nose - 0.12, -bw * 0.92),
    )
    shapes = [
        Shape(
            "slew-ring",
            "hidden",
            tuple((0.55 * math.cos(math.tau * i / 24), 0.55 * math.sin(math.tau * i / 24)) for i in range(24)),
        ),
        Shape("bucket", "tool", bucket),
        Shape("arm", "steel", arm),
        Shape("boom", "steel", boom),
    ]
    for sign in (1.0, -1.0):
        y = sign * w * 0.55
        shapes.append(Shape("boom-cylinder", "hair", ((foot + 0.3, y), (foot + s.boom_reach * 0.5, y)), closed=False))
    spread = s.bucket_width * 0.8
    for i in range(s.bucket_teeth):
        y = -spread / 2 + spread * i / max(1, s.bucket_teeth - 1)
        shapes.append(Shape("tooth", "tool", _box(tip, y - 0.05, tip + 0.16, y + 0.05)))
    return shapes


def plan_drawing(shape: ExcavatorShape) -> Drawing:
    """The plan view of an excavator, to scale, in the frame of `ExcavatorShape`.

    Obstacles are the outline of undercarriage and upper structure, and of the
    work equipment that rests on the ground.
    """
    shapes = (*_tracks(shape), *_upper(shape), *_equipment(shape))
    half_width = max(shape.upper_width / 2, shape.track_gauge / 2 + shape.shoe_width / 2)
    back = min(-shape.tail_radius, -shape.track_length / 2)
    front = max(shape.upper_front + 0.12, shape.track_length / 2)
    tip = shape.boom_foot_x + shape.boom_reach + shape.arm_reach + shape.bucket_length + 0.16
    tool_half = max(shape.bucket_width, shape.boom_width) / 2
    return Drawing(shapes, (_box(back, -half_width, front, half_width), _box(front - 0.1, -tool_half, tip, tool_half)))
