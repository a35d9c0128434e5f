"""A motor grader from above and from the side."""

from __future__ import annotations

import math

from jutrel.core.machine.drawing.pen import (
    Drawing,
    Point,
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
from jutrel.core.machine.shapes import MotorGraderShape


def _axles(s: MotorGraderShape) -> dict[str, float]:
    return {
        "front": s.front_axle_x,
        "middle": s.tandem_x + s.tandem_spacing / 2,
        "rear": s.tandem_x - s.tandem_spacing / 2,
    }


def _blade_ends(s: MotorGraderShape) -> tuple[Point, Point]:
    """Left and right end of the blade, whose right end trails by the angle."""
    angle = math.radians(s.blade_angle_deg)
    dx, dy = s.blade_length / 2 * math.sin(angle), s.blade_length / 2 * math.cos(angle)
    return (s.blade_x + dx, dy), (s.blade_x - dx, -dy)


def plan(s: MotorGraderShape) -> Drawing:
    """The plan view. The blade sticks out on both sides and is walked round."""
    half, engine, cab = s.frame_width / 2, s.engine_width / 2, s.cab_width / 2
    outer, cab_back = (s.gauge + s.tyre_width) / 2, s.cab_front - s.cab_length
    left, right = _blade_ends(s)
    ripper: list[Shape] = []
    if s.ripper_reach > 0:
        beam = s.rear_x - s.ripper_reach
        ripper = [
            Shape("ripper-frame", "steel", box(beam + 0.25, -0.5, s.rear_x + 0.1, 0.5)),
            Shape("ripper-beam", "steel", box(beam + 0.1, -engine, beam + 0.34, engine)),
            *(
                Shape("shank", "tool", box(beam, y - 0.06, beam + 0.3, y + 0.06))
                for y in (-engine * 0.8, -engine * 0.4, 0.0, engine * 0.4, engine * 0.8)
            ),
        ]
    shapes = (
        *ripper,
        Shape("axle", "steel", box(s.front_axle_x - 0.14, -s.gauge / 2, s.front_axle_x + 0.14, s.gauge / 2)),
        *wheels_from_above(_axles(s), s.gauge, s.tyre_diameter, s.tyre_width),
        Shape(
            "draw-frame",
            "steel",
            ((s.front_axle_x - 0.2, 0.14), (s.blade_x, 0.72), (s.blade_x, -0.72), (s.front_axle_x - 0.2, -0.14)),
        ),
        Shape("circle", "panel", circle(s.blade_x, 0.0, s.blade_length * 0.21)),
        Shape("mouldboard", "tool", bar((left, right), (0.34, 0.34))),
        line("edge", "panel", (left[0] + 0.12, left[1]), (right[0] + 0.12, right[1])),
        Shape(
            "main-frame",
            "body",
            (
                (s.cab_front - 0.2, half),
                (s.nose_x - 0.3, half * 0.75),
                (s.nose_x, half * 0.75),
                (s.nose_x, -half * 0.75),
                (s.nose_x - 0.3, -half * 0.75),
                (s.cab_front - 0.2, -half),
            ),
        ),
        Shape("scarifier", "steel", box(s.nose_x, -outer * 0.62, s.nose_x + 0.3, outer * 0.62)),
        Shape("lift-cylinder", "panel", bar(((s.blade_x + 0.25, half + 0.1), (s.blade_x + 0.1, 0.95)), (0.16, 0.1))),
        Shape("lift-cylinder", "panel", bar(((s.blade_x + 0.25, -half - 0.1), (s.blade_x + 0.1, -0.95)), (0.16, 0.1))),
        Shape(
            "tandem-left",
            "steel",
            rounded(
                s.tandem_x - s.tandem_spacing / 2,
                s.gauge / 2 - s.tyre_width / 2 - 0.26,
                s.tandem_x + s.tandem_spacing / 2,
                s.gauge / 2 - s.tyre_width / 2,
                0.1,
            ),
        ),
        Shape(
            "tandem-right",
            "steel",
            rounded(
                s.tandem_x - s.tandem_spacing / 2,
                -s.gauge / 2 + s.tyre_width / 2,
                s.tandem_x + s.tandem_spacing / 2,
                -s.gauge / 2 + s.tyre_width / 2 + 0.26,
                0.1,
            ),
        ),
        Shape("engine", "body", rounded(s.rear_x, -engine, cab_back + 0.1, engine, 0.12)),
        Shape("radiator", "panel", box(s.rear_x + 0.1, -engine * 0.85, s.rear_x + 0.5, engine * 0.85)),
        line("hood-line", "hair", (s.rear_x + 0.6, 0.0), (cab_back - 0.1, 0.0)),
        Shape("joint", "steel", circle(s.joint_x, 0.0, 0.26)),
        Shape("cab", "cab", rounded(cab_back, -cab, s.cab_front, cab, 0.14)),
        line(
            "cab-glass",
            "panel",
            (s.cab_front - 0.14, cab - 0.12),
            (s.cab_front - 0.06, 0.0),
            (s.cab_front - 0.14, -cab + 0.12),
        ),
    )
    # The blade's obstacle follows its angle, so that the way past the trailing end is short.
    blade = bar((right, left), (0.5, 0.5))
    ring = max(s.blade_length * 0.21, 0.9)
    obstacles = [
        box(s.rear_x, -outer, s.cab_front, outer),
        box(s.cab_front - 0.1, -max(half, 0.75), s.front_axle_x, max(half, 0.75)),
        box(s.blade_x - ring, -ring, s.blade_x + ring, ring),
        blade,
        box(
            s.front_axle_x - s.tyre_diameter / 2,
            -outer,
            max(s.nose_x + 0.3, s.front_axle_x + s.tyre_diameter / 2),
            outer,
        ),
    ]
    if ripper:
        obstacles.append(box(s.rear_x - s.ripper_reach, -engine, s.rear_x + 0.1, engine))
    return Drawing(shapes, tuple(obstacles))


def side(s: MotorGraderShape) -> Drawing:
    """The left side."""
    r, cab_back = s.tyre_diameter / 2, s.cab_front - s.cab_length
    top = s.frame_height
    shapes = [
        Shape(
            "main-frame",
            "body",
            (
                (s.cab_front - 0.3, r * 1.3),
                (s.blade_x + 0.6, top - 0.42),
                (s.nose_x - 0.2, r * 1.1),
                (s.nose_x, r * 1.4),
                (s.nose_x - 0.3, r * 2.0),
                (s.blade_x + 0.3, top),
                (s.cab_front - 0.3, r * 2.1),
            ),
        ),
        Shape(
            "engine",
            "body",
            (
                (s.rear_x, r),
                (cab_back + 0.1, r),
                (cab_back + 0.1, s.engine_height),
                (s.rear_x + 0.25, s.engine_height - 0.1),
                (s.rear_x, s.engine_height - 0.4),
            ),
        ),
        Shape("radiator", "panel", box(s.rear_x + 0.12, r + 0.2, s.rear_x + 0.55, s.engine_height - 0.35)),
        *cab_from_side(cab_back, s.cab_front, s.deck_height, s.cab_height, -0.05),
        Shape("joint", "steel", box(s.joint_x - 0.3, r * 0.8, s.joint_x + 0.35, r * 1.5)),
        Shape("draw-frame", "steel", bar(((s.nose_x - 0.4, r * 1.2), (s.blade_x, r * 1.05)), (0.2, 0.26))),
        Shape(
            "circle",
            "steel",
            box(s.blade_x - s.blade_length * 0.21, r * 0.78, s.blade_x + s.blade_length * 0.21, r * 1.0),
        ),
        Shape(
            "mouldboard",
            "tool",
            (
                (s.blade_x + 0.2, 0.0),
                (s.blade_x - 0.08, s.blade_height * 0.4),
                (s.blade_x + 0.1, s.blade_height),
                (s.blade_x - 0.04, s.blade_height),
                (s.blade_x - 0.26, s.blade_height * 0.45),
                (s.blade_x + 0.06, 0.0),
            ),
        ),
        line("lift-cylinder", "panel", (s.blade_x + 0.25, top), (s.blade_x + 0.05, r * 1.0)),
        Shape("scarifier", "steel", box(s.nose_x - 0.02, r * 0.7, s.nose_x + 0.3, r * 1.3)),
        *(w for name, x in _axles(s).items() for w in wheel_from_side(f"tyre-{name}-left", x, s.tyre_diameter)),
        Shape(
            "tandem-left",
            "steel",
            rounded(s.tandem_x - s.tandem_spacing / 2, r * 0.78, s.tandem_x + s.tandem_spacing / 2, r * 1.22, 0.12),
        ),
        *steps_from_side(cab_back + 0.4, s.deck_height),
    ]
    if s.ripper_reach > 0:
        beam = s.rear_x - s.ripper_reach
        shapes += [
            Shape("ripper-frame", "steel", bar(((s.rear_x + 0.1, r * 1.25), (beam + 0.25, r * 1.3)), (0.24, 0.26))),
            Shape(
                "shank",
                "tool",
                ((beam + 0.1, r * 1.4), (beam + 0.26, r * 1.4), (beam + 0.24, 0.15), (beam, 0.0), (beam + 0.08, 0.2)),
            ),
        ]
    return with_ground(shapes)
