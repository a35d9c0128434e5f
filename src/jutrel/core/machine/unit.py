"""One unit of a site as it stands today, and the site."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from jutrel.core.log.entry import Limit
from jutrel.core.machine.state import Newest, Standing


class UnitSystem(StrEnum):
    """What people usually read on a site."""

    METRIC = "metric"
    US = "us"


@dataclass(frozen=True, slots=True)
class SiteInfo:
    """A job: its name, the time zone of its people, its regime, the usual shift [h], the usual units, the
    numbers to call in an emergency (who, which), when its shifts begin by the clock on the wall and how long they
    last [h]."""

    id: str
    name: str
    zone: str
    regime: str
    shift_hours: float
    units: UnitSystem = UnitSystem.METRIC
    numbers: tuple[tuple[str, str], ...] = ()
    shifts: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True, slots=True)
class Unit:
    """A machine today, as its log tells it. `hours`, `offset` [h]: over all meters, and on earlier ones.

    `seq` and `head` are the last link of its log; `newest` are the looks that say whether it may go.
    """

    id: str
    name: str
    model_id: str
    options: frozenset[str]
    own_limits: Mapping[str, Limit] = field(default_factory=dict)
    bay: int = 0
    active: bool = True
    photo: str | None = None
    hours: float = 0.0
    offset: float = 0.0
    standing: Standing = field(default_factory=Standing)
    seq: int = 0
    head: str = ""
    newest: Newest = field(default_factory=Newest)
