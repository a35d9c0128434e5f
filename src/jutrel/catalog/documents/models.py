"""What a model file may hold."""

from __future__ import annotations

import dataclasses
from typing import Annotated, Any

from pydantic import Field, create_model

from jutrel.catalog.documents.base import Document, Id, Metres, Place, Seconds, Share, Text
from jutrel.core.machine.shapes import (
    ArticulatedHaulerShape,
    DozerShape,
    ExcavatorShape,
    MotorGraderShape,
    RigidHaulerShape,
    WheelLoaderShape,
)


def _shape_doc(shape: type) -> type[Document]:
    """What a model file may say of a shape: its dataclass's fields, each within what can be built."""
    fields: dict[str, Any] = {}
    for field in dataclasses.fields(shape):
        if field.type == "int":
            fields[field.name] = (int, Field(ge=0, le=16))
        elif field.name.endswith(("_x", "_front", "_back")):
            fields[field.name] = (float, Field(ge=-30, le=30))
        elif field.name.endswith("_deg"):
            fields[field.name] = (float, Field(ge=-60, le=60))
        elif field.name == "ripper_reach":
            fields[field.name] = (float, Field(ge=0, le=10))
        else:
            fields[field.name] = (Metres, ...)
    return create_model(f"{shape.__name__}Doc", __base__=Document, **fields)


SHAPES: dict[str, tuple[type, type[Document]]] = {
    name: (shape, _shape_doc(shape))
    for name, shape in (
        ("excavator", ExcavatorShape),
        ("wheel-loader", WheelLoaderShape),
        ("dozer", DozerShape),
        ("articulated-hauler", ArticulatedHaulerShape),
        ("rigid-hauler", RigidHaulerShape),
        ("motor-grader", MotorGraderShape),
    )
}


class RodDoc(Document):
    id: Id
    name: Text
    count: int = Field(ge=1, le=4)
    rod_diameter: Annotated[float, Field(gt=0, le=0.5)]
    stroke: Annotated[float, Field(gt=0, le=5)]
    extension_at_check: Share


class TankDoc(Document):
    area: Annotated[float, Field(gt=0, le=10)]
    band: Annotated[float, Field(gt=0, le=1)]
    gauge_x: float = Field(ge=-2, le=2)
    gauge_y: float = Field(ge=-2, le=2)
    system_oil: Annotated[float, Field(gt=0, le=10_000)]
    cold_c: float = Field(ge=-40, le=50)
    posture: Text
    rods: list[RodDoc] = Field(min_length=1)


class AccessDoc(Document):
    id: Id
    name: Text
    foot: tuple[Place, Place]
    leads_to: list[Id] = Field(min_length=1)
    up_s: Seconds
    down_s: Seconds
    checked_by: Id


class ModelFile(Document):
    id: Id
    maker: Text
    name: Text
    family: Id
    options: list[Id] = []
    shape: dict[str, Any]
    tank: TankDoc
    reserves: dict[Id, Annotated[float, Field(gt=0)]]
    limits: dict[Id, float | str] = {}
    schools: dict[Id, Id] = {}
    strapping: dict[Id, Annotated[list[tuple[float, float]], Field(min_length=2, max_length=200)]] = {}
    access: list[AccessDoc] = Field(min_length=1)
    stations: dict[Id, tuple[Place, Place]]
    gates: dict[Id, tuple[Place, Place]] = {}
    moved: dict[Id, Id] = {}
    places: dict[Id, tuple[Place, Place, Annotated[float, Field(ge=0, le=12)]]]
