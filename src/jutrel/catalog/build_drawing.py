"""The drawing of a model: its family's parts with its own figures, and the place of each look on one of them."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Annotated

from jutrel.catalog.documents.drawings import (
    DrawingFile,
    DrawingPartDoc,
    FiguresFile,
    PlaceDoc,
    PlacesFile,
    ZoneDoc,
)
from jutrel.catalog.files import Loc, SourceFile
from jutrel.catalog.formula import NoValue, worked_out
from jutrel.core.edition import Edition
from jutrel.core.errors import BadInput
from jutrel.core.machine.drawing.part import MachinePart, PartKind, Spot, holds, on_face, spots
from jutrel.core.machine.drawing.pen import Outline, box, circle
from jutrel.core.machine.zone import Zone
from jutrel.core.wording import Words, say

GROUND = "ground"
WORDS = frozenset({"id", "name", "kind", "role", "part", "side", "figures"})
"""What is no sum in a file of a drawing."""
CORNERS = 48
LEFT, RIGHT = "-left", "-right"


@dataclass(frozen=True, slots=True)
class ComposedDrawing:
    """A model's drawing, worked out with its figures [m]; `on_part` names the part that each place lies on."""

    parts: tuple[MachinePart, ...]
    obstacles: tuple[Outline, ...]
    zones: tuple[Zone, ...]
    edges: Mapping[str, float]
    heights: Mapping[str, float]
    postures: Mapping[str, tuple[MachinePart, ...]]
    places: Mapping[str, Spot]
    on_part: Mapping[str, str]


@dataclass(frozen=True, slots=True)
class Drawings:
    """The drawings of a catalog by id, and where things are on every machine."""

    folder: Path = Path()
    files: Mapping[str, DrawingFile] = field(default_factory=dict)
    common: PlacesFile = field(default_factory=lambda: PlacesFile(places={}, heights=[]))
    measures: Mapping[str, Annotated[str, Words("dimension")]] = field(default_factory=dict)
    """What each figure measures."""


def load_drawings(folder: Path) -> Drawings:
    """The drawings of a catalog's folder; raises BadFile."""
    files: dict[str, DrawingFile] = {}
    measures = SourceFile(folder / "figures.yaml").parse(FiguresFile).figures
    for path in sorted((folder / "drawings").glob("*.yaml")):
        source = SourceFile(path)
        file = source.parse(DrawingFile)
        if file.id != path.stem:
            raise source.refuse(("id",), "give it the name of its file, '{it}'", it=path.stem)
        for name in file.figures:
            if name not in measures:
                raise source.refuse(("figures", name), "say in figures.yaml what it measures")
        # with middling figures: whether each sum is one, and names what there is
        known = {name: (low + high) / 2 for name, (low, high) in file.figures.items()}
        known |= dict.fromkeys(file.let, 1.0)
        for loc, sum_ in _sums(source.data):
            try:
                worked_out(sum_, known)
            except NoValue:
                continue
            except BadInput as error:
                raise source.refuse(loc, error.says) from None
        files[file.id] = file
    return Drawings(folder, files, SourceFile(folder / "places.yaml").parse(PlacesFile), measures)


def _sums(data: object, loc: Loc = ()) -> Iterator[tuple[Loc, str]]:
    """Every sum of a drawing's file, and where it stands."""
    if isinstance(data, dict):
        for key, value in data.items():
            if key not in WORDS and not (key == "at" and isinstance(value, str)):
                yield from _sums(value, (*loc, key))
    elif isinstance(data, list):
        for n, value in enumerate(data):
            yield from _sums(value, (*loc, n))
    elif isinstance(data, str):
        yield loc, data


def figures_of(file: DrawingFile, given: Mapping[str, object]) -> dict[str, float]:
    """A model's figures [m], each there and within its bounds; raises BadInput."""
    for name in given:
        if name not in file.figures:
            raise BadInput(name, "the drawing has no such figure")
    out = {}
    for name, (low, high) in file.figures.items():
        value = given.get(name)
        if isinstance(value, bool) or not isinstance(value, int | float):
            raise BadInput(name, "give this figure as a number")
        if not low <= value <= high:
            says = "{it} is outside {low} to {high}; check the figure and its unit"
            raise BadInput(name, say(says, it=value, low=low, high=high))
        out[name] = float(value)
    return out


