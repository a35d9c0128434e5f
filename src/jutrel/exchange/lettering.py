"""Letters on paper: one font for Latin, Greek, Cyrillic and Arabic, lines in their right order, nothing left blank.

Arabic is joined and put in visual order before it is drawn. What is searched or copied from the paper are the
plain letters again: each drawn form is told as the letters that it stands for.
"""

from __future__ import annotations

import re
import unicodedata
from functools import lru_cache
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

from arabic_reshaper import ArabicReshaper
from bidi import get_display
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

FONTS = Path(__file__).parent / "fonts"
FILES = {"Body": "DejaVuSans.ttf", "Bold": "DejaVuSans-Bold.ttf"}
ROOM = 3.0
"""Points left at the end of a line that is broken here, so that it is not broken again."""
MISSING = "\u25a1"
"""Stands for a letter that the font has no picture of."""
_RTL = re.compile("[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufeff]")
_DRAWN = re.compile(r"<(\w\w)> <(F[B-E]\w\w)>")
_SHAPER = ArabicReshaper({"delete_harakat": False, "ARABIC LIGATURE ALLAH": False})


class Lettering(TTFont):  # type: ignore[misc]
    """A font whose drawn forms of Arabic letters are told as plain letters to whoever searches the page."""

    def addObjects(self, doc: Any) -> None:  # noqa: N802  (the library's name)
        """Write the font, then tell its joined forms by the letters they stand for."""
        super().addObjects(doc)
        for name, thing in doc.idToObject.items():
            if str(name).startswith("toUnicodeCMap:") and isinstance(getattr(thing, "content", None), str):
                thing.content = _DRAWN.sub(_plainly, thing.content)


def _plainly(found: re.Match[str]) -> str:
    letters = unicodedata.normalize("NFKC", chr(int(found[2], 16)))
    # Where one form stands for two letters they are read backwards with the rest of the line.
    return f"<{found[1]}> <{''.join(f'{ord(c):04X}' for c in reversed(letters))}>"


@lru_cache(maxsize=1)
def fonts() -> dict[str, Any]:
    """The fonts, ready to draw with; by name.

    Raises
    ------
    FileNotFoundError
        If `scripts/setup.sh` has not put them there.
    """
    made = {name: Lettering(name, str(FONTS / file)) for name, file in FILES.items()}
    for font in made.values():
        pdfmetrics.registerFont(font)
    pdfmetrics.registerFontFamily("Body", normal="Body", bold="Bold", italic="Body", boldItalic="Bold")
    return made


@lru_cache(maxsize=1)
def _pictures() -> frozenset[int]:
    return frozenset(fonts()["Body"].face.charToGlyph)


def visible(text: str) -> str:
    """The text with a mark for every letter that the font has no picture of."""
    have = _pictures()
    kept = (c for c in unicodedata.normalize("NFC", text) if not unicodedata.category(c).startswith("C") or c in "\n\t")
    return "".join(c if ord(c) in have or c in "\n\t\u00a0" else MISSING for c in kept)


def runs_back(text: str) -> bool:
    """Whether some of it is written from right to left."""
    return _RTL.search(text) is not None


def in_order(text: str, base: str | None = None) -> str:
    """One line as it is drawn from left to right; `base`: the direction of the line, None: of its first letter."""
    if not runs_back(text):
        return text
    joined = _SHAPER.reshape(text)
    shown: str = get_display(joined, base_dir=base)
    have = _pictures()
    return "".join(c if ord(c) in have or c.isspace() else unicodedata.normalize("NFKC", c) for c in shown)


def inline(text: object) -> str:
    """A short text to stand within a line, ready for a paragraph."""
    plain = visible(str(text))
    if not runs_back(plain):
        return escape(plain)
    return escape(in_order(plain, "L")).replace(" ", "\u00a0")


def lines(text: object, font: str, size: float, width: float) -> str:
    """A text broken to a width, each line in its right order, ready for a paragraph."""
    plain = visible(str(text))
    if not runs_back(plain):
        return escape(plain).replace("\n", "<br/>")
    fonts()
    out: list[str] = []
    for part in plain.split("\n"):
        line = ""
        for word in part.split():
            longer = f"{line} {word}".strip()
            if line and pdfmetrics.stringWidth(in_order(longer), font, size) > width - ROOM:
                out.append(line)
                longer = word
            line = longer
        out.append(line)
    return "<br/>".join(escape(in_order(line)) for line in out)
