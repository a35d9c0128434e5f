"""Where a family is greased by hand, and checking that every point is on it."""

from __future__ import annotations

from collections.abc import Collection

from jutrel.catalog.documents.families import FamilyFile
from jutrel.catalog.documents.procedures import GreasePointDoc
from jutrel.catalog.files import Loc, SourceFile
from jutrel.core.machine.family import Family
from jutrel.core.procedure.greasing import GreasePoint


def load_points(
    source: SourceFile, file: FamilyFile, family: Family, words: Collection[str]
) -> tuple[GreasePoint, ...]:
    """Where a family is greased by hand, by its own file.

    Raises
    ------
    BadFile
        For a place, an option or a school that is not there, or a point that is there twice.
    """
    docs = file.grease
    places = {c.id for c in family.checkpoints}
    options = {o.id for o in family.options}
    for i, doc in enumerate(docs):
        at: Loc = ("grease", i)
        if doc.at not in places:
            raise source.refuse((*at, "at"), "{family} has no checkpoint '{it}'", family=family.id, it=doc.at)
        if doc.id in {d.id for d in docs[:i]}:
            raise source.refuse((*at, "id"), "point '{id}' is there twice", id=doc.id)
        for option in [*doc.options, *doc.without]:
            if option not in options:
                raise source.refuse((*at, "options"), "this family has no option '{it}'", it=option)
        for word in doc.schools:
            if word not in words:
                raise source.refuse((*at, "schools"), "no school offers '{it}'", it=word)
    return tuple(_point(doc) for doc in docs)


def _point(doc: GreasePointDoc) -> GreasePoint:
    return GreasePoint(
        doc.id,
        doc.name,
        doc.at,
        doc.fittings,
        doc.strokes,
        doc.every_h,
        frozenset(doc.options),
        frozenset(doc.without),
        frozenset(doc.schools),
    )
