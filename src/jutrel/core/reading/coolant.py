"""Coolant: how cold it may get, and how far it is from boiling."""

from __future__ import annotations

import math
from enum import StrEnum
from typing import Annotated

from jutrel.core.amounts import ABSOLUTE_ZERO_C
from jutrel.core.errors import BadInput
from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.level import strapped
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, reading
from jutrel.core.reading.spread import spread
from jutrel.core.reading.tyres import atmosphere
from jutrel.core.wording import Number, as_written, say

MELINDER = say("Melinder, thermophysical properties of aqueous solutions, as in CoolProp; margin: common practice")
IF97 = say("IAPWS-IF97 region 4; the mix boils later than water, so water is the safe side")
MARGIN_K = 5.0
SHARES = (0.0, 5.0, 10.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0, 45.0, 50.0, 55.0, 60.0)
FREEZES = {
    "ethylene": (0.0, 1.58, 3.36, 5.44, 7.95, 10.97, 14.58, 18.84, 23.81, 29.52, 35.99, 43.22, 51.2),
    "propylene": (0.03, 1.21, 2.87, 4.87, 7.17, 9.79, 12.79, 16.32, 20.57, 25.77, 32.19, 40.16, 50.0),
}
"""Kelvin under 0 °C at which ice begins to form, by mass per cent of glycol in water."""
DENSITY = {"ethylene": 1.113, "propylene": 1.036, "water": 0.998}
"""kg/L at 20 °C; common handbook figures."""


class Glycol(StrEnum):
    """What the coolant is made with."""

    ETHYLENE = "ethylene"
    PROPYLENE = "propylene"


def mass_share(volume_share: float, glycol: str) -> float:
    """Mass per cent of a mix whose volume per cent before mixing is known.

    >>> round(mass_share(50, "ethylene"), 1)
    52.7
    """
    g, w = volume_share * DENSITY[glycol], (100 - volume_share) * DENSITY["water"]
    return 100 * g / (g + w)


def freeze_point(mass: float, glycol: str) -> float:
    """Temperature [°C] at which ice begins to form in a mix of that mass per cent, up to 60 %.

    >>> freeze_point(50, "ethylene")
    -35.99
    """
    return -strapped(SHARES, FREEZES[glycol], mass)


@reading(
    "coolant-freeze",
    Topic.COOLANT,
    say("Coolant against frost"),
    [MELINDER],
    {"glycol": "ethylene", "mass": 45, "low_c": -22},
    mode="contamination",
    control="refractometer",
    trend="value",
)
def coolant_freeze(
    low_c: Annotated[float, Given(say("Coldest night expected"), "°C", -60, 50, known=InputSource.LOW, gauge=1.5)],
    glycol: Annotated[Glycol, Given(say("Made with"))] = Glycol.ETHYLENE,
    mass: Annotated[float | None, Given(say("Glycol by mass"), "%", 0, 100, gauge=2)] = None,
    volume: Annotated[float | None, Given(say("Glycol by volume, as on a can or strip"), "%", 0, 100, gauge=2)] = None,
    read_c: Annotated[float | None, Given(say("Freeze point read on the refractometer"), "°C", -70, 5, gauge=2)] = None,
) -> Reading:
    """The freeze point of the coolant against the coldest night expected, less 5 K; over 60 % is a finding too.

    Give one of mass, volume or the refractometer's own figure. Returns the freeze point [°C].

    >>> coolant_freeze(-22, mass=45).judgement.band.value, coolant_freeze(-30, mass=45).judgement.band.value
    ('in-band', 'act')
    """
    given = [x for x in (mass, volume, read_c) if x is not None]
    if len(given) != 1:
        raise BadInput("mass", "give one of mass, volume or read_c; these are {n}", n=len(given))
    share = mass if mass is not None else mass_share(volume, glycol) if volume is not None else None
    if share is not None and share > 60:
        why = say("Over 60 % it freezes earlier again, carries less heat and blocks fine passages.")
        action = say("Too strong: have it thinned with the right water until it is near half and half.")
        return Reading(
            None, "°C", Judgement(Band.ACT, action, why), None, None, ("contamination", {"dirt_in_fluid": "trace"})
        )
    if share is not None:
        at: float = share
        freeze = freeze_point(at, glycol)
        wide = spread(lambda m: freeze_point(min(max(m, 0.0), 60.0), glycol), [at], [2.0])
    else:
        freeze, wide = float(read_c or 0.0), 4.0
    spare = low_c - freeze
    figures = (
        Figure(say("freezes at"), freeze, as_written("°C")),
        Figure(say("give or take"), wide, as_written("K")),
        Figure(say("above that the coldest night stays"), spare, as_written("K")),
    )
    why = say(
        "Ice begins at {f}; {low} are expected, and {m} are kept to spare.",
        f=Number(freeze, 0, "°C"),
        low=Number(low_c, 0, "°C"),
        m=Number(MARGIN_K, 0, "K"),
    )
    if spare < 0:
        action = say("Do not leave it out tonight: it would freeze and split the block. Have it made stronger.")
        return Reading(
            freeze,
            "°C",
            Judgement(Band.ACT, action, why, figures),
            freeze - wide,
            freeze + wide,
            ("contamination", {"dirt_in_fluid": "trace"}),
        )
    if spare < MARGIN_K:
        action = say("Too little to spare: have it made stronger before the night.")
        return Reading(
            freeze,
            "°C",
            Judgement(Band.ACT, action, why, figures),
            freeze - wide,
            freeze + wide,
            ("contamination", {"dirt_in_fluid": "trace"}),
        )
    words = Judgement(Band.IN_BAND, say("Good for that night."), why, figures)
    return Reading(freeze, "°C", words, freeze - wide, freeze + wide)


