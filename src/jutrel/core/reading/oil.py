"""Oil: which grade for the cold that is coming, and how thick it is now."""

from __future__ import annotations

import math
from enum import StrEnum
from typing import Annotated

from jutrel.core.amounts import ABSOLUTE_ZERO_C
from jutrel.core.errors import BadInput
from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, reading
from jutrel.core.wording import Number, as_written, say

CRANKING_C = {"0W": -35, "5W": -30, "10W": -25, "15W": -20, "20W": -15, "25W": -10}
"""Temperatures [°C] at which cranking viscosity is tested, by W grade: SAE J300 (from memory)."""
PUMPING_BELOW = 5.0
HEATER_H = 3.0
"""So long a block heater is on before the start [h]; common practice, the engine's manual comes first."""
GENTLE, LOAD = 1000.0, 100.0
"""mm²/s up to which implements may be moved gently, and may be loaded: common practice."""
J300 = say("SAE J300 (from memory)")
D341 = say("ASTM D341; 1000 and 100 mm²/s: common practice")


class Winter(StrEnum):
    """The W grade of an engine oil."""

    W0 = "0W"
    W5 = "5W"
    W10 = "10W"
    W15 = "15W"
    W20 = "20W"
    W25 = "25W"


@reading("oil-grade", Topic.OIL, say("Oil grade for the cold"), [J300], {"grade": "15W", "low_c": -18}, trend="")
def oil_grade(
    grade: Annotated[Winter, Given(say("The figure with the W on the oil"))],
    low_c: Annotated[float, Given(say("Lowest temperature expected"), "°C", -60, 50, known=InputSource.LOW, gauge=2)],
    heater: Annotated[bool, Given(say("Block heater plugged in"))] = False,
    heater_h: Annotated[float, Given(say("Hours that it is on before the start"), "h", 0, 72)] = 0.0,
) -> Reading:
    """Whether an engine with this oil can be started in the cold that is expected.

    Returns how far the expected low stays above the lowest cranking temperature [K]. A block heater warms the coolant,
    and the oil in the sump only slowly: it helps between cranking and pumping limit, on for three hours or more.

    >>> oil_grade(Winter.W15, -18).value, oil_grade(Winter.W15, -24).judgement.band.value
    (2.0, 'stop')
    >>> [oil_grade(Winter.W15, c, True, 4).judgement.band.value for c in (-22, -32)]
    ['in-band', 'stop']
    """
    crank = CRANKING_C[grade]
    spare = low_c - crank
    fits = next((g for g in reversed(CRANKING_C) if CRANKING_C[g] <= low_c), "0W")
    figures = (
        Figure(say("lowest for cranking"), crank, as_written("°C")),
        Figure(say("lowest for pumping"), crank - PUMPING_BELOW, as_written("°C")),
        Figure(say("to spare"), spare, as_written("K")),
    )
    why = say(
        "{grade} cranks down to {crank} and pumps down to {pump}; {low} are expected.",
        grade=str(grade),
        crank=Number(crank, 0, "°C"),
        pump=Number(crank - PUMPING_BELOW, 0, "°C"),
        low=Number(low_c, 0, "°C"),
    )
    if spare >= 4:
        words = Judgement(Band.IN_BAND, say("This oil will do."), why, figures)
    elif heater and spare < -PUMPING_BELOW:
        says = say(
            "Under its pumping limit: whether a block heater warms the sump cannot be told. {use} oil if the manual "
            "allows it, or a heater at the sump.",
            use=as_written(fits),
        )
        words = Judgement(Band.STOP, says, why, figures)
    elif heater and heater_h < HEATER_H:
        says = say("With the block heater on for {n} or more before the start it will do.", n=Number(HEATER_H, 0, "h"))
        words = Judgement(Band.ACT, says, why, figures)
    elif heater:
        words = Judgement(Band.IN_BAND, say("With the block heater on that long it will do."), why, figures)
    elif spare >= 0:
        words = Judgement(Band.ACT, say("It is close: plug the block heater in tonight."), why, figures)
    else:
        use = as_written(fits)
        words = Judgement(
            Band.STOP,
            say("Too thick for that cold: use the block heater, or {use} oil if the manual allows it.", use=use),
            why,
            figures,
        )
    return Reading(spare, "K", words, spare - 4, spare + 4)


