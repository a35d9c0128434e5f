"""Plain data in and out: what JSON can hold, to and from the core's types."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping
from datetime import UTC, datetime
from enum import Enum
from typing import Any

from jutrel.core.errors import BadInput
from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.entry import (
    Answer,
    Answered,
    Arrived,
    Carried,
    Changed,
    Conditions,
    Entry,
    Finding,
    Measured,
    Noted,
    Opened,
    Payload,
    Photographed,
    Role,
    Signed,
    Undone,
)

Plain = Any


def to_plain(thing: object) -> Plain:
    """Turn dataclasses, enums, times and sets into dicts, words, ISO text and lists.

    >>> to_plain(Finding("leak", {"leak_class": "I"}))
    {'failure_mode': 'leak', 'attributes': {'leak_class': 'I'}, 'note': ''}
    """
    if isinstance(thing, Grade):
        return thing.word
    if isinstance(thing, Enum):
        return thing.value
    if isinstance(thing, datetime):
        return thing.astimezone(UTC).isoformat().replace("+00:00", "Z")
    if dataclasses.is_dataclass(thing) and not isinstance(thing, type):
        return {f.name: to_plain(getattr(thing, f.name)) for f in dataclasses.fields(thing)}
    if isinstance(thing, Mapping):
        return {str(key): to_plain(value) for key, value in thing.items()}
    if isinstance(thing, (set, frozenset)):
        return sorted(to_plain(x) for x in thing)
    if isinstance(thing, (list, tuple)):
        return [to_plain(x) for x in thing]
    return thing


def time_of(field: str, text: object) -> datetime:
    """A UTC time from ISO 8601 text that names its zone."""
    try:
        at = datetime.fromisoformat(str(text))
    except ValueError:
        raise BadInput(field, f"'{text}' is not a time; write it like 2026-05-04T06:10:00Z") from None
    if at.tzinfo is None:
        raise BadInput(field, "say the zone of the time, such as the Z of 2026-05-04T06:10:00Z")
    return at.astimezone(UTC)


def _get(data: Mapping[str, Plain], field: str) -> Plain:
    if field not in data:
        raise BadInput(field, "is missing")
    return data[field]


def finding_of(data: Mapping[str, Plain]) -> Finding:
    """A finding from plain data."""
    attributes = data.get("attributes") or {}
    if not isinstance(attributes, Mapping):
        raise BadInput("attributes", "give name and value pairs")
    return Finding(str(_get(data, "failure_mode")), dict(attributes), str(data.get("note", "")))


def conditions_of(data: Mapping[str, Plain]) -> Conditions:
    """Conditions from plain data; what is not said has its default."""
    known = {f.name for f in dataclasses.fields(Conditions)}
    for key in data:
        if key not in known:
            raise BadInput(f"conditions.{key}", f"is not known; one of {', '.join(sorted(known))}")
    return Conditions(**data)


def carried_of(data: Mapping[str, Plain]) -> Carried:
    """An open finding from plain data."""
    due = data.get("due_hour")
    return Carried(
        str(_get(data, "checkpoint")),
        finding_of(_get(data, "finding")),
        str(_get(data, "grade")),
        time_of("since", _get(data, "since")),
        str(_get(data, "by")),
        int(data.get("reports", 1)),
        int(data.get("unmended", 0)),
        None if due is None else float(due),
    )


def payload_of(kind: str, data: Mapping[str, Plain]) -> Payload:
    """An entry's payload from its kind and plain data.

    Raises
    ------
    BadInput
        For an unknown kind, or a field that is missing or wrong.

    >>> payload_of("arrived", {"station": "rear"})
    Arrived(station='rear')
    """
    match kind:
        case "opened":
            return Opened(
                float(_get(data, "hour_meter")),
                conditions_of(data.get("conditions") or {}),
                frozenset(data.get("options") or ()),
                tuple(carried_of(c) for c in data.get("carried") or ()),
                str(data.get("purpose") or "pre-start"),
                tuple(Changed(str(c["checkpoint"]), str(c["says"])) for c in data.get("changed") or ()),
                float(data.get("meter_offset") or 0.0),
                dict(data.get("own_limits") or {}),
            )
        case "answered":
            word = _get(data, "answer")
            if word not in set(Answer):
                raise BadInput("answer", f"'{word}' is not one of {', '.join(Answer)}")
            return Answered(
                str(_get(data, "checkpoint")),
                Answer(word),
                tuple(finding_of(f) for f in data.get("findings") or ()),
                str(data.get("reason", "")),
                str(data.get("amends", "")),
            )
        case "measured":
            return Measured(
                str(_get(data, "checkpoint")),
                float(_get(data, "seen")),
                float(_get(data, "oil_c")),
                float(_get(data, "pitch_deg")),
                float(_get(data, "roll_deg")),
                {str(k): float(v) for k, v in _get(data, "extensions").items()},
                str(data.get("amends", "")),
            )
        case "arrived":
            return Arrived(str(_get(data, "station")))
        case "noted":
            return Noted(str(_get(data, "text")), str(data.get("checkpoint", "")))
        case "photographed":
            return Photographed(str(_get(data, "photo")), str(_get(data, "checkpoint")))
        case "undone":
            return Undone(str(_get(data, "target")))
        case "signed":
            return Signed(frozenset(_get(data, "covers")), str(_get(data, "outcome")))
    raise BadInput("kind", f"'{kind}' is not a kind of entry")


def entry_of(data: Mapping[str, Plain]) -> Entry:
    """An entry from plain data: id, by, role, at, kind and the payload's own fields under `what`."""
    role = data.get("role", "operator")
    if role not in set(Role):
        raise BadInput("role", f"'{role}' is not one of {', '.join(Role)}")
    return Entry(
        str(_get(data, "id")),
        str(_get(data, "by")),
        Role(role),
        time_of("at", _get(data, "at")),
        payload_of(str(_get(data, "kind")), _get(data, "what")),
    )
