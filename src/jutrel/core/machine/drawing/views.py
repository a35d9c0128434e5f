"""A machine's drawings, to scale, from its parts: from above, and from either side.

Screen and paper draw the same shapes, so they cannot disagree.
"""

from __future__ import annotations

import math
from functools import lru_cache

from jutrel.core.machine.drawing.part import MachinePart, PartKind, outline_beside, outlines_above
from jutrel.core.machine.drawing.pen import (
    Drawing,
    Outline,
    Shape,
    box,
    circle,
    line,
    rounded,
    steps_from_side,
    wheel_from_side,
    with_ground,
)

FLAT = ("panel", "hair", "hidden")
"""What is drawn without a filling: on the far side it would shine through."""
FROM_ABOVE = {"inside": "panel", "over": "hidden"}
"""What is drawn from above alone, and how: what stands under a hood or a deck, and a roof over both."""
SIDES = {"left": 1.0, "right": -1.0}
TREAD, SHOES = 9, 22
FEET_ACROSS, FEET_ROUND = 6, 18


def _above(part: MachinePart) -> list[Shape]:
    (x0, y0, _), (x1, y1, _) = part.low, part.high
    match part.kind:
        case PartKind.WHEEL:
            lugs = [x0 + (x1 - x0) * i / TREAD for i in range(1, TREAD)]
            corner = min(x1 - x0, y1 - y0) / 2 * 0.45
            return [
                Shape(part.id, part.role, rounded(x0, y0, x1, y1, corner)),
                *(line(part.id, "hair", (x, y0), (x, y1)) for x in lugs),
            ]
        case PartKind.TRACK:
            shoes = [x0 + (x1 - x0) / SHOES * i for i in range(2, SHOES - 1)]
            return [
                Shape(part.id, part.role, rounded(x0, y0, x1, y1, (y1 - y0) * 0.28)),
                *(line(part.id, "hair", (x, y0), (x, y1)) for x in shoes),
            ]
        case PartKind.DRUM:
            return [Shape(part.id, part.role, outlines_above(part)[0]), *_on_shell(part)]
        case PartKind.CAB:
            glass = ((x1 - 0.14, y1 - 0.12), (x1 - 0.08, (y0 + y1) / 2), (x1 - 0.14, y0 + 0.12))
            return [Shape(part.id, part.role, rounded(x0, y0, x1, y1, 0.14)), line(part.id, "panel", *glass)]
        case PartKind.LINE:
            return [line(part.id, part.role, *((x, y) for x, y, _ in part.spine))]
        case PartKind.LADDER:
            return [line(part.id, part.role, *(((x0, y1), (x1, y1)) if x1 - x0 > y1 - y0 else ((x1, y0), (x1, y1))))]
        case _:
            role = FROM_ABOVE.get(part.role, part.role)
            return [Shape(part.id, role, o) for o in outlines_above(part)]


def _on_shell(part: MachinePart) -> list[Shape]:
    """What is seen on a drum from above: its feet, each second row set off by half a step; smooth, its two rims."""
    (x0, y0, _), (x1, y1, _) = part.low, part.high
    if not part.each:
        rims = (y0 + (y1 - y0) * 0.06, y1 - (y1 - y0) * 0.06)
        return [line(part.id, "hair", (x0, y), (x1, y)) for y in rims]
    step, rows = (y1 - y0) / FEET_ACROSS, 5
    half = step * 0.2
    feet = [
        (x0 + (x1 - x0) * (row + 0.5) / rows, y0 + step * (n + (0.3 if row % 2 else 0.7)))
        for row in range(rows)
        for n in range(FEET_ACROSS)
    ]
    return [Shape(part.id, "panel", box(x - half, y - half, x + half, y + half)) for x, y in feet]


def _drum(part: MachinePart) -> list[Shape]:
    """A drum from the side: its shell, the rim inside it, its hub, and its feet."""
    x, _, z = part.middle
    r = (part.high[2] - part.low[2]) / 2
    shell = r - part.each
    turns = [2 * math.pi * n / FEET_ROUND for n in range(FEET_ROUND)] if part.each else []
    feet = [
        tuple((x + d * math.cos(a + o), z + d * math.sin(a + o)) for d, o in ((shell, -w), (r, -t), (r, t), (shell, w)))
        for a in turns
        for w, t in ((0.1, 0.06),)
    ]
    return [
        *(Shape(part.id, part.role, f) for f in feet),
        Shape(part.id, part.role, circle(x, z, shell, 40)),
        Shape(part.id, "panel", circle(x, z, shell * 0.86, 40)),
        Shape(part.id, "steel", circle(x, z, shell * 0.3, 20)),
    ]


