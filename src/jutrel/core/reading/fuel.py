"""Fuel and DEF: enough for the shift, water by breathing, strength and use."""

from __future__ import annotations

import math
from enum import StrEnum
from typing import Annotated

from jutrel.core.amounts import ABSOLUTE_ZERO_C
from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, reading
from jutrel.core.wording import NOTHING, Number, as_written, say

COMMON = say("common practice")
ASHRAE = say("ASHRAE Handbook of Fundamentals, saturation pressure over water and ice")
ISO_22241 = say("ISO 22241-1: 31.8 to 33.2 % urea; use as a share of fuel: common practice")
RESERVE = 0.15


class Work(StrEnum):
    """How hard the shift is on the engine."""

    LIGHT = "light"
    MEDIUM = "medium"
    HARD = "hard"


SHARE_OF_HARD = {"light": 0.45, "medium": 0.7, "hard": 1.0}
"""Fuel burnt as a share of what hard work takes; common practice."""


@reading(
    "fuel-shift",
    Topic.FUEL,
    say("Fuel for the shift"),
    [COMMON],
    {"seen": 0.45, "tank": 380, "hard_burn": 28, "work": "medium", "shift_hours": 10},
    mode="level",
    control="tube",
    trend="in_tank",
    trend_unit="L",
)
def fuel_shift(
    seen: Annotated[float, Given(say("How full: 0 empty, 1 full"), "", 0, 1, gauge=0.03, start=0.5)],
    tank: Annotated[float, Given(say("Tank"), "L", 5, 6000)],
    hard_burn: Annotated[float, Given(say("Burnt an hour under hard work"), "L/h", 0.5, 400)],
    shift_hours: Annotated[float, Given(say("Hours of the shift"), "h", 0.25, 24, known=InputSource.SHIFT)],
    work: Annotated[Work, Given(say("How hard the work is"))] = Work.MEDIUM,
) -> Reading:
    """Whether the fuel lasts the shift with 15 % of the tank to spare, and how much to order for tonight.

    Returns the litres left over at the end of the shift, above the reserve.

    >>> round(fuel_shift(0.45, 380, 28, 10).value or 0)
    -82
    """
    inside, burn = seen * tank, hard_burn * SHARE_OF_HARD[work]
    need, reserve = burn * shift_hours, RESERVE * tank
    left = inside - need - reserve
    wide = math.hypot(2 * 0.03 * tank, 0.2 * need)
    lasts = max(0.0, (inside - reserve) / burn)
    order = min(tank, max(0.0, tank - max(0.0, inside - need)))
    figures = (
        Figure(say("in the tank"), inside, as_written("L")),
        Figure(say("for the shift"), need, as_written("L")),
        Figure(say("kept in reserve"), reserve, as_written("L")),
        Figure(say("to order for tonight"), order, as_written("L")),
    )
    why = say(
        "{inside} in it, {need} for {h} of this work, {reserve} kept in reserve.",
        inside=Number(inside, 0, "L"),
        need=Number(need, 0, "L"),
        h=Number(shift_hours, 0, "h"),
        reserve=Number(reserve, 0, "L"),
    )
    more = {"in_tank": inside, "order": order, "hours": lasts}
    if inside < 0.05 * tank:
        words = Judgement(Band.ACT, say("Fill it before it starts: a tank run dry draws air and dirt."), why, figures)
        return Reading(left, "L", words, left - wide, left + wide, ("level", {"low_level": "very-low"}), more)
    if left < 0:
        action = say(
            "Not enough for the shift: it lasts {h}. Order about {order}.",
            h=Number(lasts, 1, "h"),
            order=Number(order, 0, "L"),
        )
        words = Judgement(Band.ACT, action, why, figures)
        return Reading(left, "L", words, left - wide, left + wide, ("level", {"low_level": "low"}), more)
    action = say("Enough. Fill it tonight: order about {order}.", order=Number(order, 0, "L"))
    return Reading(left, "L", Judgement(Band.IN_BAND, action, why, figures), left - wide, left + wide, None, more)


