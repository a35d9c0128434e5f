"""Which answers the approach gave: what was said, and what follows from the figures."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from jutrel.core.inspection.finding import Conditions
from jutrel.core.inspection.kinds import Opened
from jutrel.core.log.entry import Pins
from jutrel.core.machine.kind import InspectionKind, Question
from jutrel.core.machine.model import Model, Walk, walk_for
from jutrel.core.route.ground import Line
from jutrel.core.wording import Number, Said, say

SLOPE_DEG = 3.0
"""From here on a slope is said to be one; common practice."""
FROST_C = 0.0
SHIFT_HOURS = 10.0
"""What a shift adds to the meter at most."""
NEIGHBOUR_M = 4.0


def steepest_deg(conditions: Conditions) -> float:
    """The steepest slope [°] of pitch and roll together.

    >>> round(steepest_deg(Conditions(pitch_deg=3, roll_deg=4)), 1)
    5.0
    """
    pitch, roll = (math.tan(math.radians(a)) for a in (conditions.pitch_deg, conditions.roll_deg))
    return math.degrees(math.atan(math.hypot(pitch, roll)))


def answers_given(conditions: Conditions, questions: Sequence[Question]) -> dict[str, Said]:
    """The questions answered with yes, and what a yes means."""
    computed = {
        "slope": steepest_deg(conditions) >= SLOPE_DEG,
        "frost": conditions.frost or conditions.air_c <= FROST_C,
    }
    return {
        q.id: Said(q.says, (), "because") for q in questions if computed.get(q.id, getattr(conditions, q.id, False))
    }


def walk_on(
    walk: Walk,
    opened: Opened,
    pins: Pins,
    kinds: Mapping[str, InspectionKind],
    questions: Sequence[Question],
    open_at: frozenset[str] = frozenset(),
    noticed: frozenset[str] = frozenset(),
) -> Walk:
    """The walk that an opening calls for: its kind, its answers, what is open, what changed, what was noticed since."""
    kind = kinds.get(opened.purpose)
    if kind is None:  # a kind of a later catalog: rather look at everything
        return walk
    answers = answers_given(opened.conditions, questions)
    # A service may have drained what rests: then nothing does.
    rests = {} if opened.conditions.serviced else resting(walk, opened.hour_meter, pins)
    return walk_for(walk, kind, answers, pins.open_at | open_at, pins.changed, noticed, rests)


def resting(walk: Walk, hour_meter: float, pins: Pins) -> dict[str, Said]:
    """Checkpoints whose interval does not end in the shift ahead, and why; the meter shows so many hours [h].

    Where nobody knows when it was looked at last, or the meter runs backwards, it is looked at.
    """
    out = {}
    for c in walk.checkpoints:
        last = pins.looked.get(c.id)
        if not c.by_interval or last is None or not last <= hour_meter:
            continue
        then = Number(last, 0, "h")
        if not c.every_h:
            out[c.id] = say(
                "It was looked at when the meter showed {then}, and is looked at every {every} days.",
                then=then,
                every=c.every_days,
            )
        elif last + c.every_h > hour_meter + SHIFT_HOURS:
            again = Number(last + c.every_h, 0, "h")
            out[c.id] = say("It was looked at when the meter showed {then}; again at {again}.", then=then, again=again)
    return out


def neighbours(model: Model, conditions: Conditions) -> tuple[Line, ...]:
    """Outlines [m] of what stands beside the machine, from the gaps said on the approach."""
    outline = [p for polygon in model.obstacles for p in polygon]
    x0, x1 = min(x for x, _ in outline), max(x for x, _ in outline)
    y0, y1 = min(y for _, y in outline), max(y for _, y in outline)
    deep = NEIGHBOUR_M
    found = []
    for gap, make in (
        (conditions.gap_left, lambda g: (x0, y1 + g, x1, y1 + g + deep)),
        (conditions.gap_right, lambda g: (x0, y0 - g - deep, x1, y0 - g)),
        (conditions.gap_rear, lambda g: (x0 - g - deep, y0, x0 - g, y1)),
        (conditions.gap_front, lambda g: (x1 + g, y0, x1 + g + deep, y1)),
    ):
        if gap is not None:
            a, b, c, d = make(gap)
            found.append(((a, b), (c, b), (c, d), (a, d)))
    return tuple(found)
