"""Strict plain data in and out of the core's dataclasses: what cannot be read is refused with its path.

One codec for everything that is declared once as a frozen dataclass: entries, editions, records.
It takes no string for a number, no number for a string, no field that is not declared.
"""

from __future__ import annotations

import dataclasses
import math
import re
import types
import typing
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from enum import Enum, IntEnum
from functools import cache
from typing import Annotated, Any, Literal, TypeVar, Union, get_args, get_origin

from jutrel.core.errors import BadInput, Unreadable
from jutrel.core.wording import Said, say

Plain = Any
T = TypeVar("T")
LONGEST_TEXT = 2000
NOT_ONE = say("{it} is not one of {those}").text
OUTSIDE = say("{it} is outside {low} to {high}; check the figure and its unit").text
MOST_ITEMS = 500
FIRST_YEAR, LAST_YEAR = 1970, 9000
"""Times outside cannot be turned into every zone; a device's broken clock lies inside."""


@dataclass(frozen=True, slots=True)
class Text:
    """A text's bounds: letters, and a pattern that all of it fits."""

    most: int = LONGEST_TEXT
    least: int = 0
    pattern: str = ""


WORDS = r"[\s\S]*\w[\s\S]*\w[\s\S]*"
"""A text that says something: letters or figures, and not a dot."""


@dataclass(frozen=True, slots=True)
class Between:
    """A number's bounds, both allowed."""

    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Most:
    """At most so many items."""

    items: int


Slug = Annotated[str, Text(60, 1, r"[A-Za-z0-9][A-Za-z0-9_.-]*")]
EntryId = Annotated[str, Text(36, 36, r"[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}")]


def encode(thing: object) -> Plain:
    """Turn dataclasses, enums, times and sets into dicts, words, ISO text and lists.

    >>> encode(datetime(2026, 5, 4, 6, tzinfo=UTC))
    '2026-05-04T06:00:00Z'
    """
    if isinstance(thing, IntEnum):
        return thing.name.lower()
    if isinstance(thing, Enum):
        return thing.value
    if isinstance(thing, datetime):
        return thing.astimezone(UTC).isoformat().replace("+00:00", "Z")
    if isinstance(thing, Said):
        return thing.plain()
    if dataclasses.is_dataclass(thing) and not isinstance(thing, type):
        return {f.name: encode(getattr(thing, f.name)) for f in dataclasses.fields(thing)}
    if isinstance(thing, Mapping):
        return {str(key): encode(value) for key, value in thing.items()}
    if isinstance(thing, (set, frozenset)):
        return sorted(encode(x) for x in thing)
    if isinstance(thing, (list, tuple)):
        return [encode(x) for x in thing]
    return thing


def sparse(thing: object) -> Plain:
    """As `encode`, without the fields that hold their default: `decode` puts them back.

    A field that is added to a kind later leaves what was written before as it is. A default never changes.

    >>> @dataclasses.dataclass(frozen=True)
    ... class Tap:
    ...     at: str
    ...     reason: str = ""
    >>> sparse(Tap("cab")), encode(Tap("cab"))
    ({'at': 'cab'}, {'at': 'cab', 'reason': ''})
    """
    if isinstance(thing, Said):
        return thing.plain()
    if dataclasses.is_dataclass(thing) and not isinstance(thing, type):
        told = {}
        for name, default in _defaults(type(thing)):
            value = getattr(thing, name)
            if default is dataclasses.MISSING or value != default or type(value) is not type(default):
                told[name] = sparse(value)
        return told
    if isinstance(thing, Mapping):
        return {str(key): sparse(value) for key, value in thing.items()}
    if isinstance(thing, (list, tuple)):
        return [sparse(x) for x in thing]
    return encode(thing)


@cache
def _defaults(kind: type) -> tuple[tuple[str, Any], ...]:
    """A dataclass's fields with their defaults; MISSING where one must be given."""
    out = []
    for f in dataclasses.fields(kind):
        made = f.default_factory() if f.default_factory is not dataclasses.MISSING else f.default
        out.append((f.name, made))
    return tuple(out)


