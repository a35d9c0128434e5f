"""What was seen at a checkpoint, and what the place was like."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Annotated

from jutrel.core.log.codec import Between, Most, Slug, Text

Word = Annotated[str, Text(60)]
Value = bool | float | Word
Prose = Annotated[str, Text(2000)]
Degrees = Annotated[float, Between(-45, 45)]
Celsius = Annotated[float, Between(-60, 60)]
Gap = Annotated[float, Between(0, 30)] | None
Hours = Annotated[float, Between(0, 200_000)]


class Answer(StrEnum):
    """What was found at a checkpoint."""

    SOUND = "sound"
    DEFECT = "defect"
    UNSEEN = "unseen"


@dataclass(frozen=True, slots=True)
class PutRight:
    """What was done about it on the spot: in words, and how much of what."""

    done: Annotated[str, Text(400, 1)]
    amount: Annotated[str, Text(80)] = ""


@dataclass(frozen=True, slots=True)
class Finding:
    """A defect as it was seen: its failure mode, what was observed of it, and whether it was put right at once."""

    failure_mode: Slug
    attributes: Annotated[Mapping[Slug, Value], Most(24)] = field(default_factory=dict)
    note: Prose = ""
    put_right: PutRight | None = None


@dataclass(frozen=True, slots=True)
class Conditions:
    """What the place is like, said on the approach. Angles [°], temperatures [°C], times [h].

    Gaps [m] to what stands beside it; None: nothing does.
    """

    air_c: Celsius = 15.0
    pitch_deg: Degrees = 0.0
    roll_deg: Degrees = 0.0
    dark: bool = False
    rain: bool = False
    people_on_foot: bool = False
    shift_hours: Annotated[float, Between(0.5, 24)] = 10.0
    moved: bool = False
    serviced: bool = False
    transported: bool = False
    frost: bool = False
    gap_left: Gap = None
    gap_right: Gap = None
    gap_rear: Gap = None
    gap_front: Gap = None
