"""An articulated hauler from above and from the side."""

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
from jutrel.core.machine.shapes import ArticulatedHaulerShape


def _axles(s: ArticulatedHaulerShape) -> dict[str, float]:
    return {"front": s.front_axle_x, "middle": s.bogie_x + s.bogie_spacing / 2, "rear": s.bogie_x - s.bogie_spacing / 2}


def plan(s: ArticulatedHaulerShape) -> Drawing:
    """The plan view: tractor with hood and cab, hitch, body."""
    hood, cab_half, body = s.hood_width / 2, s.cab_width / 2, s.body_width / 2
    cab_back, rear = s.cab_front - s.cab_length, s.body_front - s.body_length
    outer = max(s.gauge + s.tyre_width, s.body_width) / 2
    tractor_back = s.joint_x + 0.5
    shapes = (
        *wheels_from_above(_axles(s), s.gauge, s.tyre_diameter, s.tyre_width),
        Shape("trailer-frame", "steel", box(rear + 0.6, -0.45, s.joint_x, 0.45)),
        Shape("tractor", "body", box(tractor_back, -hood * 0.9, s.cab_front, hood * 0.9)),
        Shape(
            "hood",
            "body",
            (
                (s.cab_front, hood),
                (s.nose_x - 0.35, hood * 0.92),
                (s.nose_x, hood * 0.7),
                (s.nose_x, -hood * 0.7),
                (s.nose_x - 0.35, -hood * 0.92),
                (s.cab_front, -hood),
            ),
        ),
        Shape("radiator", "panel", box(s.nose_x - 0.6, -hood * 0.66, s.nose_x - 0.2, hood * 0.66)),
        line("hood-line", "hair", (s.cab_front + 0.1, 0.0), (s.nose_x - 0.7, 0.0)),
        Shape("bumper", "steel", box(s.nose_x, -outer * 0.8, s.nose_x + 0.22, outer * 0.8)),
        Shape("left-bay", "panel", box(cab_back, cab_half + 0.04, s.cab_front, hood * 0.88)),
        Shape("right-bay", "panel", box(cab_back, -hood * 0.88, s.cab_front, -cab_half - 0.04)),
        Shape("cab", "cab", rounded(cab_back, -cab_half, s.cab_front, cab_half, 0.14)),
        line(
            "cab-glass",
            "panel",
            (s.cab_front - 0.14, cab_half - 0.12),
            (s.cab_front - 0.08, 0.0),
            (s.cab_front - 0.14, -cab_half + 0.12),
        ),
        Shape("steering-cylinder", "panel", bar(((tractor_back + 0.3, 0.55), (s.joint_x - 0.7, 0.42)), (0.16, 0.1))),
        Shape("steering-cylinder", "panel", bar(((tractor_back + 0.3, -0.55), (s.joint_x - 0.7, -0.42)), (0.16, 0.1))),
        Shape("joint", "steel", circle(s.joint_x, 0.0, 0.3)),
        Shape(
            "body",
            "body",
            (
                (s.body_front, body * 0.92),
                (rear + 0.5, body),
                (rear, body * 0.94),
                (rear, -body * 0.94),
                (rear + 0.5, -body),
                (s.body_front, -body * 0.92),
            ),
        ),
        Shape(
            "body-floor",
            "panel",
            (
                (s.body_front - 0.5, body * 0.6),
                (rear + 0.2, body * 0.72),
                (rear + 0.2, -body * 0.72),
                (s.body_front - 0.5, -body * 0.6),
            ),
        ),
        line("tailgate", "tool", (rear, body * 0.94), (rear, -body * 0.94)),
    )
    # Nobody squeezes through the joint between tractor and body: it is one outline.
    return Drawing(shapes, (box(rear, -outer, s.nose_x + 0.22, outer),))


def side(s: ArticulatedHaulerShape) -> Drawing:
    """The left side, body down."""
    r, rear = s.tyre_diameter / 2, s.body_front - s.body_length
    low, floor = r * 0.9, s.tyre_diameter * 1.02
    body = (
        (s.body_front, floor + 0.35),
        (s.body_front + 0.12, s.body_height),
        (rear + 0.9, s.body_height - 0.1),
        (rear, floor + 0.55),
        (rear + 0.35, floor + 0.1),
        (s.body_front - 1.0, floor),
    )
    return with_ground(
        [
            Shape("trailer-frame", "steel", box(rear + 0.7, r, s.joint_x, floor - 0.1)),
            Shape(
                "tractor",
                "body",
                (
                    (s.joint_x + 0.4, low),
                    (s.nose_x, low * 0.75),
                    (s.nose_x, s.hood_height - 0.35),
                    (s.nose_x - 0.4, s.hood_height - 0.1),
                    (s.cab_front, s.hood_height),
                    (s.cab_front, s.deck_height),
                    (s.joint_x + 0.4, s.deck_height),
                ),
            ),
            Shape("radiator", "panel", box(s.nose_x - 0.5, low + 0.1, s.nose_x - 0.12, s.hood_height - 0.4)),
            Shape("bumper", "steel", box(s.nose_x - 0.05, low * 0.55, s.nose_x + 0.22, low)),
            *cab_from_side(s.cab_front - s.cab_length, s.cab_front, s.deck_height, s.cab_height),
            Shape("joint", "steel", box(s.joint_x - 0.35, r * 0.75, s.joint_x + 0.45, r * 1.5)),
            *(w for name, x in _axles(s).items() for w in wheel_from_side(f"tyre-{name}-left", x, s.tyre_diameter)),
            Shape("body", "body", body),
            line(
                "body-rib",
                "hair",
                (s.body_front - s.body_length * 0.33, floor + 0.05),
                (s.body_front - s.body_length * 0.33, s.body_height - 0.05),
            ),
            line(
                "body-rib",
                "hair",
                (s.body_front - s.body_length * 0.62, floor + 0.05),
                (s.body_front - s.body_length * 0.62, s.body_height - 0.08),
            ),
            line(
                "hoist-cylinder", "panel", (s.joint_x - 0.6, r * 1.2), (s.body_front - s.body_length * 0.3, floor + 0.3)
            ),
            *steps_from_side(s.cab_front - s.cab_length * 0.45, s.deck_height),
        ]
    )