@reading(
    "spray-water",
    Topic.FUEL,
    say("Spray water for the shift"),
    [COMMON],
    {"seen": 0.9, "tank": 300, "flow": 4, "share": 20, "shift_hours": 10, "low_c": 6},
    mode="level",
    control="tube",
    trend="in_tank",
    trend_unit="L",
)
def spray_water(
    seen: Annotated[float, Given(say("How full: 0 empty, 1 full"), "", 0, 1, gauge=0.03, start=0.5)],
    tank: Annotated[float, Given(say("Tank"), "L", 5, 20_000)],
    flow: Annotated[float, Given(say("What the nozzles spray"), "L/min", 0.1, 400)],
    shift_hours: Annotated[float, Given(say("Hours of the shift"), "h", 0.25, 24, known=InputSource.SHIFT)],
    low_c: Annotated[float, Given(say("Lowest temperature tonight"), "°C", -60, 40, known=InputSource.LOW)],
    share: Annotated[float, Given(say("How much of the shift it sprays"), "%", 1, 100)] = 25.0,
) -> Reading:
    """Whether the spray water lasts the shift, how often it is filled, and whether it is drained tonight for frost.

    Returns the litres left over at the end of the shift.

    >>> round(spray_water(0.9, 300, 4, 10, 6, share=20).value or 0)
    -210
    """
    inside = seen * tank
    need = flow * 60 * shift_hours * share / 100
    left, wide = inside - need, math.hypot(2 * 0.03 * tank, 0.2 * need)
    fills = math.ceil(max(0.0, need - tank) / tank)
    lasts = inside / (flow * 60 * share / 100)
    figures = (
        Figure(say("in the tank"), inside, as_written("L")),
        Figure(say("for the shift"), need, as_written("L")),
        Figure(say("lasts"), lasts, as_written("h")),
    )
    why = say("{inside} in it, {need} for this shift.", inside=Number(inside, 0, "L"), need=Number(need, 0, "L"))
    frost = say(" Drain tank, pump and nozzles tonight: it freezes.") if low_c <= 1 else NOTHING
    more = {"in_tank": inside, "fills": float(fills)}
    if left < 0:
        action = say(
            "Not enough for the shift: it lasts {h}. Fill it before you start; fillings during the shift: {n}.{frost}",
            h=Number(lasts, 1, "h"),
            n=fills,
            frost=frost,
        )
        words = Judgement(Band.ACT, action, why, figures)
        return Reading(left, "L", words, left - wide, left + wide, ("level", {"low_level": "low"}), more)
    action = say("Enough for the shift.{frost}", frost=frost)
    band = Band.ACT if frost else Band.IN_BAND
    return Reading(left, "L", Judgement(band, action, why, figures), left - wide, left + wide, None, more)


def saturation(celsius: float) -> float:
    """Pressure of saturated water vapour [kPa] over water, under 0 °C over ice.

    >>> round(saturation(25), 4), round(saturation(-10), 4)
    (3.1692, 0.2599)
    """
    t = celsius - ABSOLUTE_ZERO_C
    if celsius <= 0.01:
        log = (
            -5.6745359e3 / t
            + 6.3925247
            - 9.677843e-3 * t
            + 6.2215701e-7 * t**2
            + 2.0747825e-9 * t**3
            - 9.484024e-13 * t**4
            + 4.1635019 * math.log(t)
        )
    else:
        log = (
            -5.8002206e3 / t
            + 1.3914993
            - 4.8640239e-2 * t
            + 4.1764768e-5 * t**2
            - 1.4452093e-8 * t**3
            + 6.5459673 * math.log(t)
        )
    return math.exp(log) / 1000


def vapour(celsius: float, humidity: float = 100.0) -> float:
    """Grams of water in a cubic metre of air at a temperature [°C] and humidity [%].

    >>> round(vapour(25, 70), 2), round(vapour(5), 2)
    (16.12, 6.8)
    """
    return humidity / 100 * saturation(celsius) * 1000 / (461.52 * (celsius - ABSOLUTE_ZERO_C)) * 1000


