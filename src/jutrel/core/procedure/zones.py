"""Where a machine that starts or moves pinches, crushes or strikes: areas on its own plan."""

from __future__ import annotations

import math
from dataclasses import dataclass

from jutrel.core.machine.shapes import (
    ArticulatedHaulerShape,
    DozerShape,
    ExcavatorShape,
    MachineShape,
    MotorGraderShape,
    RigidHaulerShape,
    WheelLoaderShape,
)
from jutrel.core.route.ground import Line
from jutrel.core.wording import Said, say

CORNERS = 48
ROOM = 1.0
"""What is added round what moves [m]: a person is half a metre wide and steps back; common practice."""


@dataclass(frozen=True, slots=True)
class Zone:
    """An area that nobody stands in: its outline [m] in the machine's frame."""

    id: str
    name: Said
    outline: Line


def ring(x: float, y: float, radius: float) -> Line:
    """A circle [m] as a closed outline.

    >>> [round(c, 3) for c in ring(0, 0, 2)[12]]
    [0.0, 2.0]
    """
    turns = [2 * math.pi * n / CORNERS for n in range(CORNERS)]
    return tuple((x + radius * math.cos(a), y + radius * math.sin(a)) for a in turns)


def box(x0: float, x1: float, half: float) -> Line:
    """A rectangle [m] across the machine's middle line."""
    return ((x0, -half), (x1, -half), (x1, half), (x0, half))


def zones_of(shape: MachineShape) -> tuple[Zone, ...]:
    """The areas of a machine where people get hurt when it starts, steers, swings or tips.

    >>> from jutrel.catalog import catalog
    >>> [z.id for z in zones_of(catalog().models["tolvane-e24"].shape)]
    ['reach', 'tail', 'tracks']
    """
    match shape:
        case ExcavatorShape():
            reach = shape.boom_foot_x + shape.boom_reach + shape.arm_reach + shape.bucket_length
            return (
                Zone("reach", say("Reach of boom, arm and bucket"), ring(0, 0, reach)),
                Zone("tail", say("Swing of the tail"), ring(0, 0, shape.tail_radius + ROOM)),
                Zone("tracks", say("In front of and behind the tracks"), _run(shape.track_length, shape.track_gauge)),
            )
        case WheelLoaderShape():
            half, front = shape.gauge / 2 + shape.tyre_width / 2, shape.wheelbase / 2
            tool = front + shape.arm_reach + shape.bucket_length
            return (
                _joint(0.0, half),
                Zone("arms", say("Under the raised arms"), box(front, tool + ROOM, shape.bucket_width / 2 + ROOM)),
                Zone("behind", say("Behind it"), box(-front - shape.rear_overhang - 4 * ROOM, -front, half + ROOM)),
            )
        case DozerShape():
            half, front = shape.track_gauge / 2 + shape.shoe_width / 2, shape.blade_x
            back = -shape.track_length / 2 - shape.ripper_reach
            return (
                Zone(
                    "blade",
                    say("Blade and what it drops"),
                    box(front - ROOM, front + 2 * ROOM, shape.blade_width / 2 + ROOM),
                ),
                Zone("ripper", say("Ripper and behind it"), box(back - 3 * ROOM, -shape.track_length / 2, half + ROOM)),
            )
        case ArticulatedHaulerShape():
            half, tail = shape.gauge / 2 + shape.tyre_width / 2, shape.body_front - shape.body_length
            return (
                _joint(shape.joint_x, half),
                Zone("body", say("Under the raised body"), box(tail, shape.body_front, shape.body_width / 2 + ROOM)),
                Zone("tipped", say("Where it tips and backs"), box(tail - 5 * ROOM, tail, half + 2 * ROOM)),
            )
        case RigidHaulerShape():
            half, front = shape.deck_width / 2, shape.deck_back
            tail, nose = front - shape.body_length, shape.nose_x
            return (
                Zone("blind", say("Blind area before the nose"), box(nose, nose + 6 * ROOM, half + 2 * ROOM)),
                Zone("body", say("Under the raised body"), box(tail, front, shape.body_width / 2 + ROOM)),
                Zone("tipped", say("Where it tips and backs"), box(tail - 6 * ROOM, tail, half + 2 * ROOM)),
            )
        case MotorGraderShape():
            half = shape.gauge / 2 + shape.tyre_width / 2
            return (
                Zone("blade", say("Banked or turned blade"), ring(shape.blade_x, 0, shape.blade_length / 2 + ROOM)),
                _joint(shape.joint_x, half),
                Zone("behind", say("Behind it"), box(shape.rear_x - 4 * ROOM, shape.rear_x, half + ROOM)),
            )


def _run(length: float, gauge: float) -> Line:
    half = gauge / 2 + 2 * ROOM
    return box(-length / 2 - 2 * ROOM, length / 2 + 2 * ROOM, half)


def _joint(x: float, half: float) -> Zone:
    return Zone("joint", say("The joint: it closes when somebody steers"), box(x - ROOM, x + ROOM, half + ROOM))
