"""A wheel loader from above and from the side."""

from __future__ import annotations

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
    wheel_from_side,
    wheels_from_above,
    with_ground,
)
from jutrel.core.machine.shapes import WheelLoaderShape


def _frames(s: WheelLoaderShape) -> list[Shape]:
    axle, back, half = s.wheelbase / 2, -s.wheelbase / 2 - s.rear_overhang, s.rear_width / 2
    cab_back, cab_half = -0.15 - s.cab_length, s.cab_width / 2
    rear = (
        (-0.35, half),
        (back + 0.35, half),
        (back, half * 0.78),
        (back, -half * 0.78),
        (back + 0.35, -half),
        (-0.35, -half),
    )
    return [
        Shape("front-frame", "steel", box(0.3, -s.frame_width / 2, axle + 0.35, s.frame_width / 2)),
        Shape("rear-frame", "body", rear),
        Shape("counterweight", "hidden", ((back + 0.55, half), (back + 0.55, -half)), closed=False),
        Shape("radiator", "panel", box(back + 0.62, -half * 0.72, back + 1.1, half * 0.72)),
        Shape("engine", "panel", box(back + 1.18, -half * 0.55, cab_back - 0.12, half * 0.55)),
        Shape("left-bay", "panel", box(back + 1.18, half * 0.62, cab_back - 0.12, half * 0.96)),
        Shape("right-bay", "panel", box(back + 1.18, -half * 0.96, cab_back - 0.12, -half * 0.62)),
        Shape("joint", "steel", circle(0.0, 0.0, 0.28)),
        Shape("steering-cylinder", "panel", bar(((-0.9, 0.42), (0.75, 0.5)), (0.12, 0.08))),
        Shape("steering-cylinder", "panel", bar(((-0.9, -0.42), (0.75, -0.5)), (0.12, 0.08))),
        Shape("cab", "cab", rounded(cab_back, -cab_half, -0.15, cab_half, 0.14)),
        line("cab-glass", "panel", (-0.3, cab_half - 0.12), (-0.24, 0.0), (-0.3, -cab_half + 0.12)),
    ]


def _tool(s: WheelLoaderShape) -> list[Shape]:
    axle, hinge, half = s.wheelbase / 2, s.wheelbase / 2 + s.arm_reach, s.bucket_width / 2
    tip = hinge + s.bucket_length
    arms = [
        Shape(
            "lift-arm",
            "steel",
            bar(((axle - 0.35, sign * s.frame_width * 0.42), (hinge, sign * s.arm_gap / 2)), (0.2, 0.26)),
        )
        for sign in (1.0, -1.0)
    ]
    bucket = ((hinge - 0.05, half * 0.96), (tip, half), (tip, -half), (hinge - 0.05, -half * 0.96))
    teeth = [
        Shape("tooth", "tool", box(tip, y - 0.06, tip + 0.18, y + 0.06))
        for y in (-half + s.bucket_width * (i + 0.5) / s.bucket_teeth for i in range(s.bucket_teeth))
    ]
    return [
        *arms,
        Shape("tilt-linkage", "steel", bar(((axle + 0.1, 0.0), (hinge - 0.1, 0.0)), (0.3, 0.18))),
        Shape("bucket", "tool", bucket),
        line(
            "bucket-floor",
            "hair",
            (hinge + s.bucket_length * 0.45, half * 0.97),
            (hinge + s.bucket_length * 0.45, -half * 0.97),
        ),
        line("edge", "panel", (tip - 0.22, half), (tip - 0.22, -half)),
        *teeth,
    ]


def plan(s: WheelLoaderShape) -> Drawing:
    """The plan view; the way round leads past wheels, frames and bucket."""
    axle = s.wheelbase / 2
    outer = max(s.gauge + s.tyre_width, s.rear_width) / 2
    back, hinge = -axle - s.rear_overhang, axle + s.arm_reach
    tip = hinge + s.bucket_length + (0.18 if s.bucket_teeth else 0.0)
    front = axle + s.tyre_diameter / 2
    wheels = wheels_from_above({"front": axle, "rear": -axle}, s.gauge, s.tyre_diameter, s.tyre_width)
    return Drawing(
        (*_tool(s)[:3], *wheels, *_frames(s), *_tool(s)[3:]),
        (
            box(back, -outer, front, outer),
            box(front - 0.1, -s.arm_gap / 2 - 0.2, hinge, s.arm_gap / 2 + 0.2),
            box(hinge - 0.05, -s.bucket_width / 2, tip, s.bucket_width / 2),
        ),
    )


def side(s: WheelLoaderShape) -> Drawing:
    """The left side."""
    axle, back, r = s.wheelbase / 2, -s.wheelbase / 2 - s.rear_overhang, s.tyre_diameter / 2
    hinge, tip = axle + s.arm_reach, axle + s.arm_reach + s.bucket_length
    low = r * 0.7
    hood = (
        (back + 0.1, low),
        (-0.3, low),
        (-0.3, s.deck_height),
        (-0.15 - s.cab_length, s.deck_height),
        (-0.15 - s.cab_length, s.rear_height),
        (back + 0.3, s.rear_height - 0.08),
        (back, s.rear_height - 0.4),
    )
    bucket = (
        (hinge - 0.1, s.bucket_height * 0.3),
        (hinge + 0.1, s.bucket_height),
        (hinge + s.bucket_length * 0.35, s.bucket_height),
        (tip, 0.06),
        (tip, 0.0),
        (hinge + 0.25, 0.0),
    )
    return with_ground(
        [
            Shape("rear-frame", "body", hood),
            Shape("left-bay", "panel", box(back + 1.0, r * 2.02, -0.3 - s.cab_length, s.rear_height - 0.2)),
            line("counterweight", "hidden", (back + 0.55, low), (back + 0.55, s.rear_height - 0.1)),
            *cab_from_side(-0.15 - s.cab_length, -0.15, s.deck_height, s.cab_height),
            Shape(
                "front-frame",
                "steel",
                ((0.25, low), (axle + 0.4, low), (axle + 0.3, s.arm_top), (axle - 0.45, s.arm_top), (0.25, r * 1.5)),
            ),
            Shape("joint", "steel", box(-0.32, r * 0.8, 0.27, r * 1.4)),
            *wheel_from_side("tyre-front-left", axle, s.tyre_diameter),
            *wheel_from_side("tyre-rear-left", -axle, s.tyre_diameter),
            Shape("bucket", "tool", bucket),
            Shape(
                "lift-arm",
                "steel",
                bar(
                    ((axle - 0.3, s.arm_top - 0.12), (axle + s.arm_reach * 0.55, s.arm_top * 0.72), (hinge, 0.35)),
                    (0.26, 0.36, 0.24),
                ),
            ),
            line("lift-cylinder", "panel", (0.5, r), (axle + s.arm_reach * 0.4, s.arm_top * 0.72)),
            *steps_from_side(-0.55, s.deck_height),
        ]
    )
