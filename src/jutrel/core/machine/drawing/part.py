"""What a machine is drawn from: boxes in three dimensions, each with its outline from above and from the side.

Frame [m]: x forward, y left, z up from the ground. A part knows its own outlines, so that a place on it can be checked
against what is drawn.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum
from itertools import pairwise

from jutrel.core.machine.drawing.pen import Outline, Point, bar, box, circle, rounded

Spot = tuple[float, float, float]
SLACK_M = 0.03
"""How far a place may stand off the outline of its part [m]: a fitting on its skin is a place on it."""


class PartKind(Enum):
    """How a part is built."""

    BLOCK = "block"
    BAR = "bar"
    WHEEL = "wheel"
    TRACK = "track"
    CAB = "cab"
    DISC = "disc"
    LADDER = "ladder"
    LINE = "line"
    DRUM = "drum"


@dataclass(frozen=True, slots=True)
class MachinePart:
    """A part of a machine: its box from `low` to `high`, and what makes its outline.

    A block may have an outline from `above` (x and y) and from `beside` (x and z), and stand `count` times side by
    side, each `each` [m] wide. A bar follows its `spine` and is `wide` from above, `deep` from the side at each point.
    `corner` is the radius of a block's corners from above [m], `lean` how far a windscreen leans back [m]. On a drum
    `each` is how high its feet are [m], within its diameter; 0: it is smooth.
    """

    id: str
    kind: PartKind
    role: str
    low: Spot
    high: Spot
    above: Outline = ()
    beside: Outline = ()
    spine: tuple[Spot, ...] = ()
    wide: tuple[float, ...] = ()
    deep: tuple[float, ...] = ()
    corner: float = 0.0
    count: int = 1
    each: float = 0.0
    lean: float = 0.0

    @property
    def middle(self) -> Spot:
        """The middle of its box [m]."""
        (x0, y0, z0), (x1, y1, z1) = self.low, self.high
        return (x0 + x1) / 2, (y0 + y1) / 2, (z0 + z1) / 2

    @property
    def outer(self) -> float:
        """The y of its face that looks away from the machine's middle line [m]."""
        return self.high[1] if self.middle[1] >= 0 else self.low[1]

    @property
    def inner(self) -> float:
        """The y of its face that looks to the machine's middle line [m]."""
        return self.low[1] if self.middle[1] >= 0 else self.high[1]


def _flat(points: tuple[Point, ...], widths: tuple[float, ...]) -> Outline:
    """A bar's outline; one that is seen end on is as large as it is thick."""
    if any(math.dist(a, b) > 1e-6 for a, b in pairwise(points)):
        return bar(points, widths)
    (x, y), w = points[0], max(widths) / 2
    return box(x - w, y - w, x + w, y + w)


def outlines_above(part: MachinePart) -> tuple[Outline, ...]:
    """What it covers from above: x and y [m]."""
    (x0, y0, _), (x1, y1, _) = part.low, part.high
    match part.kind:
        case PartKind.BAR:
            return (_flat(tuple((x, y) for x, y, _ in part.spine), part.wide),)
        case PartKind.DISC:
            x, y, _ = part.middle
            return (circle(x, y, (x1 - x0) / 2),)
        case _ if part.above:
            return (part.above,)
        case _ if part.count > 1:
            gap = (y1 - y0 - part.each) / (part.count - 1)
            return tuple(box(x0, y0 + gap * i, x1, y0 + gap * i + part.each) for i in range(part.count))
        case _ if part.corner:
            return (rounded(x0, y0, x1, y1, min(part.corner, (x1 - x0) / 2, (y1 - y0) / 2)),)
        case _:
            return (box(x0, y0, x1, y1),)


def outline_beside(part: MachinePart) -> Outline:
    """What it covers from the side: x and z [m]."""
    (x0, _, z0), (x1, _, z1) = part.low, part.high
    match part.kind:
        case PartKind.BAR:
            return _flat(tuple((x, z) for x, _, z in part.spine), part.deep)
        case PartKind.WHEEL | PartKind.DRUM:
            return circle((x0 + x1) / 2, (z0 + z1) / 2, (z1 - z0) / 2, 40)
        case PartKind.TRACK:
            return rounded(x0, z0, x1, z1, (z1 - z0) / 2 * 0.98, 9)
        case PartKind.CAB:
            low = z0 + (z1 - z0) * 0.42
            return ((x0, z0), (x1, z0), (x1, low), (x1 - part.lean, z1), (x0, z1))
        case _:
            return part.beside or box(x0, z0, x1, z1)


