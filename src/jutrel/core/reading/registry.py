"""Every reading, declared once beside its function: what goes in, what comes out, where it is from.

A reading is an ordinary typed function. Its annotations say what each input is called, its unit, what can be meant
and where its value can come from by itself; the decorator `reading` reads them, checks every call against them, and
lists the function. The API, the command line, the pages, the log entry and the record ask this list.
"""

from __future__ import annotations

import inspect
import types
import typing
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from functools import wraps
from typing import Any, ParamSpec, Union, get_args, get_origin

from jutrel.core.amounts import ABSOLUTE_ZERO_C, number
from jutrel.core.errors import BadInput
from jutrel.core.inspection.finding import Value
from jutrel.core.reading.judgement import Band, Judgement
from jutrel.core.wording import NOTHING, Said

P = ParamSpec("P")
Plain = bool | float | str | Sequence[float]


class Topic(StrEnum):
    """The groups in which readings are listed."""

    TYRES = "tyres"
    LEVELS = "levels"
    OIL = "oil"
    LEAKS = "leaks"
    COOLANT = "coolant"
    BATTERIES = "batteries"
    AIR = "air"
    FUEL = "fuel"
    WEAR = "wear"
    BRAKES = "brakes"
    GROUND = "ground"
    START = "start"
    UPKEEP = "upkeep"


class InputSource(StrEnum):
    """Where the value of an input can come from by itself. A person can always say otherwise."""

    AIR = "air"
    """Air temperature, told on the approach or by the weather station."""
    LOW = "low"
    """The coldest temperature expected until the next shift."""
    HUMIDITY = "humidity"
    PITCH = "pitch"
    ROLL = "roll"
    SHIFT = "shift"
    """Hours of the shift."""
    ALTITUDE = "altitude"
    """Height of the site above the sea."""
    LATITUDE = "latitude"
    LONGITUDE = "longitude"
    TIME = "time"
    """Now, as hours since the start of the year 2000, UTC."""
    HOURS = "hours"
    """The machine's hours."""
    LAST = "last"
    """The same figure at the last reading of this unit."""
    SINCE_LAST = "since-last"
    """Days since the last reading of this unit."""
    SERIES = "series"
    """This figure at earlier readings of this unit, oldest first."""
    SERIES_HOURS = "series-hours"
    """The machine's hours at those readings."""


@dataclass(frozen=True, slots=True)
class Given:
    """An input. Numbers within `low`..`high` in `unit`; `many`: so few to so many of them.

    `gauge`: how well it is usually read, one standard deviation. `start`: where a control begins; it is nobody's
    reading until a hand has moved it, and no default.
    """

    name: Said
    unit: str = ""
    low: float = 0.0
    high: float = 1e6
    help: Said = NOTHING
    known: InputSource | None = None
    gauge: float = 0.0
    many: tuple[int, int] | None = None
    start: float | None = None
    whole: bool = False
    """Whether only whole numbers can be meant: it is counted."""
    without: str = ""
    """Another input: where that one is known, this one is not asked for."""


@dataclass(frozen=True, slots=True)
class Input:
    """An input of a listed reading: its key, what it is, its default, its choices if it is chosen."""

    key: str
    given: Given
    default: Plain | None
    needed: bool
    choices: tuple[str, ...] = ()
    flag: bool = False


@dataclass(frozen=True, slots=True)
class Reading:
    """What a reading came to.

    `value` in `unit` with the range that uncertain inputs leave; None where it cannot be judged so. `finding`: the
    failure mode and attributes it amounts to, which are graded like any other. `more`: further figures by name.
    """

    value: float | None
    unit: str
    judgement: Judgement
    low: float | None = None
    high: float | None = None
    finding: tuple[str, Mapping[str, Value]] | None = None
    more: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Listed:
    """A reading in the list. `modes`: failure modes that its findings can have; `example`: inputs that work."""

    key: str
    topic: Topic
    title: Said
    inputs: tuple[Input, ...]
    sources: tuple[Said, ...]
    example: Mapping[str, Plain]
    modes: tuple[str, ...]
    control: str
    trend: str
    """The figure that joins the unit's series: `value` or one of `more`; empty: none."""
    trend_unit: str
    """Its unit, where it is one of `more`."""
    weather: str
    """The input [°C] with which the figure moves in a sound machine; empty: none, or the reading takes it out."""
    run: Callable[..., Reading]

    @property
    def summary(self) -> str:
        """The first line of its function's docstring."""
        return inspect.cleandoc(self.run.__doc__ or "").split("\n", 1)[0]

    def input(self, key: str) -> Input | None:
        """The input of that key."""
        return next((i for i in self.inputs if i.key == key), None)


READINGS: dict[str, Listed] = {}