def water_boils(pressure: float) -> float:
    """Temperature [°C] at which water boils under an absolute pressure [kPa]: IAPWS-IF97, region 4, backward.

    >>> round(water_boils(100.0), 3), round(water_boils(101.325 + 103.4), 2)
    (99.606, 120.95)
    """
    n = (
        0.11670521452767e4,
        -0.72421316703206e6,
        -0.17073846940092e2,
        0.12020824702470e5,
        -0.32325550322333e7,
        0.14915108613530e2,
        -0.48232657361591e4,
        0.40511340542057e6,
        -0.23855557567849,
        0.65017534844798e3,
    )
    b: float = (pressure / 1000) ** 0.25
    e = b * b + n[2] * b + n[5]
    f = n[0] * b * b + n[3] * b + n[6]
    g = n[1] * b * b + n[4] * b + n[7]
    d = 2 * g / (-f - math.sqrt(f * f - 4 * e * g))
    return (n[9] + d - math.sqrt((n[9] + d) ** 2 - 4 * (n[8] + n[9] * d))) / 2 + ABSOLUTE_ZERO_C


@reading(
    "coolant-boil",
    Topic.COOLANT,
    say("How far from boiling?"),
    [IF97],
    {"coolant_c": 96, "cap": 103.4},
    mode="broken",
    control="dial",
    trend="",
)
def coolant_boil(
    coolant_c: Annotated[float, Given(say("Temperature of the coolant"), "°C", -50, 150, gauge=2, start=85)],
    cap: Annotated[float, Given(say("Pressure stamped on the cap"), "kPa", 0, 250)],
    altitude: Annotated[float, Given(say("Height above the sea"), "m", -400, 5000, known=InputSource.ALTITUDE)] = 0.0,
    holds: Annotated[bool, Given(say("Cap and seal are whole"))] = True,
) -> Reading:
    """Kelvin between the coolant and boiling, under the cap's pressure; a cracked cap holds none.

    >>> round(coolant_boil(96, 103.4).value or 0, 1)
    25.0
    """
    boils = water_boils(atmosphere(altitude) + (cap if holds else 0.0))
    spare = boils - coolant_c
    figures = (Figure(say("boils at"), boils, as_written("°C")), Figure(say("to spare"), spare, as_written("K")))
    why = say("Under this cap water boils at {b}.", b=Number(boils, 0, "°C"))
    found = None if holds else ("broken", {"broken": "cracked"})
    if spare < 4:
        words = Judgement(Band.STOP, say("Take the load off, idle, and keep the cap shut. Find out why."), why, figures)
    elif not holds:
        words = Judgement(
            Band.ACT, say("Have a new cap fitted, cold: without its pressure the coolant boils early."), why, figures
        )
    elif spare < 12:
        words = Judgement(Band.ACT, say("Close to boiling: less load, look at fan and fins."), why, figures)
    else:
        words = Judgement(Band.IN_BAND, say("Far enough from boiling."), why, figures)
    return Reading(spare, "K", words, spare - 4, spare + 4, found)
