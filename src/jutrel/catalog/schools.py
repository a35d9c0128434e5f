"""Loading where good hands differ, and checking that every choice is one."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from jutrel.catalog.documents.procedures import SchoolsFile
from jutrel.catalog.files import Loc, SourceFile
from jutrel.catalog.traits import Traits, having
from jutrel.core.machine.family import Family
from jutrel.core.procedure.school import School, SchoolChoice


def load_schools(path: Path, families: Mapping[str, Family], traits: Traits) -> tuple[School, ...]:
    """Where good hands differ, in the order of the file.

    Raises
    ------
    BadFile
        For a choice or a trait that is not there, or a question that is there twice.
    """
    source = SourceFile(path)
    its = {f.id: f.traits for f in families.values()}
    out: list[School] = []
    for i, doc in enumerate(source.parse(SchoolsFile).schools):
        at: Loc = ("schools", i)
        if doc.id in {s.id for s in out}:
            raise source.refuse((*at, "id"), "school '{id}' is there twice", id=doc.id)
        for name in doc.traits:
            if name not in traits.by_id:
                raise source.refuse((*at, "traits"), "there is no trait '{name}'", name=name)
        if doc.traits and not having(its, doc.traits):
            raise source.refuse((*at, "traits"), "no family has one of these traits: nobody would be asked")
        places = {c.id for f in families.values() for c in f.checkpoints}
        for j, name in enumerate(doc.at):
            if name not in places:
                raise source.refuse((*at, "at", j), "no family has a checkpoint '{it}'", it=name)
        choices = tuple(SchoolChoice(c.id, c.name, c.why, c.minutes) for c in doc.choices)
        if doc.usual not in {c.id for c in choices}:
            raise source.refuse((*at, "usual"), "it offers no choice '{it}'", it=doc.usual)
        whose, places_of = having(its, doc.traits), tuple(doc.at)
        out.append(School(doc.id, doc.asks, doc.why, choices, doc.usual, whose, doc.by_model, places_of))
    return tuple(out)
