"""Kinds of entries: each declared once, with the stream it belongs to and who may write it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import TypeVar

from jutrel.core.errors import BadInput
from jutrel.core.log.codec import Plain, decode
from jutrel.core.log.schema import Schema, record_schema
from jutrel.core.people import Role


class StreamKind(StrEnum):
    """What a stream of entries is about."""

    LOOK = "look"
    FILE = "file"
    DEFECT = "defect"


@dataclass(frozen=True, slots=True)
class EntryKind:
    """A kind of entry: its name, the dataclass that holds it, its stream, who may write it."""

    name: str
    payload: type
    stream: StreamKind
    roles: frozenset[Role]


_BY_NAME: dict[str, EntryKind] = {}
_BY_TYPE: dict[type, EntryKind] = {}
P = TypeVar("P")


def kind(name: str, stream: StreamKind, roles: frozenset[Role]) -> Callable[[type[P]], type[P]]:
    """Declare a dataclass as a kind of entry."""

    def declare(payload: type[P]) -> type[P]:
        made = EntryKind(name, payload, stream, roles)
        _BY_NAME[name] = _BY_TYPE[payload] = made
        return payload

    return declare


def kind_named(name: str) -> EntryKind:
    """The kind of that name; raises BadInput naming those there are."""
    found = _BY_NAME.get(name)
    if found is None:
        raise BadInput(
            "kind", "'{it}' is not a kind of entry; one of {those}", it=name[:40], those=", ".join(sorted(_BY_NAME))
        )
    return found


def kind_of(payload: object) -> EntryKind:
    """The kind that a payload is of."""
    return _BY_TYPE[type(payload)]


def all_kinds() -> Iterator[EntryKind]:
    """Every declared kind, by name."""
    return iter(sorted(_BY_NAME.values(), key=lambda k: k.name))


def payload_of(name: str, data: Plain) -> object:
    """An entry's payload from its kind and plain data; raises BadInput."""
    return decode(kind_named(name).payload, data)


def payload_schema(of: EntryKind) -> Schema:
    """The JSON Schema of a kind's payload as it goes over the wire: its fields and its kind."""
    return record_schema(of.payload, {"kind": {"const": of.name}})