def spots(part: MachinePart) -> Mapping[str, Spot]:
    """The places on a part that have a name [m]: a wheel's hub, a track's idler."""
    (x0, _, z0), (x1, _, z1) = part.low, part.high
    x, y, z = part.middle
    r, face, back = (z1 - z0) / 2, part.outer, part.inner
    match part.kind:
        case PartKind.WHEEL:
            return {
                "hub": (x, face, z),
                "nuts": (x - r * 0.2, face, z + r * 0.3),
                "wall": (x + r * 0.3, face, z + r * 0.72),
                "tread": (x + r * 0.66, y, z + r * 0.7),
                "brake": (x, back, z),
            }
        case PartKind.DRUM:
            return {
                "shell": (x + r * 0.6, y + (face - y) * 0.45, z + r * 0.74),
                "feet": (x + r * 0.72, y + (face - y) * 0.2, z + r * 0.6),
                "rim": (x - r * 0.34, face, z + r * 0.8),
                "hub": (x, face, z),
            }
        case PartKind.TRACK:
            ends = (x1 - x0) / 2 - r
            return {
                "idler": (x + ends, face, z),
                "adjuster": (x + ends * 0.58, face, z + r * 0.08),
                "sprocket": (x - ends - r * 0.4, face, z + r * 0.3),
                "final-drive": (x - ends, face, z - r * 0.1),
                "carrier": (x + ends * 0.35, face, z1 - r * 0.42),
                "rollers": (x - ends * 0.24, face, r * 0.42),
                "bogies": (x + ends * 0.24, face, r * 0.62),
                "guide": (x + ends * 0.05, face, r * 0.28),
                "shoes": (x - ends * 0.5, y, z1),
                "links": (x - ends * 0.2, back, z1 - r * 0.16),
                "sag": (x + ends * 0.72, face, z1 - r * 0.03),
                "frame": (x - ends * 0.12, back, z),
                "pivot": (x - ends * 0.62, back, z + r * 0.12),
            }
        case _:
            return {}


def on_face(part: MachinePart, side: str, at: tuple[float, ...]) -> Spot:
    """A place on one side of a part's box [m], `at` shares of it.

    On `left` and `right`: from the back, from below. On `front` and `back`: from the right, from below. On `top` and
    `bottom`: from the back, from the right. `in`: from the back, from the right, from below. A bar takes one share,
    along its spine, and the face of its side there.

    >>> tank = MachinePart("tank", PartKind.BLOCK, "panel", (0, 0, 1), (2, 1, 2))
    >>> on_face(tank, "left", (0.25, 0.5)), on_face(tank, "in", (0.5, 0.5, 0.5))
    ((0.5, 1, 1.5), (1.0, 0.5, 1.5))
    """
    if part.spine:
        return _on_bar(part, side, at[0])
    (x0, y0, z0), (x1, y1, z1) = part.low, part.high

    def x(u: float) -> float:
        return x0 + (x1 - x0) * u

    def y(u: float) -> float:
        return y0 + (y1 - y0) * u

    def z(u: float) -> float:
        return z0 + (z1 - z0) * u

    match side:
        case "left" | "right":
            return x(at[0]), y1 if side == "left" else y0, z(at[1])
        case "front" | "back":
            return x1 if side == "front" else x0, y(at[0]), z(at[1])
        case "top" | "bottom":
            return x(at[0]), y(at[1]), z1 if side == "top" else z0
        case _:
            return x(at[0]), y(at[1]), z(at[2])


def _on_bar(part: MachinePart, side: str, along: float) -> Spot:
    """A place along a bar's spine, on the face of its side there [m]."""
    lengths = [math.dist(a, b) for a, b in pairwise(part.spine)]
    left = along * sum(lengths)
    i = 0
    while i < len(lengths) - 1 and left > lengths[i]:
        left -= lengths[i]
        i += 1
    share = min(1.0, left / lengths[i]) if lengths[i] else 0.0
    a, b = part.spine[i], part.spine[i + 1]
    x, y, z = (p + (q - p) * share for p, q in zip(a, b, strict=True))
    wide, deep = (w[i] + (w[i + 1] - w[i]) * share if w else 0.0 for w in (part.wide, part.deep))
    # the bar's face in this view lies across its run: a steep one is met at its front, not on its top
    dx, dz = b[0] - a[0], b[2] - a[2]
    run = math.hypot(dx, dz) or 1.0
    match side:
        case "left" | "right":
            return x, y + (wide / 2 if side == "left" else -wide / 2), z
        case "top" | "bottom":
            sign = 0.5 if side == "top" else -0.5
            return x - dz / run * deep * sign, y, z + dx / run * deep * sign
        case _:
            return x, y, z


def _near(point: Point, outline: Outline) -> bool:
    """Whether a point lies in an outline, or no farther from it than the slack."""
    x, y = point
    inside = False
    for (x0, y0), (x1, y1) in zip(outline, (*outline[1:], outline[0]), strict=True):
        if (y0 > y) != (y1 > y) and x < x0 + (y - y0) * (x1 - x0) / (y1 - y0):
            inside = not inside
        length = math.dist((x0, y0), (x1, y1)) or 1.0
        t = max(0.0, min(1.0, ((x - x0) * (x1 - x0) + (y - y0) * (y1 - y0)) / length**2))
        if math.dist(point, (x0 + t * (x1 - x0), y0 + t * (y1 - y0))) <= SLACK_M:
            return True
    return inside


def holds(part: MachinePart, place: Spot) -> bool:
    """Whether a place [m] lies in or on a part, from above and from the side.

    >>> tank = MachinePart("tank", PartKind.BLOCK, "panel", (0, 0, 1), (2, 1, 2))
    >>> holds(tank, (1, 1, 1.5)), holds(tank, (1, 1, 2.5))
    (True, False)
    """
    x, y, z = place
    return any(_near((x, y), o) for o in outlines_above(part)) and _near((x, z), outline_beside(part))
