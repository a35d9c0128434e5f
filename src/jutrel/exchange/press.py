"""How a page is set: sentences and dates in the reader's language, paragraphs in the styles of the record."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from babel import Locale, UnknownLocaleError
from babel.dates import format_datetime
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Paragraph

from jutrel.core.wording import Said, Wording, say
from jutrel.exchange.drawn import INK
from jutrel.exchange.lettering import fonts, inline, lines

WIDE = 174 * mm


def zone_name(zone: ZoneInfo, at: datetime) -> str:
    """A zone at a time as people say it: hours and minutes ahead of or behind UTC.

    >>> from datetime import UTC
    >>> zone_name(ZoneInfo("Etc/GMT-1"), datetime(2026, 5, 4, tzinfo=UTC))
    'UTC+1'
    """
    minutes = round((at.astimezone(zone).utcoffset() or timedelta()).total_seconds() / 60)
    if minutes == 0:
        return "UTC"
    hours, rest = divmod(abs(minutes), 60)
    return f"UTC{'+' if minutes > 0 else '−'}{hours}{f':{rest:02}' if rest else ''}"


@dataclass(frozen=True, slots=True)
class RecordWords:
    """What is read where the record holds ids: failure modes, what is observed, and its values by observation."""

    modes: Mapping[str, str] = field(default_factory=dict)
    observed: Mapping[str, str] = field(default_factory=dict)
    values: Mapping[tuple[str, str], str] = field(default_factory=dict)

    def told(self, key: str, value: object, wording: Wording) -> str:
        """An observation with its value."""
        what = self.observed.get(key, key.replace("_", " ")).strip("¿? ")
        said = wording.value(value) if isinstance(value, (bool, int, float)) else str(value)
        return f"{what}: {self.values.get((key, str(value)), said)}"


NO_WORDS = RecordWords()


class Press:
    """Sets pages in one language, with the times of one zone."""

    def __init__(self, wording: Wording, zone: ZoneInfo, words: RecordWords) -> None:
        fonts()
        self.wording, self.zone, self.words = wording, zone, words
        try:
            self.locale = Locale.parse(wording.language, sep="-")
        except (UnknownLocaleError, ValueError):
            self.locale = Locale("en", "GB")
        self.body, self.small = style("body", 9), style("small", 7.5, spaceAfter=1)
        self.head = style("head", 11, font="Bold", spaceBefore=8, spaceAfter=4)
        self.title, self.cell = style("title", 17, font="Bold"), style("cell", 7.6)
        self.inset = style("inset", 7.5, spaceAfter=1, leftIndent=9 * mm)

    def say(self, text: str, many: str = "", context: str = "", **values: Any) -> str:
        """A sentence of the page."""
        return self.wording.say(say(text, many, context, **values))

    def said(self, said: Said) -> str:
        """A sentence of the core."""
        return self.wording.say(said)

    def date(self, at: datetime | None, pattern: str = "d MMM y HH:mm") -> str:
        """A time in the site's zone."""
        return format_datetime(at.astimezone(self.zone), pattern, locale=self.locale) if at else "–"

    def p(self, text: object, of: ParagraphStyle, width: float = WIDE) -> Paragraph:
        """A paragraph; `width`: what it has to stand in."""
        return Paragraph(lines(text, of.fontName, of.fontSize, width - of.leftIndent), of)

    def parts(self, of: ParagraphStyle, *parts: str) -> Paragraph:
        """A paragraph of parts that are marked up already."""
        return Paragraph("".join(parts), of)


def bold(text: object) -> str:
    """Marked up to stand out."""
    return f"<b>{inline(text)}</b>"


def soft(text: object) -> str:
    """Marked up to stand back."""
    return f"<font color='#5a6b70'>{inline(text)}</font>"


def style(name: str, size: float, **more: Any) -> ParagraphStyle:
    """A paragraph style of the record."""
    font = more.pop("font", "Body")
    return ParagraphStyle(name, fontName=font, fontSize=size, leading=size * 1.35, textColor=INK, **more)
