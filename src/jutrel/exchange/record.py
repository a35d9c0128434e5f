"""The record of one inspection as an open JSON document."""

from __future__ import annotations

import json
from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from jutrel.core.grading.verdict import Outcome
from jutrel.core.inspection.finding import Answer
from jutrel.core.inspection.look import Status
from jutrel.core.people import Role


class RecordPart(BaseModel):
    """A part of the record; unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")


class RecordSite(RecordPart):
    id: str
    name: str
    zone: str = Field(description="Time zone for display; all times in the record are UTC.")
    key: str = Field(
        default="", description="The public half of the site's key (SPKI, base64url): it vouches for pens."
    )


class RecordMachine(RecordPart):
    id: str
    name: str
    maker: str
    model: str
    model_id: str
    family: str
    options: list[str]
    own_limits: dict[str, float | str] = Field(description="This unit's figures where they differ from its model's.")
    model_file: str | None = Field(description="The model's file, if the site wrote it itself.")


class RecordPerson(RecordPart):
    id: str
    name: str
    role: Role


class RecordEntry(RecordPart):
    id: str = Field(description="UUIDv7 made on the device.")
    seq: int = Field(description="Place in the machine's log.")
    stream: str = Field(description="The look, file or defect it belongs to.")
    kind: str
    by: str
    role: Role = Field(description="The author's, as of the entry.")
    at: datetime = Field(description="The device's time.")
    offset_ms: int | None = Field(description="Server's clock minus device's clock when last measured.")
    heard_at: datetime = Field(description="Its time as far as the server can vouch for.")
    received_at: datetime
    replaces: list[str] = Field(description="Ids of entries that its author saw there and sets aside.")
    sent_by: str
    device: str = Field(description="A label, nothing more.")
    pen: str
    what: dict[str, Any] = Field(description="The entry's own fields; see docs/record.md.")
    pins: dict[str, Any] | None = Field(description="What the look is bound to; on its first entry.")
    prev: str
    hash: str = Field(description="SHA-256 over the canonical form of all of it.")
    told: dict[str, float] = Field(
        default={},
        description="On a reading: what the machine's own instruments told, where the hand said otherwise.",
    )
    came: dict[str, Any] | None = Field(
        default=None, description="On a reading: what it came to by the rules of the time when it came in."
    )
    seal: str = Field(
        default="",
        description="The device's part of it as its pen signed it: compact JWS (RFC 7515), ES256; empty: not signed.",
    )


class RecordCheckpoint(RecordPart):
    id: str
    name: str
    station: str
    system: str
    mandatory: bool
    answer: Answer | None = Field(description="Null if it was not looked at.")
    grade: Literal["sound", "watch", "mend", "limit", "hold"]
    by: str | None
    at: datetime | None
    note: str
    photos: list[str]


class RecordPhoto(RecordPart):
    id: str
    checkpoint: str
    sha256: str | None = Field(description="Of the JPEG; null if the photo has not arrived.")


class RecordVerdict(RecordPart):
    outcome: Outcome
    why: str
    limits: list[str]
    items: list[dict[str, Any]] = Field(description="Graded findings, worst first, each with its trace.")
    combined: list[dict[str, Any]]
    released: list[dict[str, Any]] = Field(description="What was set aside in this look: by whom, by what right.")
    ignored: list[dict[str, Any]] = Field(description="Entries without the right to what they say: kept, not counted.")
    differ: list[str] = Field(description="Checkpoints at which people differ.")
    left: list[str] = Field(description="Mandatory checkpoints not looked at.")
    levels: list[Any] = Field(description="Pairs of checkpoint id and corrected level.")
    valid_until: datetime | None
    valid_until_hour: float | None
    rulebook: str = Field(description="Version of the rulebook; changes with any rule.")
    regime: str
    view: dict[str, Any] | None = Field(default=None, description="What cannot be seen from the seat, if anything.")
    readings: list[dict[str, Any]] = Field(default=[], description="Readings in force, with figures and judgement.")


class Record(RecordPart):
    """Everything about one inspection, complete in itself: it can be graded again from this file."""

    format: Literal["jutrel-record"] = "jutrel-record"
    version: Literal[2] = 2
    inspection: str
    status: Status
    site: RecordSite
    machine: RecordMachine
    people: list[RecordPerson]
    kind: str = Field(description="Kind of inspection.")
    kind_name: str
    hour_meter: float = Field(description="Hours on the meter when the walk began.")
    meter_offset: float = Field(description="Hours that earlier meters had run up.")
    language: str = Field(default="en", description="Language of its words; in a signed one the signer's.")
    conditions: dict[str, bool | float | None]
    edition: str = Field(description="Hash of the rules and the model that the look is bound to.")
    entries: list[RecordEntry]
    earlier: list[dict[str, Any]] = Field(description="Reports of earlier looks that were open.")
    pens: dict[str, str] = Field(
        default={},
        description="By a pen's id: the site's word for it, a compact JWS (RFC 7515), ES256, by the site's key.",
    )
    others: list[RecordEntry] = Field(description="Entries of other looks that speak of these reports.")
    shifts: dict[str, tuple[datetime, float]] = Field(description="When the shifts of these looks began; hours.")
    holds_until: datetime | None = Field(
        default=None, description="Until when a signature lets it hold by the clock: the end of its shift."
    )
    checkpoints: list[RecordCheckpoint]
    photos: list[RecordPhoto]
    notes: list[str] = Field(description="Ids of the notes that stand.")
    verdict: RecordVerdict
    caution: str


def record_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a record."""
    schema = Record.model_json_schema(mode="serialization")
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}


def written(record: object) -> bytes:
    """A record as a document: the same bytes for the same content.

    Examples
    --------
    >>> written({"b": 1, "a": "é"}).decode()
    '{\\n "a": "é",\\n "b": 1\\n}'
    """
    return json.dumps(record, indent=1, sort_keys=True, ensure_ascii=False).encode()
