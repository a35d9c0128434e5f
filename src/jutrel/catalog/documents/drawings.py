"""What a file of a drawing may hold: figures, parts, where people cannot walk or stand, and the place of each look."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from jutrel.catalog.documents.base import Document, Id, Text

Name = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]*$", max_length=40)]
Sum = float | Annotated[str, Field(min_length=1, max_length=200)]
Pair = tuple[Sum, Sum]
Triple = tuple[Sum, Sum, Sum]
Side = Literal["left", "right", "front", "back", "top", "bottom", "in"]


class DrawingPartDoc(Document):
    """A part. `both`: it is written down for the left, and stands on the right too."""

    id: Id
    kind: Literal["block", "bar", "wheel", "track", "cab", "disc", "ladder", "line", "drum"] = "block"
    role: Literal["body", "steel", "panel", "tool", "track", "cab", "hair", "hidden", "inside", "over"] = "steel"
    both: bool = False
    when: Sum | None = None
    x: Pair | None = None
    y: Pair | None = None
    z: Pair | None = None
    at: Pair | None = None
    diameter: Sum | None = None
    width: Sum | None = None
    above: list[Pair] = []
    beside: list[Pair] = []
    spine: list[Triple] = []
    wide: list[Sum] = []
    deep: list[Sum] = []
    corner: Sum = 0.0
    count: Sum = 1
    each: Sum = 0.0
    lean: Sum = 0.0

    @model_validator(mode="after")
    def _whole(self) -> DrawingPartDoc:
        missing = [f for f in NEEDS[self.kind] if not getattr(self, f)]
        if missing:
            raise ValueError(f"a {self.kind} needs " + ", ".join(missing))
        if self.spine and (len(self.spine) < 2 or {len(self.wide), len(self.deep)} - {0, len(self.spine)}):
            raise ValueError("give the spine two points or more, and wide and deep for each of them")
        return self


NEEDS: dict[str, tuple[str, ...]] = {
    "block": ("x", "y", "z"),
    "cab": ("x", "y", "z"),
    "track": ("x", "y", "z"),
    "ladder": ("x", "y", "z"),
    "bar": ("spine", "wide", "deep"),
    "line": ("spine",),
    "wheel": ("at", "diameter", "width"),
    "drum": ("at", "diameter", "width"),
    "disc": ("at", "diameter", "z"),
}


class ZoneDoc(Document):
    """Where nobody stands: a ring [x, y, radius], or a box [from x, to x, half its width]."""

    id: Id
    name: Text
    ring: Triple | None = None
    box: Triple | None = None

    @model_validator(mode="after")
    def _one(self) -> ZoneDoc:
        if (self.ring is None) == (self.box is None):
            raise ValueError("give either a ring or a box")
        return self


class PlaceDoc(Document):
    """Where something is looked at: on a part, at a spot that has a name or at shares of one of its sides."""

    part: Id
    side: Side | None = None
    at: Id | list[Sum]


class DrawingFile(Document):
    id: Id
    figures: dict[Name, tuple[float, float]] = Field(min_length=1)
    let: dict[Name, Sum] = {}
    parts: list[DrawingPartDoc] = Field(min_length=1)
    obstacles: list[list[Pair]] = Field(min_length=1)
    zones: list[ZoneDoc] = []
    edges: dict[Literal["rear", "side"], Sum] = {}
    heights: dict[Literal["frame", "floor"], Sum]
    postures: dict[Id, dict[Name, Sum]] = {}
    places: dict[Id, PlaceDoc]


class FiguresFile(Document):
    """What each figure measures."""

    figures: dict[Name, Text]


class HeightDoc(Document):
    """Places (a name, or its beginning and *) that stand above or below another place, or a height of the machine."""

    places: list[str] = Field(min_length=1)
    above: Id | None = None
    below: Id | None = None


class PlacesFile(Document):
    """Where it is on every machine whose parts have these names, and what stands above what."""

    places: dict[Id, PlaceDoc]
    heights: list[HeightDoc]
