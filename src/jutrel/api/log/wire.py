"""What goes over the wire: entries as devices send them."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from jutrel.api.inspection.wire import LookNowOut
from jutrel.api.wire import NO_NUL, UUID7, In, Out, Slug
from jutrel.core.log.kinds import all_kinds, payload_schema
from jutrel.service.log.sent import Refused


def _typed(**says: Any) -> Callable[[dict[str, Any]], None]:
    """A schema that the document shows, for a field that is read by the core's own decoder."""

    def write(schema: dict[str, Any]) -> None:
        title = schema.get("description")
        schema.clear()
        schema.update(says)
        if title:
            schema["description"] = title

    return write


def _what_schema(schema: dict[str, Any]) -> None:
    """What an entry may hold: one of the declared kinds, from the core's own declarations."""
    schema.clear()
    schema["oneOf"] = [payload_schema(k) for k in all_kinds() if k.stream != "file"]


class EntryIn(BaseModel):
    """An entry as the device made it. `by` is the person's id, `at` the device's time.

    Each entry is read by itself: one that cannot be read is refused by itself. With a `seal` that is read, and nothing
    beside it; without one `by`, `at` and `what` are needed.
    """

    model_config = ConfigDict(extra="allow", json_schema_extra={"required": ["id"], "additionalProperties": False})

    id: Any = Field(default=None, json_schema_extra=_typed(type="string", format="uuid", pattern=UUID7))
    by: Any = Field(default=None, json_schema_extra=_typed(type="string", format="uuid"))
    at: Any = Field(default=None, json_schema_extra=_typed(type="string", format="date-time"))
    what: Any = Field(default=None, json_schema_extra=_what_schema)
    replaces: Any = Field(
        default=[],
        description="Ids of the entries that the author saw there and sets aside.",
        json_schema_extra=_typed(type="array", items={"type": "string", "pattern": UUID7}, maxItems=500),
    )
    offset_ms: Any = Field(
        default=None,
        description="Server's clock minus the device's when last measured; null: never.",
        json_schema_extra=_typed(anyOf=[{"type": "integer"}, {"type": "null"}]),
    )
    seal: Any = Field(
        default=None,
        description="The entry with its `machine` and `stream` as its pen signed it: compact JWS (RFC 7515), ES256.",
        json_schema_extra=_typed(type="string", maxLength=60000, pattern="^[A-Za-z0-9_.-]*$"),
    )
    encrypted: Any = Field(
        default=None,
        description="The entry as its tablet encrypted it when its author signed out; beside it stands `id` alone.",
        json_schema_extra=_typed(type="string", maxLength=90000, pattern="^encrypted[.][A-Za-z0-9_.-]*$"),
    )


Stream = Annotated[
    str,
    StringConstraints(
        pattern=r"^(defect\.)?[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}(\.[0-9]{1,2})?$"
    ),
]


class BatchIn(In):
    """Entries of one look, or of one defect (`defect.` and its id). `pens`: secrets of those who wrote them;
    `certificates`: the site's own word for pens that a database put back from a backup may not know."""

    machine: Slug
    stream: Stream
    entries: list[EntryIn] = Field(min_length=1, max_length=500)
    pens: list[Annotated[str, StringConstraints(pattern=NO_NUL, max_length=300)]] = Field(default=[], max_length=40)
    certificates: list[Annotated[str, StringConstraints(pattern=NO_NUL, max_length=4000)]] = Field(
        default=[], max_length=40
    )
    since: int | None = Field(
        default=None, ge=0, description="The place in the machine's log up to which the device knows the look."
    )


class RefusedOut(Out, of=Refused):
    pass


class TakenOut(Out):
    """What became of a batch; `look`: the look after it, if `since` asked for it."""

    stored: list[str]
    known: list[str]
    refused: list[RefusedOut]
    now: datetime = Field(description="The server's clock.")
    look: LookNowOut | None
