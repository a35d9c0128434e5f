"""Which language somebody is answered in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path

from jutrel.catalog.texts import Language, Sentence, lacking, read_languages
from jutrel.catalog.whole import Catalog
from jutrel.core.wording import ENGLISH, Wording

__all__ = ["Language", "Languages", "Sentence"]


class Languages:
    """The languages of this installation: those that ship, and those of a folder of the site's own."""

    def __init__(self, more: Path | None = None) -> None:
        self.by_code: Mapping[str, Language] = read_languages(more)

    def wording(self, code: str) -> Wording:
        """A language by its code; English if it is not here."""
        found = self.by_code.get(code) or self.by_code.get(code.split("-")[0])
        return found.wording if found else ENGLISH

    def choose(self, header: str | None) -> Wording:
        """The language that a request asks for first among those that are here (RFC 9110, Accept-Language)."""
        for code in accepted(header or ""):
            for one in (code, code.split("-")[0]):
                if one in self.by_code:
                    return self.by_code[one].wording
        return ENGLISH

    def lacking(self, code: str, catalog: Catalog) -> tuple[Sequence[Sentence], Sequence[str], int, int]:
        """What a language has no words for: sentences, the pages' texts by their path, and of how many of each."""
        return lacking(self.by_code[code], catalog)


def accepted(header: str) -> list[str]:
    """Codes of an Accept-Language header, the most wanted first.

    >>> accepted("es-MX, en;q=0.5, pl;q=0.9")
    ['es-MX', 'pl', 'en']
    """
    asked: list[tuple[float, int, str]] = []
    for place, part in enumerate(header[:200].split(",")):
        code, _, weight = part.strip().partition(";q=")
        try:
            asked.append((-float(weight or 1), place, code.strip()))
        except ValueError:
            continue
    return [code for _, _, code in sorted(asked) if code]
