"""A crawler dozer from above and from the side."""

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
    track_from_side,
    tracks_from_above,
    with_ground,
)
from jutrel.core.machine.shapes import DozerShape


def _shank_places(s: DozerShape) -> list[float]:
    spread = s.ripper_width * 0.8
    if s.ripper_shanks < 2:
        return [0.0] * s.ripper_shanks
    return [-spread / 2 + spread * i / (s.ripper_shanks - 1) for i in range(s.ripper_shanks)]


def plan(s: DozerShape) -> Drawing:
    """The plan view. The blade is wider than the tracks, the ripper narrower."""
    back, outer = -s.track_length / 2, (s.track_gauge + s.shoe_width) / 2
    half, cab_half, blade = s.hood_width / 2, s.cab_width / 2, s.blade_width / 2
    cab_front = s.cab_back + s.cab_length
    face = (
        (s.blade_x + 0.18, blade),
        (s.blade_x, blade),
        (s.blade_x - 0.16, blade * 0.45),
        (s.blade_x - 0.16, -blade * 0.45),
        (s.blade_x, -blade),
        (s.blade_x + 0.18, -blade),
        (s.blade_x + 0.06, -blade * 0.45),
        (s.blade_x + 0.06, blade * 0.45),
    )
    arms = [
        Shape(
            "push-arm",
            "steel",
            bar(((-s.track_length * 0.05, sign * outer), (s.blade_x - 0.1, sign * (outer + 0.02))), (0.22, 0.22)),
        )
        for sign in (1.0, -1.0)
    ]
    ripper: list[Shape] = []
    if s.ripper_reach > 0:
        beam = back - s.ripper_reach
        ripper = [
            Shape(
                "ripper-frame",
                "steel",
                (
                    (back + 0.25, half * 0.7),
                    (beam + 0.5, half * 0.7),
                    (beam + 0.5, -half * 0.7),
                    (back + 0.25, -half * 0.7),
                ),
            ),
            Shape("ripper-cylinder", "panel", bar(((back + 0.2, 0.32), (beam + 0.55, 0.32)), (0.16, 0.1))),
            Shape("ripper-cylinder", "panel", bar(((back + 0.2, -0.32), (beam + 0.55, -0.32)), (0.16, 0.1))),
            Shape(
                "ripper-beam", "steel", rounded(beam + 0.2, -s.ripper_width / 2, beam + 0.55, s.ripper_width / 2, 0.08)
            ),
            *(Shape("shank", "tool", box(beam, y - 0.09, beam + 0.4, y + 0.09)) for y in _shank_places(s)),
        ]
    shapes = (
        *ripper,
        *tracks_from_above(s.track_length, s.track_gauge, s.shoe_width),
        *arms,
        Shape("body", "body", box(back + 0.1, -half * 1.05, cab_front, half * 1.05)),
        Shape("hood", "body", rounded(cab_front - 0.1, -half, s.hood_front, half, 0.16)),
        Shape("radiator", "panel", box(s.hood_front - 0.42, -half * 0.85, s.hood_front - 0.08, half * 0.85)),
        line("hood-ridge", "hair", (cab_front + 0.1, 0.0), (s.hood_front - 0.5, 0.0)),
        Shape("left-fender", "panel", box(s.cab_back - 0.3, cab_half + 0.04, cab_front, cab_half + 0.4)),
        Shape("right-fender", "panel", box(s.cab_back - 0.3, -cab_half - 0.4, cab_front, -cab_half - 0.04)),
        Shape("fuel-tank", "panel", box(back + 0.15, -half * 0.95, s.cab_back - 0.1, half * 0.95)),
        Shape("cab", "cab", rounded(s.cab_back, -cab_half, cab_front, cab_half, 0.14)),
        line(
            "cab-glass",
            "panel",
            (cab_front - 0.14, cab_half - 0.12),
            (cab_front - 0.08, 0.0),
            (cab_front - 0.14, -cab_half + 0.12),
        ),
        Shape(
            "lift-cylinder",
            "panel",
            bar(((s.hood_front - 0.3, half + 0.12), (s.blade_x - 0.12, half + 0.2)), (0.16, 0.1)),
        ),
        Shape(
            "lift-cylinder",
            "panel",
            bar(((s.hood_front - 0.3, -half - 0.12), (s.blade_x - 0.12, -half - 0.2)), (0.16, 0.1)),
        ),
        Shape("blade", "tool", face),
        *(Shape("corner-bit", "tool", box(s.blade_x, y0, s.blade_x + 0.24, y0 + 0.2)) for y0 in (-blade, blade - 0.2)),
    )
    obstacles = [
        box(back, -outer, s.blade_x, outer),
        box(s.blade_x - 0.2, -blade, s.blade_x + 0.24, blade),
    ]
    if ripper:
        obstacles.append(box(back - s.ripper_reach, -s.ripper_width / 2, back + 0.1, s.ripper_width / 2))
    return Drawing(shapes, tuple(obstacles))


def side(s: DozerShape) -> Drawing:
    """The left side."""
    back, cab_front = -s.track_length / 2, s.cab_back + s.cab_length
    low, height = s.track_height * 0.55, s.blade_height
    shapes = [
        Shape(
            "hood",
            "body",
            (
                (cab_front - 0.1, low),
                (s.hood_front, low),
                (s.hood_front, s.hood_height - 0.12),
                (cab_front - 0.1, s.hood_height),
            ),
        ),
        Shape(
            "fuel-tank",
            "body",
            ((back + 0.15, low), (cab_front, low), (cab_front, s.deck_height), (back + 0.15, s.deck_height + 0.2)),
        ),
        Shape("radiator", "panel", box(s.hood_front - 0.4, low + 0.3, s.hood_front - 0.06, s.hood_height - 0.25)),
        *cab_from_side(s.cab_back, cab_front, s.deck_height, s.cab_height, 0.1),
        *track_from_side(s.track_length, s.track_height),
        Shape(
            "push-arm",
            "steel",
            bar(((-s.track_length * 0.05, s.track_height * 0.42), (s.blade_x - 0.1, height * 0.28)), (0.2, 0.24)),
        ),
        line("lift-cylinder", "panel", (s.hood_front - 0.3, s.hood_height - 0.5), (s.blade_x - 0.1, height * 0.55)),
        Shape(
            "blade",
            "tool",
            (
                (s.blade_x + 0.24, 0.0),
                (s.blade_x - 0.12, height * 0.35),
                (s.blade_x + 0.02, height),
                (s.blade_x - 0.1, height),
                (s.blade_x - 0.3, height * 0.4),
                (s.blade_x - 0.1, 0.06),
            ),
        ),
        *steps_from_side(s.cab_back + 0.3, s.deck_height),
    ]
    if s.ripper_reach > 0:
        beam = back - s.ripper_reach
        shapes += [
            Shape(
                "ripper-frame",
                "steel",
                bar(((back + 0.2, s.track_height * 0.75), (beam + 0.35, s.track_height * 0.8)), (0.3, 0.4)),
            ),
            line("ripper-cylinder", "panel", (back + 0.25, s.deck_height - 0.1), (beam + 0.5, s.track_height * 0.95)),
            Shape(
                "shank",
                "tool",
                (
                    (beam + 0.2, s.track_height),
                    (beam + 0.42, s.track_height),
                    (beam + 0.36, 0.2),
                    (beam + 0.02, 0.0),
                    (beam + 0.14, 0.25),
                ),
            ),
        ]
    return with_ground(shapes)