def compose(
    drawings: Drawings,
    shape: str,
    figures: Mapping[str, float],
    wanted: Collection[str] = (),
    moved: Mapping[str, PlaceDoc] | None = None,
) -> ComposedDrawing:
    """A model's drawing.

    Parameters
    ----------
    drawings, shape
        The catalog's drawings, and the one that the family has.
    figures
        The model's figures [m].
    wanted
        The checkpoints that need a place.
    moved
        Places that this model has elsewhere than its family.

    Raises
    ------
    BadInput
        For a sum without a value, a place outside its part, a place that is missing.
    """
    file = drawings.files[shape]
    known = _derived(file.let, figures)
    parts = _parts(file.parts, known)
    postures = {}
    for school, changes in file.postures.items():
        changed = {name: worked_out(sum_, known) for name, sum_ in changes.items()}
        postures[school] = _parts(file.parts, _derived({**file.let, **changed}, figures))
    by_id = {p.id: p for p in parts}
    places: dict[str, Spot] = {}
    on_part: dict[str, str] = {}
    told = {**drawings.common.places, **file.places, **(moved or {})}
    for checkpoint in wanted:
        places[checkpoint], on_part[checkpoint] = _place(checkpoint, told, by_id, known)
    heights = {str(name): worked_out(value, known) for name, value in file.heights.items()}
    return ComposedDrawing(
        parts,
        tuple(tuple((worked_out(x, known), worked_out(y, known)) for x, y in o) for o in map(_corners, file.obstacles)),
        tuple(_zone(z, known) for z in file.zones),
        {str(name): worked_out(value, known) for name, value in file.edges.items()},
        heights,
        postures,
        places,
        on_part,
    )


def redrawn(drawings: Drawings, edition: Edition) -> Edition:
    """An edition with its machine drawn; one from before drawings were made of parts gets today's, with its figures.

    Where it is looked at stays as that edition has it.
    """
    model = edition.model
    if model.parts or model.family.shape not in drawings.files:
        return edition
    try:
        drawn = compose(drawings, model.family.shape, model.shape)
    except BadInput:  # it had other figures then: it is not drawn
        return edition
    new = replace(
        model,
        parts=drawn.parts,
        obstacles=drawn.obstacles,
        zones=drawn.zones,
        edges=drawn.edges,
        postures=drawn.postures,
    )
    return replace(edition, model=new)


def _derived(let: Mapping[str, str | float], figures: Mapping[str, float]) -> dict[str, float]:
    known = dict(figures)
    for name, sum_ in let.items():
        known[name] = worked_out(sum_, known)
    return known


def _corners(outline: list[tuple[str | float, str | float]]) -> list[tuple[str | float, str | float]]:
    """Two corners are a box, more are the outline itself."""
    if len(outline) != 2:
        return outline
    (x0, y0), (x1, y1) = outline
    return [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]


def _zone(doc: ZoneDoc, known: Mapping[str, float]) -> Zone:
    if doc.ring is not None:
        x, y, r = (worked_out(v, known) for v in doc.ring)
        return Zone(doc.id, doc.name, circle(x, y, r, CORNERS))
    x0, x1, half = (worked_out(v, known) for v in doc.box or (0, 0, 0))
    return Zone(doc.id, doc.name, box(x0, -half, x1, half))


def _parts(docs: list[DrawingPartDoc], known: Mapping[str, float]) -> tuple[MachinePart, ...]:
    out = []
    for doc in docs:
        if doc.when is not None and worked_out(doc.when, known) <= 0:
            continue
        part = _part(doc, known)
        if doc.both:
            out += [_named(part, part.id + LEFT), _named(_across(part), part.id + RIGHT)]
        else:
            out.append(part)
    return tuple(out)


