"""A rigid hauler from above and from the side."""

from __future__ import annotations

from jutrel.core.machine.drawing.pen import (
    Drawing,
    Shape,
    bar,
    box,
    cab_from_side,
    line,
    rounded,
    steps_from_side,
    wheel_from_above,
    wheel_from_side,
    with_ground,
)
from jutrel.core.machine.shapes import RigidHaulerShape


def plan(s: RigidHaulerShape) -> Drawing:
    """The plan view: deck and cab in front, canopy over them, body behind."""
    deck, body = s.deck_width / 2, s.body_width / 2
    rear_outer = s.rear_gauge / 2 + s.tyre_width + s.dual_gap / 2
    front_outer = s.front_gauge / 2 + s.tyre_width / 2
    body_back = s.deck_back - 0.1 - s.body_length
    cab_back = s.cab_front - s.cab_length
    wheels = [
        w
        for side, sign in (("left", 1.0), ("right", -1.0))
        for w in (
            *wheel_from_above(
                f"tyre-front-{side}", s.front_axle_x, sign * s.front_gauge / 2, s.tyre_diameter, s.tyre_width
            ),
            *(
                shape
                for name, step in (("inner", -0.5), ("outer", 0.5))
                for shape in wheel_from_above(
                    f"tyre-rear-{name}-{side}",
                    s.rear_axle_x,
                    sign * (s.rear_gauge / 2 + step * (s.tyre_width + s.dual_gap)),
                    s.tyre_diameter,
                    s.tyre_width,
                )
            ),
        )
    ]
    canopy_front = s.deck_back - 0.1 + s.canopy_length
    shapes = (
        *wheels,
        Shape("frame", "steel", box(s.rear_axle_x - s.tyre_diameter / 2, -0.6, s.nose_x - 0.4, 0.6)),
        Shape("deck", "body", rounded(s.deck_back, -deck, s.nose_x, deck, 0.12)),
        Shape("radiator", "panel", box(s.nose_x - 0.55, -deck * 0.42, s.nose_x - 0.12, deck * 0.42)),
        line("ladder", "tool", (s.nose_x + 0.02, deck * 0.55), (s.nose_x + 0.02, deck * 0.85)),
        Shape("battery-box", "panel", box(s.nose_x - 1.2, -deck * 0.92, s.nose_x - 0.65, -deck * 0.6)),
        Shape("air-cleaner", "panel", box(s.nose_x - 0.5, -deck * 0.92, s.nose_x - 0.12, -deck * 0.55)),
        Shape(
            "hydraulic-tank",
            "panel",
            box(
                s.rear_axle_x + s.tyre_diameter * 0.6,
                rear_outer * 0.5,
                s.rear_axle_x + s.tyre_diameter * 0.6 + 0.9,
                rear_outer * 0.85,
            ),
        ),
        Shape(
            "fuel-tank",
            "panel",
            box(
                s.rear_axle_x + s.tyre_diameter * 0.6,
                -rear_outer * 0.85,
                s.rear_axle_x + s.tyre_diameter * 0.6 + 1.0,
                -rear_outer * 0.5,
            ),
        ),
        Shape("cab", "cab", rounded(cab_back, deck * 0.98 - s.cab_width, s.cab_front, deck * 0.98, 0.14)),
        line(
            "cab-glass",
            "panel",
            (s.cab_front - 0.14, deck * 0.98 - 0.12),
            (s.cab_front - 0.08, deck * 0.98 - s.cab_width / 2),
            (s.cab_front - 0.14, deck * 0.98 - s.cab_width + 0.12),
        ),
        Shape(
            "body",
            "body",
            (
                (s.deck_back - 0.1, body),
                (body_back + 0.4, body),
                (body_back, body * 0.9),
                (body_back, -body * 0.9),
                (body_back + 0.4, -body),
                (s.deck_back - 0.1, -body),
            ),
        ),
        Shape(
            "body-floor",
            "panel",
            (
                (s.deck_back - 0.9, body * 0.66),
                (body_back + 0.3, body * 0.8),
                (body_back + 0.3, -body * 0.8),
                (s.deck_back - 0.9, -body * 0.66),
            ),
        ),
        Shape("canopy", "hidden", box(s.deck_back - 0.1, -body * 0.98, canopy_front, body * 0.98)),
        Shape("hoist-cylinder", "hidden", bar(((s.rear_axle_x + 1.7, 0.75), (s.rear_axle_x + 0.3, 0.75)), (0.24, 0.2))),
        Shape(
            "hoist-cylinder", "hidden", bar(((s.rear_axle_x + 1.7, -0.75), (s.rear_axle_x + 0.3, -0.75)), (0.24, 0.2))
        ),
    )
    tail = s.rear_axle_x - s.tyre_diameter / 2
    # A person walks under the body's overhang behind the wheels, but not through wheels and frame.
    return Drawing(
        shapes,
        (
            box(tail, -rear_outer, s.rear_axle_x + s.tyre_diameter / 2, rear_outer),
            box(s.rear_axle_x + s.tyre_diameter / 2 - 0.1, -rear_outer * 0.85, s.deck_back, rear_outer * 0.85),
            box(s.deck_back - 0.1, -max(front_outer, deck), s.nose_x + 0.15, max(front_outer, deck)),
        ),
    )


