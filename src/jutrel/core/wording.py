"""What is said to people: a sentence with places for values, put into a person's language at the edge.

The sentence in English is its own key: a translation belongs to exactly these words. Where a rule says
something else today than in the edition a look is bound to, the old words are never shown under the
translation of the new ones; without a translation they are shown as they are.
"""

from __future__ import annotations

import dataclasses
import gettext
import typing
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from enum import Enum, IntEnum
from functools import cache
from typing import Any, get_args

from jutrel.core.errors import Unreadable

AS_WRITTEN = "as written"
"""The context of words that no language has another form of: a person's own, and those of an older release."""


@dataclass(frozen=True, slots=True)
class Words:
    """Marks a text field as words of the catalog, which are translated where they are shown; `context` tells which.

    >>> from jutrel.core.machine.family import Option
    >>> spoken(Option("beacon", "Beacon"), Wording("xx", {("equipment", "Beacon"): ("Leuchte",)}))
    {'id': 'beacon', 'name': 'Leuchte', 'needs': []}
    """

    context: str


@dataclass(frozen=True, slots=True)
class Number:
    """A figure in a sentence, with so many decimals and its unit.

    >>> Wording("xx", decimal=",").number(Number(12.34, 1, "L"))
    '12,3 L'
    """

    value: float
    digits: int = 0
    unit: str = ""


@dataclass(frozen=True, slots=True)
class Said:
    """A sentence for people.

    Parameters
    ----------
    text
        In English, with `{places}` for its values.
    values
        By place: a person's words, a figure, another sentence, or several to be listed.
    context
        Tells apart equal words of the catalog that mean different things.
    many
        The English sentence for other numbers than one; the value `n` decides.

    >>> str(say("{who} has {n} left", who="Ana", n=2)), str(say("{n} day", many="{n} days", n=2))
    ('Ana has 2 left', '2 days')
    """

    text: str
    values: tuple[tuple[str, Any], ...] = ()
    context: str = ""
    many: str = ""

    def __post_init__(self) -> None:
        """Values in the order of their names: equal sentences are equal, whichever way they were kept."""
        object.__setattr__(self, "values", tuple(sorted(self.values, key=lambda pair: pair[0])))

    def __str__(self) -> str:
        """In English."""
        return ENGLISH.say(self)

    def __bool__(self) -> bool:
        """Whether anything is said."""
        return bool(self.text)

    def plain(self) -> Any:
        """As plain data, for rows and files; what stands as it was written stays a bare text."""
        if self.context == AS_WRITTEN:
            return self.text
        told: dict[str, Any] = {"text": self.text}
        if self.values:
            told["values"] = {name: _plain(value) for name, value in self.values}
        if self.context:
            told["context"] = self.context
        if self.many:
            told["many"] = self.many
        return told

    @classmethod
    def of_plain(cls, data: Any) -> Said:
        """From plain data; a bare text, as older releases wrote it, stays as it is.

        Raises
        ------
        Unreadable
            If it is neither.
        """
        if isinstance(data, str):
            return as_written(data)
        if not isinstance(data, Mapping) or not isinstance(data.get("text"), str):
            raise Unreadable(data)
        values = data.get("values", {})
        if not isinstance(values, Mapping):
            raise Unreadable(values)
        pairs = tuple((str(name), _of_plain(value)) for name, value in values.items())
        return cls(data["text"], pairs, str(data.get("context", "")), str(data.get("many", "")))


def _plain(value: Any) -> Any:
    if isinstance(value, Said):
        return value.plain()
    if isinstance(value, Number):
        return {"value": value.value, "digits": value.digits, "unit": value.unit}
    if isinstance(value, tuple):
        return [_plain(v) for v in value]
    return value


def _of_plain(data: Any) -> Any:
    match data:
        case {"text": str()}:
            return Said.of_plain(data)
        case {"value": int() | float() as value, "digits": int() as digits, "unit": str() as unit}:
            return Number(float(value), digits, unit)
        case list():
            return tuple(_of_plain(d) for d in data)
        case str() | int() | float():
            return data
        case _:
            raise Unreadable(data)


NOTHING = Said("")


def say(text: str, many: str = "", context: str = "", **values: Any) -> Said:
    """A sentence with its values; what is written here in quotes is what translators are given."""
    return Said(text, tuple(values.items()), context, many)


def as_written(text: str) -> Said:
    """Words that are shown in every language as they stand.

    >>> str(as_written("{not a place}"))
    '{not a place}'
    """
    return Said(text, (), AS_WRITTEN)


