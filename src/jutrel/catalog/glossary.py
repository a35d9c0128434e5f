"""Reading the glossary."""

from __future__ import annotations

from pathlib import Path

from pydantic import Field

from jutrel.catalog.documents.base import Document, Text
from jutrel.catalog.files import SourceFile
from jutrel.core.glossary import Term


class TermDoc(Document):
    say: Text
    found: list[Text]
    di: Text
    encuentra: list[Text]
    never: list[Text] = Field(default=[], alias="not")
    nunca: list[Text] = Field(default=[], alias="no")


class GlossaryFile(Document):
    terms: list[TermDoc] = Field(min_length=1)


def load_glossary(folder: Path) -> tuple[Term, ...]:
    """The terms of a catalog folder.

    Raises
    ------
    BadFile
        For a thing that has two entries.
    """
    source = SourceFile(folder / "glossary.yaml")
    terms: dict[str, Term] = {}
    for i, t in enumerate(source.parse(GlossaryFile).terms):
        if t.say in terms:
            raise source.refuse(("terms", i, "say"), "'{id}' is there twice", id=t.say)
        never, nunca = tuple(t.never), tuple(t.nunca)
        terms[t.say] = Term(t.say, tuple(t.found), t.di, tuple(t.encuentra), never, nunca)
    return tuple(terms.values())
