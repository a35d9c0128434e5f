"""How a reading ends: what it means, in one sentence, and the figures behind it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from jutrel.core.wording import Said


class Band(StrEnum):
    """In band: leave it. Act: do something. Stop: do not start. Refused: it cannot be judged so."""

    IN_BAND = "in-band"
    ACT = "act"
    STOP = "stop"
    REFUSED = "refused"


@dataclass(frozen=True, slots=True)
class Figure:
    """One step of the arithmetic, in the unit that it is shown in."""

    name: Said
    value: float
    unit: Said


@dataclass(frozen=True, slots=True)
class Judgement:
    """The band, the action in one sentence, why, and the figures."""

    band: Band
    action: Said
    why: Said
    figures: tuple[Figure, ...] = ()