def side(s: RigidHaulerShape) -> Drawing:
    """The left side, body down."""
    r, body_back = s.tyre_diameter / 2, s.deck_back - 0.1 - s.body_length
    floor = s.tyre_diameter * 1.02
    front = s.deck_back - 0.1
    body = (
        (front, s.deck_height + 0.35),
        (front + 0.05, s.body_height),
        (front + s.canopy_length, s.body_height + 0.12),
        (front + s.canopy_length, s.body_height + 0.3),
        (front - 0.2, s.body_height + 0.22),
        (body_back + 1.2, s.body_height - 0.35),
        (body_back, floor + 0.9),
        (body_back + 0.4, floor + 0.35),
        (front - 1.1, floor),
    )
    return with_ground(
        [
            Shape("frame", "steel", box(s.rear_axle_x - r, r * 0.95, s.nose_x - 0.5, floor - 0.15)),
            Shape(
                "deck",
                "body",
                ((s.deck_back, r * 1.2), (s.nose_x, r * 0.7), (s.nose_x, s.deck_height), (s.deck_back, s.deck_height)),
            ),
            Shape("radiator", "panel", box(s.nose_x - 0.5, r, s.nose_x - 0.1, s.deck_height - 0.3)),
            *cab_from_side(s.cab_front - s.cab_length, s.cab_front, s.deck_height, s.cab_height),
            line(
                "rail",
                "panel",
                (s.cab_front + 0.1, s.deck_height),
                (s.cab_front + 0.1, s.deck_height + 1.0),
                (s.nose_x - 0.05, s.deck_height + 1.0),
                (s.nose_x - 0.05, s.deck_height),
            ),
            Shape(
                "hydraulic-tank",
                "panel",
                rounded(s.rear_axle_x + r * 1.2, r * 0.75, s.rear_axle_x + r * 1.2 + 0.9, r * 1.6, 0.12),
            ),
            *wheel_from_side("tyre-front-left", s.front_axle_x, s.tyre_diameter),
            *wheel_from_side("tyre-rear-outer-left", s.rear_axle_x, s.tyre_diameter),
            line("strut", "panel", (s.front_axle_x, s.tyre_diameter), (s.front_axle_x + 0.1, s.deck_height - 0.2)),
            Shape("body", "body", body),
            *(
                line(
                    "body-rib",
                    "hair",
                    (front - s.body_length * q, floor + 0.1),
                    (front - s.body_length * q, s.body_height),
                )
                for q in (0.25, 0.45, 0.65)
            ),
            line("hoist-cylinder", "panel", (s.rear_axle_x + r * 1.35, r * 1.3), (s.rear_axle_x + 0.3, floor + 0.25)),
            *steps_from_side(s.nose_x + 0.2, s.deck_height, 0.3),
        ]
    )