def decode(kind: type[T], data: Plain, path: str = "") -> T:
    """`data` as a value of `kind`.

    Raises
    ------
    BadInput
        For the first thing that cannot be read, with its path.

    >>> decode(float, 3), decode(tuple[int, ...], [1, 2])
    (3.0, (1, 2))
    >>> decode(float, "3", "hours")
    Traceback (most recent call last):
    ...
    jutrel.core.errors.BadInput: hours: give a plain number, not '3'
    """
    return typing.cast(T, _decode(kind, data, path))


@cache
def fields_of(kind: type) -> tuple[tuple[str, Any, bool], ...]:
    """A dataclass's fields: name, type with its bounds, whether it must be given."""
    hints = typing.get_type_hints(kind, include_extras=True)
    out = []
    for f in dataclasses.fields(kind):
        needed = f.default is dataclasses.MISSING and f.default_factory is dataclasses.MISSING
        out.append((f.name, hints[f.name], needed))
    return tuple(out)


def _short(data: Plain) -> str:
    text = repr(data)
    return text if len(text) <= 60 else text[:57] + "…"


def _decode(kind: Any, data: Plain, path: str) -> Any:
    bounds: tuple[Any, ...] = ()
    if get_origin(kind) is Annotated:
        kind, *more = get_args(kind)
        bounds = tuple(more)
    origin = get_origin(kind)
    if kind is Any:
        return data
    if origin in (Union, types.UnionType):
        return _union(kind, data, path)
    if origin is Literal:
        if data not in get_args(kind) or isinstance(data, bool):
            raise BadInput(path, NOT_ONE, it=_short(data), those=", ".join(map(str, get_args(kind))))
        return data
    if kind is str:
        return _text(data, path, next((b for b in bounds if isinstance(b, Text)), Text()))
    if kind is bool:
        if not isinstance(data, bool):
            raise BadInput(path, "answer true or false")
        return data
    if kind is Said:
        return _said(data, path)
    if kind in (int, float):
        return _number(kind, data, path, next((b for b in bounds if isinstance(b, Between)), None))
    if kind is datetime:
        return time_of(path, data)
    if kind is type(None):
        if data is not None:
            raise BadInput(path, "leave it empty")
        return None
    if isinstance(kind, type) and issubclass(kind, Enum):
        return _choice(kind, data, path)
    if isinstance(kind, type) and dataclasses.is_dataclass(kind):
        return _record(kind, data, path)
    return _many(kind, origin, data, path, next((b.items for b in bounds if isinstance(b, Most)), MOST_ITEMS))


def _said(data: Plain, path: str) -> Said:
    try:
        return Said.of_plain(data)
    except Unreadable:
        raise BadInput(path, "{it} is no sentence with its values", it=_short(data)) from None


def _text(data: Plain, path: str, bounds: Text) -> str:
    if not isinstance(data, str):
        raise BadInput(path, "write it as text, not {it}", it=_short(data))
    if len(data) > bounds.most:
        raise BadInput(path, "is longer than {n} letters: shorten it", n=bounds.most)
    if len(data.strip()) < bounds.least:
        raise BadInput(path, "is empty: write something")
    if "\x00" in data or any("\ud800" <= c <= "\udfff" for c in data):
        raise BadInput(path, "holds a character that cannot be stored: write it anew")
    if bounds.pattern and not re.fullmatch(bounds.pattern, data):
        raise BadInput(path, "{it} cannot stand here", it=_short(data))
    return data


def _number(kind: type, data: Plain, path: str, bounds: Between | None) -> float | int:
    if isinstance(data, bool) or not isinstance(data, (int, float)) or (kind is int and not isinstance(data, int)):
        if kind is int:
            raise BadInput(path, "give a whole number, not {it}", it=_short(data))
        raise BadInput(path, "give a plain number, not {it}", it=_short(data))
    if abs(data) > 1e15 or not math.isfinite(data):
        raise BadInput(path, "is no figure that can be meant")
    if bounds is not None and not bounds.low <= data <= bounds.high:
        raise BadInput(path, OUTSIDE, it=data, low=bounds.low, high=bounds.high)
    return data if kind is int else float(data) + 0.0  # no negative zero: it would not come back from a database


