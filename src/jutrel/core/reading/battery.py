"""Batteries: charge from the acid or the voltage, cells compared, frost."""

from __future__ import annotations

from typing import Annotated

from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.level import strapped
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, cannot, reading
from jutrel.core.wording import Number, Said, as_written, say

MEMORY = say("trade handbook, from memory")
GRAVITY = (1.120, 1.155, 1.190, 1.225, 1.265)
VOLTS = (11.89, 12.06, 12.24, 12.45, 12.65)
CHARGE = (0.0, 25.0, 50.0, 75.0, 100.0)
FREEZE_SG = (1.100, 1.150, 1.200, 1.250, 1.280)
FREEZE_BELOW = (8.0, 15.0, 27.0, 52.0, 69.0)
ONE_LEAST, ONE_MOST = 11.0, 13.4
"""What a 12 V battery that is no wreck can have at rest [V]; from memory."""
CELL_SPREAD = 0.050
"""Difference between cells [SG] that tells of a failing one; from memory."""


def at_27(gravity: float, acid_c: float) -> float:
    """Specific gravity as it would read at 27 °C: 0.0007 more for each kelvin that the acid is warmer.

    >>> round(at_27(1.250, -3), 3)
    1.229
    """
    return gravity + 0.0007 * (acid_c - 27)


def charge_of(gravity: float) -> float:
    """Charge [%] from the specific gravity at 27 °C; straight between the lines of the table, 0 and 100 outside.

    >>> charge_of(1.225), charge_of(1.30)
    (75.0, 100.0)
    """
    return min(100.0, max(0.0, strapped(GRAVITY, CHARGE, min(max(gravity, 1.0), 1.35))))


def freezes_at(gravity: float) -> float:
    """Temperature [°C] at which the acid freezes, from its specific gravity at 27 °C.

    >>> freezes_at(1.200)
    -27.0
    """
    return -min(70.0, max(0.0, strapped(FREEZE_SG, FREEZE_BELOW, gravity)))


def _judged(charge: float, freeze: float, low_c: float, figures: tuple[Figure, ...], extra: Said | None) -> Judgement:
    why = say("{charge} % charged; it would freeze at {f}.", charge=Number(charge), f=Number(freeze, 0, "°C"))
    if low_c <= freeze + 2:
        action = say("Do not charge or jump it while it may be frozen: it can burst. Take it in, thaw it, charge it.")
        return Judgement(Band.STOP, action, why, figures)
    if extra:
        return Judgement(Band.ACT, extra, why, figures)
    if charge < 50:
        return Judgement(Band.ACT, say("Charge it before the night, and find out why it is low."), why, figures)
    if charge < 75:
        return Judgement(Band.ACT, say("Charge it soon."), why, figures)
    return Judgement(Band.IN_BAND, say("Good."), why, figures)


Low = Annotated[float, Given(say("Coldest expected"), "°C", -60, 50, known=InputSource.LOW)]


@reading(
    "battery-cells",
    Topic.BATTERIES,
    say("Battery, cell by cell"),
    [MEMORY],
    {"cells": [1.262, 1.258, 1.265, 1.26, 1.205, 1.262], "acid_c": 15, "low_c": -12},
    mode="inoperative",
    control="cells",
)
def battery_cells(
    cells: Annotated[
        tuple[float, ...],
        Given(say("Specific gravity of each cell"), "", 1.0, 1.35, gauge=0.003, many=(3, 12), start=1.26),
    ],
    acid_c: Annotated[float, Given(say("Temperature of the acid"), "°C", -50, 60, known=InputSource.AIR, gauge=3)],
    low_c: Low,
) -> Reading:
    """Charge, spread between cells, and frost. Explosive gas: no flame; gloves and eyes.

    Returns the charge of the weakest cell [%].

    >>> battery_cells([1.265] * 6, 27, 0).value
    100.0
    """
    corrected = [at_27(c, acid_c) for c in cells]
    weakest, gap = min(corrected), max(corrected) - min(corrected)
    charge, freeze = charge_of(weakest), freezes_at(weakest)
    figures = (
        Figure(say("weakest cell at 27 °C"), weakest, as_written("SG")),
        Figure(say("between cells"), gap, as_written("SG")),
        Figure(say("charge"), charge, as_written("%")),
        Figure(say("freezes at"), freeze, as_written("°C")),
    )
    failing = gap > CELL_SPREAD
    extra = say("Cell {n} is failing: have the battery changed.", n=corrected.index(weakest) + 1) if failing else None
    low, high = charge_of(weakest - 0.006), charge_of(weakest + 0.006)
    found = ("inoperative", {"works": "intermittent" if failing else "weak"}) if failing or charge < 50 else None
    return Reading(charge, "%", _judged(charge, freeze, low_c, figures, extra), low, high, found, {"spread": gap})


@reading(
    "battery-volts",
    Topic.BATTERIES,
    say("Battery by its voltage"),
    [MEMORY],
    {"volts": 25.1, "in_series": 2, "rested_min": 90, "low_c": -8},
    mode="inoperative",
    control="dial",
)
def battery_volts(
    volts: Annotated[float, Given(say("Voltage across all, no load"), "V", 0, 60, gauge=0.02, start=25)],
    rested_min: Annotated[float, Given(say("Minutes since it was charged or loaded"), "min", 0, 100_000, start=480)],
    low_c: Low,
    in_series: Annotated[float, Given(say("12 V batteries in series"), "", 1, 4, whole=True)] = 2.0,
) -> Reading:
    """Charge from the resting voltage: an hour without charge or load; two in series double it.

    >>> round(battery_volts(25.30, 90, 0).value or 0), battery_volts(25.3, 10, 0).judgement.band.value
    (100, 'refused')
    """
    if rested_min < 60:
        return cannot(
            "%",
            say("Let it rest an hour without load, then measure again."),
            say("Fresh from charging or under load the voltage says nothing about the charge."),
        )
    one = volts / in_series
    others = [n for n in (1, 2, 3, 4) if n != in_series and ONE_LEAST <= volts / n <= ONE_MOST]
    if not ONE_LEAST <= one <= ONE_MOST and others:
        n, m = int(in_series), others[0]
        says = say(
            "Say how many 12 V batteries are in series: {v} is what {m} would have, not {n}.",
            v=Number(volts, 1, "V"),
            m=m,
            n=n,
        )
        return cannot("%", says, say("By the wrong number a good battery looks dead."))

    def charge_at(v: float) -> float:
        return min(100.0, max(0.0, strapped(VOLTS, CHARGE, min(max(v, 10.0), 13.5))))

    charge = charge_at(one)
    freeze = freezes_at(strapped(CHARGE, GRAVITY, charge))
    figures = (
        Figure(say("one battery"), one, as_written("V")),
        Figure(say("charge"), charge, as_written("%")),
        Figure(say("freezes at"), freeze, as_written("°C")),
    )
    found = ("inoperative", {"works": "weak"}) if charge < 50 else None
    off = 2 * 0.02 / in_series
    judged = _judged(charge, freeze, low_c, figures, None)
    return Reading(charge, "%", judged, charge_at(one - off), charge_at(one + off), found)
