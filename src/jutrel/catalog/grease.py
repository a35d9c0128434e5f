"""Loading where each family is greased by hand, and checking that every point is on it."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from pathlib import Path

from jutrel.catalog.documents.procedures import GreaseFile, GreasePointDoc
from jutrel.catalog.files import Loc, SourceFile
from jutrel.core.machine.family import Family
from jutrel.core.procedure.greasing import GreasePoint


def load_points(
    path: Path, families: Mapping[str, Family], words: Collection[str]
) -> dict[str, tuple[GreasePoint, ...]]:  # fmt: skip
    """Where each family is greased by hand.

    Raises
    ------
    BadFile
        For a place, an option or a school that is not there, a point that is there twice, a family without points.
    """
    source = SourceFile(path)
    file = source.parse(GreaseFile).points
    out: dict[str, tuple[GreasePoint, ...]] = {}
    for family in families.values():
        places = {c.id for c in family.checkpoints}
        options = {o.id for o in family.options}
        docs = file.get(family.id, [])
        if not docs:
            raise source.refuse(("points",), "nothing says where {family} is greased", family=family.id)
        for i, doc in enumerate(docs):
            at: Loc = ("points", family.id, i)
            if doc.at not in places:
                raise source.refuse((*at, "at"), "{family} has no checkpoint '{it}'", family=family.id, it=doc.at)
            if doc.id in {d.id for d in docs[:i]}:
                raise source.refuse((*at, "id"), "point '{id}' is there twice", id=doc.id)
            for option in [*doc.options, *doc.without]:
                if option not in options:
                    raise source.refuse((*at, "options"), "none of these families has an option '{it}'", it=option)
            for word in doc.schools:
                if word not in words:
                    raise source.refuse((*at, "schools"), "no school offers '{it}'", it=word)
        out[family.id] = tuple(_point(doc) for doc in docs)
    return out


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
