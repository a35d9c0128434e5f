"""Every reading there is: importing this lists them."""

from __future__ import annotations

from jutrel.core.reading import (  # noqa: F401  (each lists its readings)
    air,
    battery,
    brakes,
    coolant,
    fuel,
    glass,
    level,
    oil,
    puddle,
    site,
    thermal,
    tyres,
    upkeep,
    wear,
)
from jutrel.core.reading.registry import READINGS, Listed, listed, run

__all__ = ["READINGS", "Listed", "listed", "run"]