def _track(part: MachinePart) -> list[Shape]:
    (x0, _, z0), (x1, _, z1) = part.low, part.high
    x, _, z = part.middle
    r = (z1 - z0) / 2
    ends = (x1 - x0) / 2 - r
    frame = rounded(x0 + r * 0.3, z0 + r * 0.3, x1 - r * 0.3, z1 - r * 0.3, r * 0.68, 7)
    rollers = [circle(x - ends * 0.72 + ends * 1.44 * i / 6, z0 + r * 0.42, r * 0.2, 14) for i in range(7)]
    carriers = [circle(x + sign * ends * 0.35, z1 - r * 0.42, r * 0.13, 12) for sign in (-1, 1)]
    return [
        Shape(part.id, part.role, outline_beside(part)),
        Shape(part.id, "panel", frame),
        Shape(part.id, "steel", circle(x + ends, z, r * 0.62)),
        Shape(part.id, "steel", circle(x - ends, z, r * 0.62)),
        Shape(part.id, "panel", circle(x - ends, z, r * 0.28, 16)),
        *(Shape(part.id, "panel", o) for o in (*rollers, *carriers)),
    ]


def _cab(part: MachinePart, door: bool) -> list[Shape]:
    (x0, _, z0), (x1, _, z1) = part.low, part.high
    low = z0 + (z1 - z0) * 0.42
    glass = (
        (x0 + 0.14, low),
        (x1 - 0.1, low),
        (x1 - part.lean - 0.06, z1 - 0.14),
        (x0 + 0.14, z1 - 0.14),
    )
    shapes = [Shape(part.id, part.role, outline_beside(part)), Shape(part.id, "panel", glass)]
    if door:
        shapes.append(line(part.id, "hair", ((x0 + x1) / 2, z0 + 0.08), ((x0 + x1) / 2, z1 - 0.14)))
    return shapes


def _beside(part: MachinePart, side: float) -> list[Shape]:
    (x0, y0, _), (x1, y1, z1) = part.low, part.high
    match part.kind:
        case PartKind.WHEEL:
            return wheel_from_side(part.id, part.middle[0], x1 - x0, part.low[2])
        case PartKind.DRUM:
            return _drum(part)
        case PartKind.TRACK:
            return _track(part)
        case PartKind.CAB:
            return _cab(part, side * part.middle[1] >= -0.05)
        case PartKind.LINE:
            return [line(part.id, part.role, *((x, z) for x, _, z in part.spine))]
        case PartKind.LADDER:
            wide = x1 - x0 if x1 - x0 > y1 - y0 else 0.3
            return steps_from_side((x0 + x1) / 2, z1, wide)
        case _:
            return [Shape(part.id, part.role, outline_beside(part))]


def _seen(part: MachinePart, side: float) -> bool:
    """Whether a part is drawn from that side: ladders and what has no filling only where it is near."""
    if part.role in FROM_ABOVE:
        return False
    if part.kind is PartKind.LADDER or part.role in FLAT:
        return side * part.middle[1] >= -0.05
    return True


@lru_cache(maxsize=256)
def plan_of(parts: tuple[MachinePart, ...], obstacles: tuple[Outline, ...]) -> Drawing:
    """The machine from above, in the order of its parts, with the outlines that nobody can walk through."""
    return Drawing(tuple(s for p in parts for s in _above(p)), obstacles)


@lru_cache(maxsize=256)
def side_of(parts: tuple[MachinePart, ...], side: str) -> Drawing:
    """The machine from its `left` or `right`, standing on its ground line: what is farther away first.

    From the left one sees the front at the left hand: there, x is counted backwards.
    """
    sign = SIDES[side]
    near = sorted((p for p in parts if _seen(p, sign)), key=lambda p: p.high[1] if sign > 0 else -p.low[1])
    drawn = with_ground([s for p in near for s in _beside(p, sign)])
    if sign < 0:
        return drawn
    turned = tuple(Shape(s.part, s.role, tuple((-x, z) for x, z in s.points), s.closed) for s in drawn.shapes)
    return Drawing(turned)
