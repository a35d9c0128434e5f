"""What a model file may hold."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from jutrel.catalog.documents.base import Document, Id, Place, Seconds, Share, Text
from jutrel.catalog.documents.drawings import PlaceDoc

Figure = Annotated[float, Field(strict=True)]
"""A number, and no yes or no that would count as one."""


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


class ModelDoc(Document):
    id: Id
    maker: Text
    name: Text
    family: Id
    options: list[Id] = []
    shape: dict[str, Figure]
    tank: TankDoc
    reserves: dict[Id, Annotated[float, Field(gt=0)]]
    limits: dict[Id, Figure | str] = {}
    schools: dict[Id, Id] = {}
    strapping: dict[Id, Annotated[list[tuple[float, float]], Field(min_length=2, max_length=200)]] = {}
    access: list[AccessDoc] = Field(min_length=1)
    stations: dict[Id, tuple[Place, Place]]
    gates: dict[Id, tuple[Place, Place]] = {}
    moved: dict[Id, Id] = {}
    places: dict[Id, PlaceDoc | tuple[Place, Place, Place]] = {}
    """What this model has elsewhere than its family. Three figures: as it was written before parts had places."""
