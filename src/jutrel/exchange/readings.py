"""Readings as they go over the wire: written figures understood, inputs described as JSON Schema."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from jutrel.core.errors import BadInput
from jutrel.core.reading.all import Listed, listed
from jutrel.core.reading.registry import Input, Reading, Topic, run
from jutrel.core.wording import Said, say
from jutrel.exchange.units import measured

TOPICS = {
    Topic.TYRES: say("Tyres and wheels"),
    Topic.LEVELS: say("Levels"),
    Topic.OIL: say("Oil"),
    Topic.LEAKS: say("Leaks"),
    Topic.COOLANT: say("Coolant"),
    Topic.BATTERIES: say("Batteries"),
    Topic.AIR: say("Air and belts"),
    Topic.FUEL: say("Fuel and DEF"),
    Topic.WEAR: say("Wear"),
    Topic.BRAKES: say("Brakes"),
    Topic.GROUND: say("Ground, sound, light"),
    Topic.START: say("Start and stop"),
    Topic.UPKEEP: say("Upkeep"),
}


def topic_name(topic: Topic) -> Said:
    """A topic as it is read."""
    return TOPICS[topic]


@dataclass(frozen=True, slots=True)
class TakenReading:
    """A reading, and its inputs as they were understood, in the list's units."""

    reading: Reading
    inputs: dict[str, Any]


def understood(of: Listed, given: Mapping[str, Any]) -> dict[str, Any]:
    """Inputs with written figures ("92 psi") turned into the list's units; the rest as it is.

    Raises
    ------
    BadInput
        For a figure that cannot be read, or a unit that measures something else.
    """
    out: dict[str, Any] = {}
    for key, value in given.items():
        one = of.input(key)
        out[key] = value if one is None else _understood(one, key, value)
    return out


def _understood(one: Input, field: str, value: Any) -> Any:
    if one.choices or one.flag or value is None:
        return value
    if isinstance(value, str):
        if one.given.many:
            raise BadInput(field, "give a list of numbers, not {it}", it=repr(value)[:40])
        return measured(field, value, one.given.unit)
    if isinstance(value, (list, tuple)):
        return [measured(f"{field}.{n}", v, one.given.unit) if isinstance(v, str) else v for n, v in enumerate(value)]
    return value


def take(key: str, given: Mapping[str, Any]) -> TakenReading:
    """Take a reading from inputs as people and programs give them.

    >>> round(take("tyre-pressure", {"pressure": "92 psi", "cold": 560, "tyre_c": "115 °F"}).reading.value)
    574
    """
    inputs = understood(listed(key), given)
    return TakenReading(run(key, inputs), {k: v for k, v in inputs.items() if v is not None})


def input_schema(of: Listed) -> dict[str, Any]:
    """The JSON Schema (2020-12) of a reading's inputs; a figure may also be written with its unit.

    >>> from jutrel.core.reading.all import READINGS
    >>> input_schema(READINGS["tyre-pressure"])["required"]
    ['pressure', 'cold', 'tyre_c']
    """
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "type": "object",
        "properties": {one.key: _schema(one) for one in of.inputs},
        "required": [one.key for one in of.inputs if one.needed],
        "additionalProperties": False,
    }


def listing(of: Listed) -> dict[str, Any]:
    """A reading as the list tells of it: what for, what goes in, an example that runs, where it is from."""
    return {
        "key": of.key,
        "topic": of.topic.value,
        "title": str(of.title),
        "summary": of.summary,
        "modes": list(of.modes),
        "example": dict(of.example),
        "sources": [str(s) for s in of.sources],
        "inputs": input_schema(of),
    }


def _schema(one: Input) -> dict[str, Any]:
    told: dict[str, Any] = {"title": str(one.given.name)}
    if str(one.given.help):
        told["description"] = str(one.given.help)
    if one.choices:
        return {**told, "enum": list(one.choices)}
    if one.flag:
        return {**told, "type": "boolean"}
    figure: dict[str, Any] = {
        "anyOf": [
            {"type": "integer" if one.given.whole else "number", "minimum": one.given.low, "maximum": one.given.high},
            {"type": "string", "maxLength": 60},
        ]
    }
    if one.given.unit:
        told["x-unit"] = one.given.unit
    if one.given.many:
        least, most = one.given.many
        return {**told, "type": "array", "items": figure, "minItems": least, "maxItems": most}
    return {**told, **figure}
