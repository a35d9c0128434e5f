"""A model file while somebody writes it: drawn as far as it goes, with what is missing and the first thing wrong."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from jutrel.catalog.build_drawing import compose
from jutrel.catalog.files import BadFile, SourceFile
from jutrel.catalog.whole import Catalog
from jutrel.core.errors import BadInput
from jutrel.core.machine.drawing.part import MachinePart
from jutrel.core.machine.drawing.pen import Outline


@dataclass(frozen=True, slots=True)
class MissingFigure:
    """A figure that the drawing needs and the file does not give: what it measures, and its bounds [m]."""

    figure: str
    measures: str
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class ModelDraft:
    """`borrowed`: whose figures stand in where the file gives none; `problem`: the first thing that is wrong."""

    parts: tuple[MachinePart, ...] = ()
    obstacles: tuple[Outline, ...] = ()
    missing: tuple[MissingFigure, ...] = ()
    borrowed: str = ""
    problem: BadFile | None = None


def draft_of(catalog: Catalog, name: str, text: str) -> ModelDraft:
    """What a file that is being written comes to.

    It is drawn with the figures that it gives within their bounds, and those of a model that ships of the same family
    for the others. The file is read as one that is taken in; what is wrong with it first is told, with line and field.
    """
    from jutrel.catalog.models import build_model  # what parses takes long to load and is seldom needed

    problem: BadFile | None = None
    try:
        source = SourceFile(Path(name), text)
    except BadFile as error:
        return ModelDraft(problem=error)
    try:
        build_model(source, catalog.families, catalog.schools, catalog.drawings, False)
    except BadFile as error:
        problem = error
    data = source.data
    family = catalog.families.get(str(data.get("family")))
    if family is None or family.shape not in catalog.drawings.files:
        return ModelDraft(problem=problem)
    given = data.get("shape")
    given = given if isinstance(given, Mapping) else {}
    file = catalog.drawings.files[family.shape]
    like = next(m for m in catalog.models.values() if m.family.id == family.id)
    figures, missing = {}, []
    for figure, (low, high) in file.figures.items():
        value = given.get(figure)
        if isinstance(value, int | float) and not isinstance(value, bool) and low <= value <= high:
            figures[figure] = float(value)
        else:
            figures[figure] = like.shape[figure]
            missing.append(MissingFigure(figure, catalog.drawings.measures[figure], low, high))
    borrowed = f"{like.maker} {like.name}" if missing else ""
    try:
        drawn = compose(catalog.drawings, family.shape, figures)
    except BadInput:  # figures that fit one by one, and not together: what is wrong is told
        return ModelDraft(missing=tuple(missing), borrowed=borrowed, problem=problem)
    return ModelDraft(drawn.parts, drawn.obstacles, tuple(missing), borrowed, problem)
