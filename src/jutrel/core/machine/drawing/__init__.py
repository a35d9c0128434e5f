"""Drawings to scale, computed from a model's dimensions: a plan and a side view for each family.

Screen and paper draw the same shapes, so they cannot disagree.
"""

from __future__ import annotations

from jutrel.core.machine.drawing import (
    articulated_hauler,
    dozer,
    excavator,
    motor_grader,
    rigid_hauler,
    wheel_loader,
)
from jutrel.core.machine.drawing.pen import Drawing, Shape
from jutrel.core.machine.shapes import (
    ArticulatedHaulerShape,
    DozerShape,
    ExcavatorShape,
    MachineShape,
    MotorGraderShape,
    RigidHaulerShape,
    WheelLoaderShape,
)

__all__ = ["Drawing", "Shape", "parked_drawing", "plan_drawing", "side_drawing"]
TUCKED = "excavator-parked.tucked"
"""The school under which an excavator is parked with its arm in."""


def plan_drawing(shape: MachineShape) -> Drawing:
    """The machine from above, to scale, with the outlines nobody can walk through."""
    match shape:
        case ExcavatorShape():
            return excavator.plan(shape)
        case WheelLoaderShape():
            return wheel_loader.plan(shape)
        case DozerShape():
            return dozer.plan(shape)
        case ArticulatedHaulerShape():
            return articulated_hauler.plan(shape)
        case RigidHaulerShape():
            return rigid_hauler.plan(shape)
        case MotorGraderShape():
            return motor_grader.plan(shape)


def parked_drawing(shape: MachineShape, schools: frozenset[str]) -> Drawing:
    """The machine's left side as it is parked under these schools (each `school.choice`): tool down, body down."""
    if isinstance(shape, ExcavatorShape) and TUCKED in schools:
        return excavator.side(shape, tucked=True)
    return side_drawing(shape)


def side_drawing(shape: MachineShape) -> Drawing:
    """The machine's left side, to scale, standing on its ground line: x and z."""
    match shape:
        case ExcavatorShape():
            return excavator.side(shape)
        case WheelLoaderShape():
            return wheel_loader.side(shape)
        case DozerShape():
            return dozer.side(shape)
        case ArticulatedHaulerShape():
            return articulated_hauler.side(shape)
        case RigidHaulerShape():
            return rigid_hauler.side(shape)
        case MotorGraderShape():
            return motor_grader.side(shape)