def together(parts: Iterable[Said]) -> Said:
    """Sentences one after another.

    >>> str(together([say("Wet."), NOTHING, say("Look again.")]))
    'Wet. Look again.'
    """
    said = [p for p in parts if p]
    if len(said) < 2:
        return said[0] if said else NOTHING
    return Said(" ".join(f"{{s{n}}}" for n in range(len(said))), tuple((f"s{n}", p) for n, p in enumerate(said)))


class _Gaps(dict[str, str]):
    def __missing__(self, key: str) -> str:
        return "?"


@dataclass(frozen=True)
class Wording:
    """A language: its sentences by context and English text, how it counts, and how it writes figures.

    `plural` is the rule of its plural forms as translation files write it, `decimal` the mark in a figure.
    """

    language: str
    texts: Mapping[tuple[str, str], tuple[str, ...]] = field(default_factory=dict, repr=False)
    plural: str = "n != 1"
    decimal: str = "."

    def say(self, said: Said) -> str:
        """A sentence in this language; in English where it has no words for it."""
        if said.context == AS_WRITTEN or not said.text:
            return said.text
        forms = self.texts.get((said.context, said.text)) or (said.text, *([said.many] if said.many else []))
        own = forms[0] != said.text
        text = forms[0]
        if said.many:
            count = next((v for name, v in said.values if name == "n"), 0)
            text = forms[min(self._form(count, own), len(forms) - 1)]
        if not said.values:
            return text
        return text.format_map(_Gaps({name: self.value(value) for name, value in said.values}))

    def _form(self, count: Any, own: bool) -> int:
        rule = self.plural if own else "n != 1"
        return int(_counted(rule)(int(count))) if isinstance(count, (int, float)) else 0

    def word(self, context: str, text: str) -> str:
        """Words of the catalog in this language."""
        found = self.texts.get((context, text))
        return found[0] if found else text

    def value(self, value: Any) -> str:
        """A value as it stands in a sentence."""
        if isinstance(value, Said):
            return self.say(value)
        if isinstance(value, bool):
            return self.say(YES if value else NO)
        if isinstance(value, Number):
            return self.number(value)
        if isinstance(value, tuple):
            return self.listed([self.value(v) for v in value])
        if isinstance(value, (int, float)):
            return f"{value:g}".replace(".", self.decimal)
        return str(value)

    def number(self, number: Number) -> str:
        """A figure with its unit, without a negative zero."""
        rounded = round(number.value, number.digits) + 0.0
        text = f"{rounded:.{number.digits}f}".replace(".", self.decimal)
        return f"{text} {self.word('unit', number.unit)}" if number.unit else text

    def listed(self, words: list[str]) -> str:
        """Several things one after another."""
        return ", ".join(words)


YES, NO = say("yes"), say("no")
ENGLISH = Wording("en")


@cache
def _counted(rule: str) -> Callable[[int], int]:
    made: Callable[[int], int] = gettext.c2py(rule)
    return made


def context_of(hint: Any) -> str:
    """The context that a field's type is marked with, however deep; empty if it holds no words of the catalog.

    >>> from typing import Annotated
    >>> context_of(tuple[Annotated[str, Words("caution")], ...])
    'caution'
    """
    for mark in getattr(hint, "__metadata__", ()):
        if isinstance(mark, Words):
            return mark.context
    for inner in get_args(hint):
        if found := context_of(inner):
            return found
    return ""


@cache
def worded_fields(kind: type) -> tuple[tuple[str, str], ...]:
    """A dataclass's fields, each with the context of its words, empty if it holds none."""
    hints = typing.get_type_hints(kind, include_extras=True)
    return tuple((f.name, context_of(hints[f.name])) for f in dataclasses.fields(kind))


def spoken(thing: object, wording: Wording, context: str = "") -> Any:
    """As the codec's `encode`, with every sentence and every word of the catalog in a language."""
    if isinstance(thing, str) and not isinstance(thing, Enum):
        return wording.word(context, thing) if context else thing
    if isinstance(thing, Said):
        return wording.say(thing)
    if isinstance(thing, IntEnum):
        return thing.name.lower()
    if isinstance(thing, Enum):
        return thing.value
    if isinstance(thing, datetime):
        return thing.astimezone(UTC).isoformat().replace("+00:00", "Z")
    if dataclasses.is_dataclass(thing) and not isinstance(thing, type):
        return {name: spoken(getattr(thing, name), wording, of) for name, of in worded_fields(type(thing))}
    if isinstance(thing, Mapping):
        return {str(key): spoken(value, wording, context) for key, value in thing.items()}
    if isinstance(thing, (set, frozenset)):
        return sorted(spoken(x, wording, context) for x in thing)
    if isinstance(thing, (list, tuple)):
        return [spoken(x, wording, context) for x in thing]
    return thing