def _part(doc: DrawingPartDoc, known: Mapping[str, float]) -> MachinePart:
    def of(sums: Iterable[str | float]) -> tuple[float, ...]:
        return tuple(worked_out(v, known) for v in sums)

    def points(outline: Iterable[tuple[str | float, str | float]]) -> Outline:
        return tuple((worked_out(a, known), worked_out(b, known)) for a, b in outline)

    spine: tuple[Spot, ...] = tuple(
        (worked_out(x, known), worked_out(y, known), worked_out(z, known)) for x, y, z in doc.spine
    )
    wide = of(doc.wide) or (0.0,) * len(spine)
    deep = of(doc.deep) or (0.0,) * len(spine)
    if doc.kind in ("wheel", "disc", "drum"):
        low, high = _round(doc, known)
    elif spine:
        around = [
            ((x - d / 2, y - w / 2, z - d / 2), (x + d / 2, y + w / 2, z + d / 2))
            for (x, y, z), w, d in zip(spine, wide, deep, strict=True)
        ]
        low = min(a[0] for a, _ in around), min(a[1] for a, _ in around), min(a[2] for a, _ in around)
        high = max(b[0] for _, b in around), max(b[1] for _, b in around), max(b[2] for _, b in around)
    else:
        (x0, x1), (y0, y1), (z0, z1) = (sorted(of(side or (0, 0))) for side in (doc.x, doc.y, doc.z))
        low, high = (x0, y0, z0), (x1, y1, z1)
    return MachinePart(
        doc.id,
        PartKind(doc.kind),
        doc.role,
        low,
        high,
        points(doc.above),
        points(doc.beside),
        spine,
        wide,
        deep,
        worked_out(doc.corner, known),
        max(1, round(worked_out(doc.count, known))),
        worked_out(doc.each, known),
        worked_out(doc.lean, known),
    )


def _round(doc: DrawingPartDoc, known: Mapping[str, float]) -> tuple[Spot, Spot]:
    """The box of a wheel or drum, which stands on the ground, or of what lies between two heights."""
    x, y = (worked_out(v, known) for v in doc.at or (0, 0))
    r = worked_out(doc.diameter or 0, known) / 2
    half = worked_out(doc.width, known) / 2 if doc.width is not None else r
    z0, z1 = sorted(worked_out(v, known) for v in doc.z or (0, 2 * r))
    return (x - r, y - half, z0), (x + r, y + half, z1)


def _across(part: MachinePart) -> MachinePart:
    """The same part on the other side of the machine."""
    return MachinePart(
        part.id,
        part.kind,
        part.role,
        (part.low[0], -part.high[1], part.low[2]),
        (part.high[0], -part.low[1], part.high[2]),
        tuple((x, -y) for x, y in reversed(part.above)),
        part.beside,
        tuple((x, -y, z) for x, y, z in part.spine),
        part.wide,
        part.deep,
        part.corner,
        part.count,
        part.each,
        part.lean,
    )


def _named(part: MachinePart, name: str) -> MachinePart:
    return replace(part, id=name)


def _place(
    checkpoint: str, told: Mapping[str, PlaceDoc], parts: Mapping[str, MachinePart], known: Mapping[str, float]
) -> tuple[Spot, str]:
    """Where a checkpoint is, and on which part; one on the right stands where its like stands on the left."""
    if checkpoint in told:
        return _spot(checkpoint, told[checkpoint], parts, known)
    left = checkpoint.replace(RIGHT, LEFT)
    if left != checkpoint and left in told:
        (x, y, z), part = _spot(checkpoint, told[left], parts, known)
        return (x, -y, z), part.replace(LEFT, RIGHT) if part.replace(LEFT, RIGHT) in parts else part
    raise BadInput(checkpoint, "no place is given for this checkpoint")


def _spot(
    checkpoint: str, doc: PlaceDoc, parts: Mapping[str, MachinePart], known: Mapping[str, float]
) -> tuple[Spot, str]:
    shares = tuple(worked_out(v, known) for v in doc.at) if isinstance(doc.at, list) else ()
    if doc.part == GROUND:
        if len(shares) not in (2, 3):
            raise BadInput(checkpoint, "on the ground, say how far ahead and to the left it is, in metres")
        return (shares[0], shares[1], shares[2] if len(shares) == 3 else 0.0), GROUND
    part = parts.get(doc.part)
    if part is None:
        raise BadInput(checkpoint, "this machine has no part '{part}'", part=doc.part)
    if isinstance(doc.at, str):
        named = spots(part)
        if doc.at not in named:
            raise BadInput(
                checkpoint,
                "'{part}' has no spot '{at}'; it has {those}",
                part=doc.part,
                at=doc.at,
                those=", ".join(named),
            )
        return named[doc.at], part.id
    need = 1 if part.spine else 3 if doc.side in (None, "in") else 2
    if len(shares) != need:
        raise BadInput(checkpoint, "give {n} shares of this side, 0 to 1", n=need)
    if not all(0 <= s <= 1 for s in shares):
        raise BadInput(checkpoint, "a share lies between 0 and 1")
    spot = on_face(part, doc.side or "in", shares)
    if not holds(part, spot):
        raise BadInput(checkpoint, "this place lies outside '{part}'", part=part.id)
    return spot, part.id