def reading(
    key: str,
    topic: Topic,
    title: Said,
    sources: Sequence[Said],
    example: Mapping[str, Plain],
    *,
    mode: str = "",
    control: str = "",
    trend: str = "value",
    trend_unit: str = "",
    weather: str = "",
) -> Callable[[Callable[P, Reading]], Callable[P, Reading]]:
    """List a function as a reading; each call is checked against what its annotations say."""

    def declare(function: Callable[P, Reading]) -> Callable[P, Reading]:
        inputs = inputs_of(function)
        signature = inspect.signature(function)

        @wraps(function)
        def checked(*args: P.args, **kwargs: P.kwargs) -> Reading:
            bound = signature.bind(*args, **kwargs)
            for one in inputs:
                if one.key in bound.arguments:
                    bound.arguments[one.key] = check(one, bound.arguments[one.key])
            return function(*bound.args, **bound.kwargs)

        modes = tuple(mode.split())
        listed = Listed(
            key,
            topic,
            title,
            inputs,
            tuple(sources),
            dict(example),
            modes,
            control,
            trend,
            trend_unit,
            weather,
            checked,
        )
        if key in READINGS:
            raise ValueError(f"reading '{key}' is listed twice")
        READINGS[key] = listed
        return checked

    return declare


def inputs_of(function: Callable[..., Reading]) -> tuple[Input, ...]:
    """The inputs that a function's annotations declare."""
    hints = typing.get_type_hints(function, include_extras=True)
    out = []
    for name, parameter in inspect.signature(function).parameters.items():
        hint = hints[name]
        given = next(m for m in hint.__metadata__ if isinstance(m, Given))
        kind = get_args(hint)[0]
        if get_origin(kind) in (Union, types.UnionType):
            kind = next(k for k in get_args(kind) if k is not types.NoneType)
        choices = tuple(c.value for c in kind) if isinstance(kind, type) and issubclass(kind, StrEnum) else ()
        needed = parameter.default is inspect.Parameter.empty
        default = None if needed else parameter.default
        out.append(Input(name, given, default, needed, choices, kind is bool))
    return tuple(out)


def check(one: Input, value: Any) -> Any:
    """The value of an input if it can be; raises BadInput naming the input and what is allowed."""
    if value is None and not one.needed:
        return None
    given = one.given
    if one.choices:
        if value not in one.choices:
            raise BadInput(
                one.key, "'{it}' is no choice; one of {those}", it=str(value)[:40], those=", ".join(one.choices)
            )
        return value
    if one.flag:
        if not isinstance(value, bool):
            raise BadInput(one.key, "give yes or no, not {it}", it=repr(value)[:40])
        return value
    if given.many is None:
        return _figure(one.key, given, value)
    if isinstance(value, (str, bytes)) or not isinstance(value, Sequence):
        raise BadInput(one.key, "give a list of numbers, not {it}", it=repr(value)[:40])
    least, most = given.many
    if not least <= len(value) <= most:
        raise BadInput(one.key, "give {least} to {most} numbers; these are {n}", least=least, most=most, n=len(value))
    return tuple(_figure(f"{one.key}.{n}", given, v) for n, v in enumerate(value))


def _figure(field_name: str, given: Given, value: Any) -> float:
    figure = number(field_name, value)
    if given.unit == "°C" and figure <= ABSOLUTE_ZERO_C:
        raise BadInput(field_name, "{it} °C is below absolute zero; check the figure and its unit", it=figure)
    if given.whole and figure != int(figure):
        raise BadInput(field_name, "give a whole number, not {it}", it=figure)
    return number(field_name, figure, given.low, given.high)


def listed(key: str) -> Listed:
    """The reading of that key; raises BadInput naming those there are."""
    found = READINGS.get(key)
    if found is None:
        raise BadInput(
            "reading", "'{it}' is no reading; one of {those}", it=key[:60], those=", ".join(sorted(READINGS))
        )
    return found


def run(key: str, values: Mapping[str, Any]) -> Reading:
    """Take a reading with these inputs by name.

    Raises
    ------
    BadInput
        For a reading that is not there, an input that is not known, missing, or cannot be.
    """
    one = listed(key)
    known = {i.key for i in one.inputs}
    for name in values:
        if name not in known:
            raise BadInput(name, "is no input of '{key}'; it takes {those}", key=key, those=", ".join(sorted(known)))
    missing = [i.key for i in one.inputs if i.needed and values.get(i.key) is None]
    if missing:
        raise BadInput(missing[0], "is needed")
    return one.run(**{k: v for k, v in values.items() if v is not None})


def cannot(unit: str, action: Said, why: Said) -> Reading:
    """A reading that cannot be judged as it was taken: what to do so that it can, and why."""
    return Reading(None, unit, Judgement(Band.REFUSED, action, why))