def d341(v40: float, v100: float) -> tuple[float, float]:
    """A and B of log10 log10(ν + 0.7) = A - B·log10 T from ν at 40 and 100 °C [mm²/s].

    >>> a, b = d341(46, 6.8)
    >>> round(10 ** (10 ** (a - b * math.log10(353.15))) - 0.7, 2)
    11.1
    """
    t40, t100 = (math.log10(t - ABSOLUTE_ZERO_C) for t in (40.0, 100.0))
    w40, w100 = (math.log10(math.log10(v + 0.7)) for v in (v40, v100))
    slope = (w40 - w100) / (t100 - t40)
    return w40 + slope * t40, slope


def viscosity_at(celsius: float, v40: float, v100: float) -> float:
    """Kinematic viscosity [mm²/s] at a temperature [°C], ASTM D341.

    >>> round(viscosity_at(0, 109, 14.6)), round(viscosity_at(80, 109, 14.6), 2)
    (1308, 24.73)
    """
    a, b = d341(v40, v100)
    return float(10 ** (10 ** (a - b * math.log10(celsius - ABSOLUTE_ZERO_C))) - 0.7)


def temperature_for(viscosity: float, v40: float, v100: float) -> float:
    """The temperature [°C] at which an oil is as thick as that [mm²/s]; the inverse of `viscosity_at`.

    >>> round(temperature_for(viscosity_at(25, 46, 6.8), 46, 6.8), 6)
    25.0
    """
    a, b = d341(v40, v100)
    return float(10 ** ((a - math.log10(math.log10(viscosity + 0.7))) / b) + ABSOLUTE_ZERO_C)


@reading(
    "oil-viscosity", Topic.OIL, say("How thick is the oil?"), [D341], {"oil_c": 0, "v40": 46, "v100": 6.8}, trend=""
)
def oil_viscosity(
    oil_c: Annotated[float, Given(say("Temperature of the oil"), "°C", -50, 150, known=InputSource.AIR, gauge=3)],
    v40: Annotated[float, Given(say("Viscosity at 40 °C, from its sheet"), "mm²/s", 2, 2000)] = 46.0,
    v100: Annotated[float, Given(say("Viscosity at 100 °C, from its sheet"), "mm²/s", 1, 200)] = 6.8,
) -> Reading:
    """How thick an oil is now, and from what temperature implements may be moved and loaded.

    >>> oil_viscosity(0).judgement.band.value, oil_viscosity(-20).judgement.band.value
    ('act', 'stop')
    """
    if v100 >= v40:
        raise BadInput("v100", "an oil is thinner at 100 °C than at 40 °C; check which is which")
    now = viscosity_at(oil_c, v40, v100)
    gentle, load = temperature_for(GENTLE, v40, v100), temperature_for(LOAD, v40, v100)
    figures = (
        Figure(say("now"), now, as_written("mm²/s")),
        Figure(say("may be moved gently from"), gentle, as_written("°C")),
        Figure(say("may be loaded from"), load, as_written("°C")),
    )
    why = say(
        "At {t} it has {v}; gently from {gentle}, under load from {load}.",
        t=Number(oil_c, 0, "°C"),
        v=Number(now, 0, "mm²/s"),
        gentle=Number(gentle, 0, "°C"),
        load=Number(load, 0, "°C"),
    )
    if now > GENTLE:
        words = Judgement(Band.STOP, say("Let it idle: no implement is moved yet."), why, figures)
    elif now > LOAD:
        words = Judgement(Band.ACT, say("Move each tool slowly, with no load on it."), why, figures)
    else:
        words = Judgement(Band.IN_BAND, say("Warm enough to work."), why, figures)
    low, high = viscosity_at(oil_c + 6, v40, v100), viscosity_at(oil_c - 6, v40, v100)
    return Reading(now, "mm²/s", words, low, high, None, {"gentle": gentle, "load": load})
