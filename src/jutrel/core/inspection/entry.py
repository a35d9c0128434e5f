"""The entries of an inspection's log. An entry is made once, on the device, and never changed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from enum import StrEnum

Value = bool | float | int | str


class Answer(StrEnum):
    """What was found at a checkpoint."""

    SOUND = "sound"
    DEFECT = "defect"
    UNSEEN = "unseen"


class Role(StrEnum):
    """What a person may do."""

    OPERATOR = "operator"
    MECHANIC = "mechanic"
    SUPERVISOR = "supervisor"
    TRAINER = "trainer"
    ADMINISTRATOR = "administrator"


@dataclass(frozen=True, slots=True)
class Finding:
    """A defect as it was seen: its failure mode and what was observed of it."""

    failure_mode: str
    attributes: Mapping[str, Value] = field(default_factory=dict)
    note: str = ""


@dataclass(frozen=True, slots=True)
class Conditions:
    """What the place is like, said on the approach. Angles [°], temperatures [°C], times [h].

    Gaps [m] to what stands beside it; None: nothing does.
    """

    air_c: float = 15.0
    pitch_deg: float = 0.0
    roll_deg: float = 0.0
    dark: bool = False
    rain: bool = False
    people_on_foot: bool = False
    shift_hours: float = 10.0
    moved: bool = False
    serviced: bool = False
    transported: bool = False
    frost: bool = False
    gap_left: float | None = None
    gap_right: float | None = None
    gap_rear: float | None = None
    gap_front: float | None = None


@dataclass(frozen=True, slots=True)
class Carried:
    """A finding still open from an earlier inspection.

    `reports`: how often it was reported; `unmended`: how often of these as Mend or worse.
    """

    checkpoint: str
    finding: Finding
    grade: str
    since: datetime
    by: str
    reports: int = 1
    unmended: int = 0
    due_hour: float | None = None


@dataclass(frozen=True, slots=True)
class Changed:
    """A checkpoint at which something is otherwise than at the look before, and what."""

    checkpoint: str
    says: str


@dataclass(frozen=True, slots=True)
class Opened:
    """The walk begins. `hour_meter` [h] as read.

    `meter_offset` [h] is what earlier hour meters had run up before this one was fitted.
    `own_limits` are this unit's figures where they differ from its model's.
    """

    hour_meter: float
    conditions: Conditions
    options: frozenset[str]
    carried: tuple[Carried, ...] = ()
    purpose: str = "pre-start"
    """The kind of inspection."""
    changed: tuple[Changed, ...] = ()
    meter_offset: float = 0.0
    own_limits: Mapping[str, float | str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Answered:
    """A checkpoint's answer; replaces any earlier one. `amends` is the reason, after signing."""

    checkpoint: str
    answer: Answer
    findings: tuple[Finding, ...] = ()
    reason: str = ""
    amends: str = ""


@dataclass(frozen=True, slots=True)
class Measured:
    """A level read at a gauge: seen 0 (low mark) to 1 (full mark), oil [°C], rods 0 to 1 out."""

    checkpoint: str
    seen: float
    oil_c: float
    pitch_deg: float
    roll_deg: float
    extensions: Mapping[str, float]
    amends: str = ""


@dataclass(frozen=True, slots=True)
class Arrived:
    """The person stands at a station."""

    station: str


@dataclass(frozen=True, slots=True)
class Noted:
    """A remark on a checkpoint, or on the whole walk if `checkpoint` is empty."""

    text: str
    checkpoint: str = ""


@dataclass(frozen=True, slots=True)
class Photographed:
    """A picture, kept under `photo`."""

    photo: str
    checkpoint: str


@dataclass(frozen=True, slots=True)
class Undone:
    """Takes one earlier entry back; possible until the walk is signed."""

    target: str


@dataclass(frozen=True, slots=True)
class Signed:
    """The person stands by the entries in `covers` and read the verdict `outcome`."""

    covers: frozenset[str]
    outcome: str


Payload = Opened | Answered | Measured | Arrived | Noted | Photographed | Undone | Signed


@dataclass(frozen=True, slots=True)
class Entry:
    """One entry: a UUIDv7 made on the device, who, when (UTC), and what."""

    id: str
    by: str
    role: Role
    at: datetime
    what: Payload