def _choice(kind: type[Enum], data: Plain, path: str) -> Enum:
    by_word = {encode(member): member for member in kind}
    if not isinstance(data, str) or data not in by_word:
        raise BadInput(path, NOT_ONE, it=_short(data), those=", ".join(by_word))
    return by_word[data]


def time_of(path: str, data: Plain) -> datetime:
    """A UTC time from ISO 8601 text that names its zone.

    Raises
    ------
    BadInput
        If it is no such text, names no zone, or lies so far off that no zone can show it.
    """
    try:
        at = datetime.fromisoformat(data)
    except (ValueError, TypeError):
        raise BadInput(path, "{it} is not a time; write it like 2026-05-04T06:10:00Z", it=_short(data)) from None
    if at.tzinfo is None:
        raise BadInput(path, "say the zone of the time, such as the Z of 2026-05-04T06:10:00Z")
    if not FIRST_YEAR < at.year < LAST_YEAR:
        raise BadInput(path, "lies outside the years {low} to {high}", low=FIRST_YEAR, high=LAST_YEAR)
    return at.astimezone(UTC)


def _record(kind: type, data: Plain, path: str) -> Any:
    if not isinstance(data, Mapping):
        raise BadInput(path, "give fields with their values, not {it}", it=_short(data))
    known = fields_of(kind)
    names = {name for name, _, _ in known}
    for key in data:
        if key not in names:
            raise BadInput(
                _at(path, str(key)[:60]), "is not a known field; one of {those}", those=", ".join(sorted(names))
            )
    values = {}
    for name, hint, needed in known:
        if name in data:
            values[name] = _decode(hint, data[name], _at(path, name))
        elif needed:
            raise BadInput(_at(path, name), "is missing")
    return kind(**values)


def _at(path: str, name: str) -> str:
    return f"{path}.{name}" if path else name


def _union(kind: Any, data: Plain, path: str) -> Any:
    members = [m for m in get_args(kind) if m is not type(None)]
    if data is None and len(members) < len(get_args(kind)):
        return None
    if len(members) == 1:
        return _decode(members[0], data, path)
    if isinstance(data, Mapping):
        # Among records the fields tell which it is: no two of ours have the same set.
        for member in members:
            if dataclasses.is_dataclass(member) and {n for n, _, _ in fields_of(typing.cast(type, member))} >= set(
                data
            ):
                needed = {n for n, _, must in fields_of(typing.cast(type, member)) if must}
                if needed <= set(data):
                    return _decode(member, data, path)
    first: BadInput | None = None
    for member in members:
        try:
            return _decode(member, data, path)
        except BadInput as error:
            first = first or error
    raise BadInput(path, first.says if first else say("cannot be read"))


def _many(kind: Any, origin: Any, data: Plain, path: str, most: int) -> Any:
    args = get_args(kind)
    if origin is not None and isinstance(origin, type) and issubclass(origin, Mapping):
        if not isinstance(data, Mapping):
            raise BadInput(path, "give name and value pairs")
        if len(data) > most:
            raise BadInput(path, "has more than {n} fields", n=most)
        return {
            _decode(args[0], k, _at(path, str(k)[:60])): _decode(args[1], v, _at(path, str(k)[:60]))
            for k, v in data.items()
        }
    if not isinstance(data, (list, tuple)):
        raise BadInput(path, "give a list, not {it}", it=_short(data))
    if origin is tuple and (len(args) != 2 or args[1] is not Ellipsis):
        if len(data) != len(args):
            raise BadInput(path, "give {n} values", n=len(args))
        return tuple(_decode(a, x, f"{path}.{i}") for i, (a, x) in enumerate(zip(args, data, strict=True)))
    if len(data) > most:
        raise BadInput(path, "has more than {n} items", n=most)
    items = (_decode(args[0], x, f"{path}.{i}") for i, x in enumerate(data))
    return frozenset(items) if origin is frozenset else tuple(items)
