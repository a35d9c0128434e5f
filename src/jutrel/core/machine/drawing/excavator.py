"""A crawler excavator from above and from the side."""

from __future__ import annotations

import math

from jutrel.core.machine.drawing.pen import (
    Drawing,
    Shape,
    bar,
    box,
    cab_from_side,
    circle,
    line,
    rounded,
    steps_from_side,
    track_from_side,
    tracks_from_above,
    with_ground,
)
from jutrel.core.machine.shapes import ExcavatorShape

Point = tuple[float, float]
NOSE, LEAN = 0.75, 0.25
"""How high the arm ends above the ground with the bucket on it [m]; how far it leans in, tucked in, of its length."""


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
        Shape("engine", "panel", box(*engine)),
        Shape("left-bay", "panel", box(*left_bay)),
        Shape("pump-bay", "panel", box(*bay)),
        Shape("hydraulic-tank", "panel", box(*tank)),
        Shape("fuel-tank", "panel", box(*fuel)),
        Shape("cab", "cab", rounded(cab_front - s.cab_length, half - s.cab_width, cab_front, half, 0.14)),
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
            circle(0.0, 0.0, 0.55, 24),
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
        shapes.append(Shape("tooth", "tool", box(tip, y - 0.05, tip + 0.16, y + 0.05)))
    return shapes


def plan(shape: ExcavatorShape) -> Drawing:
    """The plan view. Nobody walks through undercarriage, upper structure or work equipment."""
    tracks = tracks_from_above(shape.track_length, shape.track_gauge, shape.shoe_width)
    half_width = max(shape.upper_width / 2, shape.track_gauge / 2 + shape.shoe_width / 2)
    back = min(-shape.tail_radius, -shape.track_length / 2)
    front = max(shape.upper_front + 0.12, shape.track_length / 2)
    tip = shape.boom_foot_x + shape.boom_reach + shape.arm_reach + shape.bucket_length + 0.16
    tool_half = max(shape.bucket_width, shape.boom_width) / 2
    return Drawing(
        (*tracks, *_upper(shape), *_equipment(shape)),
        (box(back, -half_width, front, half_width), box(front - 0.1, -tool_half, tip, tool_half)),
    )


def _arms(s: ExcavatorShape, tucked: bool) -> tuple[Point, Point, Point, Point]:
    """Boom foot, knee and elbow, and the arm's end at the bucket [m]: stretched out, or the same lengths tucked in."""
    foot = (s.boom_foot_x, s.upper_height * 0.72)
    elbow = (s.boom_foot_x + s.boom_reach, s.boom_top * 0.72)
    knee = (s.boom_foot_x + s.boom_reach * 0.5, s.boom_top)
    nose = (elbow[0] + s.arm_reach, NOSE)
    if not tucked:
        return foot, knee, elbow, nose
    boom = math.hypot(elbow[0] - foot[0], elbow[1] - foot[1])
    arm = math.hypot(nose[0] - elbow[0], nose[1] - elbow[1])
    # The arm leans in by a quarter of its length; the boom is raised until its end stands that high.
    high = min(NOSE + arm * math.sqrt(1 - LEAN**2), foot[1] + boom * 0.98)
    turn = math.asin((high - foot[1]) / boom) - math.atan2(elbow[1] - foot[1], elbow[0] - foot[0])

    def turned(p: Point) -> Point:
        x, y = p[0] - foot[0], p[1] - foot[1]
        c, k = math.cos(turn), math.sin(turn)
        return foot[0] + x * c - y * k, foot[1] + x * k + y * c

    end = turned(elbow)
    return foot, turned(knee), end, (end[0] - math.sqrt(max(0.0, arm**2 - (end[1] - NOSE) ** 2)), NOSE)


def side(s: ExcavatorShape, tucked: bool = False) -> Drawing:
    """The left side, boom forward, bucket on the ground: the arm stretched out, or tucked in."""
    floor = s.track_height + 0.15
    foot, knee, elbow, nose = _arms(s, tucked)
    ahead = -1.0 if tucked else 1.0  # tucked in, its teeth look at the tracks
    tip = s.bucket_length
    outline = ((-0.12, 0.95), (0.3, 1.02), (tip, 0.12), (tip - 0.15, 0.0), (0.2, 0.0), (-0.2, 0.4))
    bucket = tuple((nose[0] + ahead * x, z) for x, z in outline)
    cab_front = s.upper_front + 0.12
    house_back = -s.tail_radius
    return with_ground(
        [
            *track_from_side(s.track_length, s.track_height),
            Shape("turntable", "steel", box(-0.75, s.track_height, 0.75, floor)),
            Shape("bucket", "tool", bucket),
            Shape("arm", "steel", bar((elbow, nose), (0.5, 0.3))),
            Shape("boom", "steel", bar((foot, knee, elbow), (0.5, 0.66, 0.4))),
            line("boom-cylinder", "panel", (foot[0] + 0.5, floor + 0.15), (knee[0] - 0.25, knee[1] - 0.3)),
            line("arm-cylinder", "panel", (knee[0], knee[1] + 0.3), (elbow[0] + 0.15, elbow[1] + 0.35)),
            Shape(
                "house",
                "body",
                (
                    (house_back, floor + 0.25),
                    (house_back + 0.25, floor),
                    (s.upper_front, floor),
                    (s.upper_front, s.upper_height),
                    (house_back + 0.2, s.upper_height),
                    (house_back, s.upper_height - 0.25),
                ),
            ),
            line("counterweight", "hidden", (house_back + 0.75, floor), (house_back + 0.75, s.upper_height)),
            Shape(
                "left-bay",
                "panel",
                box(house_back + 0.95, floor + 0.2, cab_front - s.cab_length - 0.12, s.upper_height - 0.15),
            ),
            *cab_from_side(cab_front - s.cab_length, cab_front, floor, s.cab_height),
            *steps_from_side(cab_front - 0.35, floor),
        ]
    )