@reading(
    "fuel-water",
    Topic.FUEL,
    say("Water by breathing"),
    [ASHRAE],
    {"empty": 450, "day_c": 25, "humidity": 70, "night_c": 5},
    trend="",
)
def fuel_water(
    empty: Annotated[float, Given(say("Litres of air in the tank overnight"), "L", 0, 6000)],
    day_c: Annotated[float, Given(say("Air by day"), "°C", -40, 60, known=InputSource.AIR)],
    humidity: Annotated[float, Given(say("Humidity by day"), "%", 0, 100, known=InputSource.HUMIDITY)],
    night_c: Annotated[float, Given(say("Air by night"), "°C", -60, 60, known=InputSource.LOW)],
    bowl_days: Annotated[float, Given(say("Days running with water in the bowl"), "", 0, 60, whole=True)] = 0.0,
) -> Reading:
    """What condenses in a tank left part empty, a night and a month: why it is filled at night, honestly sized.

    Returns grams a night.

    >>> round(fuel_water(450, 25, 70, 5).value or 0, 1)
    4.2
    """
    night = max(0.0, vapour(day_c, humidity) - vapour(min(night_c, day_c))) * empty / 1000
    month = 30 * night
    figures = (
        Figure(say("a night"), night, as_written("g")),
        Figure(say("a month"), month, as_written("g")),
    )
    why = say("The air above the fuel gives up {g} as it cools.", g=Number(night, 1, "g"))
    if bowl_days > 2:
        action = say(
            "Water on more than two days running does not come from breathing: have tank, cap and delivery looked at."
        )
        return Reading(night, "g", Judgement(Band.ACT, action, why, figures), 0.7 * night, 1.3 * night)
    if month > 100:
        action = say("Fill it at the end of the shift and drain the bowl in the morning.")
        return Reading(night, "g", Judgement(Band.ACT, action, why, figures), 0.7 * night, 1.3 * night)
    words = Judgement(Band.IN_BAND, say("Little. Drain the bowl as usual."), why, figures)
    return Reading(night, "g", words, 0.7 * night, 1.3 * night)


@reading(
    "exhaust-fluid",
    Topic.FUEL,
    say("DEF for the shift"),
    [ISO_22241],
    {"seen": 0.4, "tank": 34, "fuel_burn": 20, "shift_hours": 10, "air_c": -2},
    mode="level contamination",
    control="tube",
    trend="in_tank",
    trend_unit="L",
)
def exhaust_fluid(
    seen: Annotated[float, Given(say("How full: 0 empty, 1 full"), "", 0, 1, gauge=0.03, start=0.5)],
    tank: Annotated[float, Given(say("Tank"), "L", 1, 400)],
    fuel_burn: Annotated[float, Given(say("Fuel burnt an hour"), "L/h", 0.5, 400)],
    shift_hours: Annotated[float, Given(say("Hours of the shift"), "h", 0.25, 24, known=InputSource.SHIFT)],
    air_c: Annotated[float, Given(say("Air temperature"), "°C", -60, 60, known=InputSource.AIR)] = 15.0,
    share: Annotated[float, Given(say("Used, as a share of the fuel"), "%", 0.5, 12)] = 4.0,
    urea: Annotated[float | None, Given(say("Urea by refractometer"), "%", 10, 50, gauge=0.3)] = None,
) -> Reading:
    """Whether the DEF lasts the shift, its strength, and frost: it freezes near -11 °C.

    Returns litres left at the end of the shift.

    >>> round(exhaust_fluid(0.4, 34, 20, 10).value or 0, 1)
    5.6
    """
    inside, need = seen * tank, fuel_burn * share / 100 * shift_hours
    left = inside - need
    wide = math.hypot(2 * 0.03 * tank, 0.3 * need)
    figures = [Figure(say("in the tank"), inside, as_written("L")), Figure(say("for the shift"), need, as_written("L"))]
    why = say("{inside} in it; the shift takes about {need}.", inside=Number(inside, 1, "L"), need=Number(need, 1, "L"))
    more = {"in_tank": inside, "hours": inside / (fuel_burn * share / 100)}
    if urea is not None and not 31.8 <= urea <= 33.2:
        figures.append(Figure(say("urea"), urea, as_written("%")))
        action = say("Wrong strength: have it drained and filled from a sealed can. It ruins the catalyst.")
        words = Judgement(
            Band.ACT, action, say("It has {u} % urea; 31.8 to 33.2 % is right.", u=Number(urea, 1)), tuple(figures)
        )
        return Reading(left, "L", words, left - wide, left + wide, ("contamination", {"dirt_in_fluid": "milky"}), more)
    if left - 0.05 * tank < 0:
        action = say("Fill it before start, gloves and eyes: an engine without it cuts its own power.")
        state = "very-low" if seen < 0.05 else "low"
        words = Judgement(Band.ACT, action, why, tuple(figures))
        return Reading(left, "L", words, left - wide, left + wide, ("level", {"low_level": state}), more)
    frost = say("It thaws by the machine's own heater; let that run.") if air_c < -11 else say("Enough.")
    words = Judgement(Band.IN_BAND, frost, why, tuple(figures))
    return Reading(left, "L", words, left - wide, left + wide, None, more)
