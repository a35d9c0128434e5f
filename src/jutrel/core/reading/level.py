"""Levels on a gauge: what stands in a tank, and whether it is between the marks."""

from __future__ import annotations

import itertools
import math
from bisect import bisect_right
from collections.abc import Sequence
from enum import StrEnum
from typing import Annotated

from jutrel.core.amounts import LITRES_PER_M3
from jutrel.core.errors import BadInput
from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, cannot, reading
from jutrel.core.reading.spread import spread
from jutrel.core.wording import Number, Said, as_written, say, together

COMMON = say("common practice")
GEOMETRY = say("geometry; checked against the fluids package")
GAUGE_SHARE = 0.04
"""How well a line is read between two marks; common practice."""
MAX_TILT_DEG = 3.0
DRAIN_MINUTES = 5.0
"""Minutes that oil runs back after the engine stopped; common practice."""


def cylinder_volume(radius: float, length: float, height: float) -> float:
    """Litres in a lying cylinder with flat ends, filled to `height` [m]; radius and length in metres.

    V = L·(r²·acos((r-h)/r) - (r-h)·√(2rh-h²)).

    >>> round(cylinder_volume(0.4, 1.5, 0.20), 2), round(cylinder_volume(0.4, 1.5, 0.55), 2)
    (147.4, 552.68)
    """
    r, h = radius, height
    inside = max(0.0, 2 * r * h - h * h)
    return length * (r * r * math.acos((r - h) / r) - (r - h) * math.sqrt(inside)) * LITRES_PER_M3


def strapped(heights: Sequence[float], litres: Sequence[float], height: float) -> float:
    """Litres at a height by a strapping table, straight between its lines.

    >>> strapped([0, 1, 3], [0, 20, 80], 2)
    50.0
    """
    n = min(max(bisect_right(heights, height) - 1, 0), len(heights) - 2)
    share = (height - heights[n]) / (heights[n + 1] - heights[n])
    return litres[n] + share * (litres[n + 1] - litres[n])


class Tank(StrEnum):
    """The shape of a tank."""

    UPRIGHT = "upright"
    LYING = "lying"
    STRAPPED = "strapped"


@reading(
    "tank-volume",
    Topic.LEVELS,
    say("Litres in a tank"),
    [GEOMETRY],
    {"shape": "lying", "height": 0.55, "radius": 0.4, "length": 1.5},
    control="tube",
)
def tank_volume(
    shape: Annotated[Tank, Given(say("Shape of the tank"))],
    height: Annotated[float, Given(say("Height of the liquid"), "m", 0, 6, gauge=0.005)],
    area: Annotated[float | None, Given(say("Floor of an upright tank"), "m²", 0.001, 60, without="heights")] = None,
    top: Annotated[float | None, Given(say("Height of an upright tank"), "m", 0.01, 6, without="heights")] = None,
    radius: Annotated[float | None, Given(say("Radius of a lying cylinder"), "m", 0.01, 3, without="heights")] = None,
    length: Annotated[float | None, Given(say("Length of a lying cylinder"), "m", 0.01, 20, without="heights")] = None,
    heights: Annotated[
        tuple[float, ...] | None, Given(say("Heights of the strapping table"), "m", 0, 6, many=(2, 200))
    ] = None,
    litres: Annotated[
        tuple[float, ...] | None, Given(say("Litres at those heights"), "L", 0, 100_000, many=(2, 200))
    ] = None,
) -> Reading:
    """How much stands in a tank of a known shape.

    Returns litres with the range that a height read to 5 mm leaves.

    >>> round(tank_volume(Tank.UPRIGHT, 0.4, area=0.45, top=0.8).value or 0, 1)
    180.0
    """

    def needed(name: str, value: float | None) -> float:
        if value is None:
            raise BadInput(name, "is needed for a tank of this shape")
        return value

    match Tank(shape):
        case Tank.UPRIGHT:
            a, most = needed("area", area), needed("top", top)

            def volume(h: float) -> float:
                return a * h * LITRES_PER_M3
        case Tank.LYING:
            r, long = needed("radius", radius), needed("length", length)
            most = 2 * r

            def volume(h: float) -> float:
                return cylinder_volume(r, long, h)
        case _:
            if heights is None or litres is None or len(heights) != len(litres):
                raise BadInput("litres", "give a strapping table: as many litres as heights")
            if any(b <= a for a, b in itertools.pairwise(heights)):
                raise BadInput("heights", "the heights of a strapping table rise from line to line")
            if any(b < a for a, b in itertools.pairwise(litres)):
                raise BadInput("litres", "the litres of a strapping table never fall")
            table_h, table_l, most = heights, litres, heights[-1]

            def volume(h: float) -> float:
                return strapped(table_h, table_l, h)

    if height > most:
        raise BadInput("height", "{it} m is above the top of this tank ({most} m)", it=height, most=most)
    value = volume(height)
    wide = spread(lambda h: volume(min(max(h, 0.0), most)), [height], [0.005])
    full = volume(most)
    share = 100 * value / full if full else 0.0
    figures = (Figure(say("full"), full, as_written("L")), Figure(say("filled"), share, as_written("%")))
    why = say("It is {share} % full.", share=Number(share))
    words = Judgement(Band.IN_BAND, say("{litres} stand in it.", litres=Number(value, 0, "L")), why, figures)
    low, high = max(0.0, value - wide), min(full, value + wide)
    return Reading(value, "L", words, low, high, None, {"full": full, "share": share})


Seen = Annotated[
    float,
    Given(say("Where it stands: 0 at the low mark, 1 at the full mark"), "", -1.5, 2.5, gauge=GAUGE_SHARE, start=0.5),
]
Slope = Annotated[float, Given(say("Slope of the ground there"), "°", 0, 45)]
Between = Annotated[float | None, Given(say("Litres between the marks"), "L", 0.05, 5000)]


def _between(seen: float, gap: float | None, fluid: Said, full_says: Said, must_fill: bool) -> Reading:
    """A level between two marks, read as it should be read."""
    litres = (0.5 - seen) * gap if gap else None
    reserve = {"reserve": max(0.0, seen) * gap} if gap else {}
    figures = [Figure(say("seen"), 100 * seen, say("% of the gap between the marks"))]
    if litres is not None:
        figures.append(Figure(say("to the middle"), litres, as_written("L")))
    why = say("Read at {seen} % of the way from the low to the full mark.", seen=Number(100 * seen))
    low, high = seen - 2 * GAUGE_SHARE, seen + 2 * GAUGE_SHARE
    add = Number(litres or 0.0, 1, "L")
    top_up = (
        say("add about {litres} of the right {fluid}", litres=add, fluid=fluid)
        if gap
        else say("add the right {fluid} to the middle", fluid=fluid)
    )
    if seen <= -1:
        says = say("The glass shows nothing: how much is gone stays unknown. Find out why, then fill it to the mark.")
        words = Judgement(Band.STOP if must_fill else Band.ACT, says, why, tuple(figures[:1]))
        return Reading(seen, "", words, low, high, ("level", {"low_level": "very-low"}), {"reserve": 0.0})
    if seen < 0:
        lead = say("Low. Before it starts, {top_up}, and look for the leak.", top_up=top_up)
        words = Judgement(Band.STOP if must_fill else Band.ACT, lead, why, tuple(figures))
        return Reading(seen, "", words, low, high, ("level", {"low_level": "low"}), {"reserve": 0.0})
    if seen > 1:
        words = Judgement(Band.ACT, full_says, why, tuple(figures))
        return Reading(seen, "", words, low, high, ("level", {"over_level": "over"}), reserve)
    good = say("Good. Leave it.")
    if low < 0:
        good = together([good, say("It is close to the low mark: read it again at the next stop.")])
    return Reading(seen, "", Judgement(Band.IN_BAND, good, why, tuple(figures)), low, high, None, reserve)


class OilLook(StrEnum):
    """What the oil on the stick looks like."""

    CLEAR = "clear"
    DARK = "dark"
    THIN = "thin"
    MILKY = "milky"


@reading(
    "engine-oil",
    Topic.LEVELS,
    say("Engine oil on the stick"),
    [COMMON],
    {"seen": 0.6, "minutes": 600, "look": "dark", "litres_between": 4.5},
    mode="level contamination",
    control="stick",
)
def engine_oil(
    seen: Seen,
    minutes: Annotated[float, Given(say("Minutes since the engine stopped"), "min", 0, 1_000_000, start=600)],
    look: Annotated[OilLook, Given(say("How it looks on the stick"))] = OilLook.DARK,
    slope: Slope = 0.0,
    litres_between: Between = None,
) -> Reading:
    """Engine oil: level ground, five minutes or more after the engine stopped; over the mark is a defect too.

    >>> engine_oil(0.5, 2).judgement.band.value, engine_oil(0.5, 10, OilLook.MILKY).judgement.band.value
    ('refused', 'stop')
    """
    if minutes < DRAIN_MINUTES:
        wait = Number(DRAIN_MINUTES - minutes, 0, "min")
        return cannot(
            "",
            say("Wait {n} more, wipe the stick with clean paper, and read it again.", n=wait),
            say("The oil is still up in the engine: the stick would show too little."),
        )
    if slope > MAX_TILT_DEG:
        return tilted(slope)
    if look == OilLook.MILKY:
        words = Judgement(Band.STOP, say("Do not start. Milky oil has coolant in it."), say("It no longer carries."))
        return Reading(seen, "", words, None, None, ("contamination", {"dirt_in_fluid": "milky"}))
    if look == OilLook.THIN:
        words = Judgement(
            Band.STOP,
            say("Do not start. Thin oil that smells of fuel does not carry: have it looked at."),
            say("Fuel got into the oil; the level may even have risen."),
        )
        return Reading(seen, "", words, None, None, ("contamination", {"dirt_in_fluid": "clear-water"}))
    full = say("Over the mark. Look and smell whether fuel or coolant is in it, then have it drained to the mark.")
    return _between(seen, litres_between, say("engine oil"), full, must_fill=True)


def tilted(slope: float) -> Reading:
    """A level that is not judged on this slope [°]."""
    return cannot(
        "",
        say("Move to level ground, then read it."),
        say(
            "It stands on {slope}; over {most} a gauge says more about the slope than about the level.",
            slope=Number(slope, 1, "°"),
            most=Number(MAX_TILT_DEG, 0, "°"),
        ),
    )


class Warmth(StrEnum):
    """The state in which a level is meant to be read."""

    COLD_OFF = "cold-off"
    HOT_IDLING = "hot-idling"


@reading(
    "transmission-oil",
    Topic.LEVELS,
    say("Transmission oil"),
    [COMMON],
    {"seen": 0.7, "wanted": "hot-idling", "state": "hot-idling"},
    mode="level",
    control="stick",
)
def transmission_oil(
    seen: Seen,
    wanted: Annotated[Warmth, Given(say("How this model wants it read"))],
    state: Annotated[Warmth, Given(say("How it is now"))],
    slope: Slope = 0.0,
    litres_between: Between = None,
) -> Reading:
    """Transmission oil in the state that the model wants; in another state it is not judged.

    >>> transmission_oil(0.5, Warmth.HOT_IDLING, Warmth.COLD_OFF).value is None
    True
    """
    if slope > MAX_TILT_DEG:
        return tilted(slope)
    if wanted != state:
        how = (
            say("cold, engine off")
            if wanted == Warmth.COLD_OFF
            else say("warm, engine idling, brake set, somebody at the controls")
        )
        return cannot(
            "",
            say("Read it {how}, as this model wants it.", how=how),
            say("Between cold and warm, running and stopped, the line moves by more than the marks are apart."),
        )
    full = say("Over the mark. It foams and runs hot: have it drained to the mark.")
    return _between(seen, litres_between, say("transmission oil"), full, must_fill=True)


@reading(
    "coolant-level",
    Topic.LEVELS,
    say("Coolant level"),
    [COMMON],
    {"seen": 0.4, "coolant_c": 15},
    mode="level",
    control="tube",
    weather="coolant_c",
)
def coolant_level(
    seen: Seen,
    coolant_c: Annotated[float, Given(say("Temperature of the coolant"), "°C", -50, 130, known=InputSource.AIR)],
    litres_between: Between = None,
) -> Reading:
    """Coolant in the expansion tank or glass, cold; over 50 °C the cap stays shut and the level is not judged.

    >>> coolant_level(0.5, 85).judgement.band.value
    'refused'
    """
    if coolant_c > 50:
        return cannot(
            "",
            say("Keep the cap shut and wait until it is under 50 °C."),
            say("Hot coolant is under pressure and stands higher than cold."),
        )
    full = say("Over the mark. It will push out when warm; have it drawn down, and have the oil looked at for coolant.")
    return _between(seen, litres_between, say("coolant mix"), full, must_fill=True)


@reading(
    "plug-level",
    Topic.LEVELS,
    say("Oil at a level plug"),
    [COMMON],
    {"below": 4, "slope": 0.5},
    mode="level",
    control="tube",
    trend="",
)
def plug_level(
    below: Annotated[
        float, Given(say("How far the oil stands under the plug hole's lower edge"), "mm", -20, 200, gauge=2)
    ],
    slope: Slope = 0.0,
) -> Reading:
    """Oil of tandems and axles: level with the lower edge of the plug hole, on level ground; under zero it runs out.

    >>> plug_level(0).judgement.band.value, plug_level(40).finding[1]["low_level"]
    ('in-band', 'very-low')
    """
    if slope > MAX_TILT_DEG:
        return tilted(slope)
    why = say("It should stand level with the lower edge of the hole.")
    figures = (Figure(say("under the edge"), below, as_written("mm")),)
    if below < -2:
        words = Judgement(Band.ACT, say("Let what is over the edge run out, then close it."), why, figures)
        return Reading(below, "mm", words, below - 4, below + 4, ("level", {"over_level": "over"}))
    if below <= 8:
        words = Judgement(Band.IN_BAND, say("Good. Close the plug."), why, figures)
        return Reading(below, "mm", words, below - 4, below + 4)
    low = "very-low" if below > 30 else "low"
    words = Judgement(
        Band.STOP, say("Fill to the edge before it works, and look for the leak at the seals."), why, figures
    )
    return Reading(below, "mm", words, below - 4, below + 4, ("level", {"low_level": low}))


@reading(
    "consumption",
    Topic.LEVELS,
    say("Oil used per hour"),
    [COMMON],
    {"added": 3.2, "hours": 60, "usual": [0.02, 0.03, 0.025, 0.03, 0.028]},
    trend="value",
)
def consumption(
    added: Annotated[float, Given(say("Litres topped up since"), "L", 0, 2000, gauge=0.2)],
    hours: Annotated[float, Given(say("Hours worked since"), "h", 1, 5000)],
    level_change: Annotated[
        float, Given(say("Litres that the level has risen since (fallen: minus)"), "L", -500, 500)
    ] = 0.0,
    usual: Annotated[
        tuple[float, ...] | None,
        Given(say("Litres per hour at earlier times"), "L/h", 0, 50, known=InputSource.SERIES, many=(0, 500)),
    ] = None,
) -> Reading:
    """What a machine uses per operating hour, against its own history.

    Unusual: over three robust standard deviations (median absolute deviation) above the median of at least five.

    >>> round(consumption(3, 60).value or 0, 3)
    0.05
    """
    used = added - level_change
    rate = used / hours
    wide = 2 * math.hypot(0.2, 0.2) / hours
    past = sorted(usual or ())
    figures = [Figure(say("used"), used, as_written("L")), Figure(say("per hour"), rate, as_written("L/h"))]
    if len(past) < 5:
        why = say("Too few earlier figures to say what is usual: {n} of 5.", n=len(past))
        words = Judgement(Band.IN_BAND, say("Keep writing it down."), why, tuple(figures))
        return Reading(rate, "L/h", words, rate - wide, rate + wide)
    middle = median(past)
    scale = 1.4826 * median(sorted(abs(x - middle) for x in past))
    edge = middle + 3 * max(scale, 0.05 * middle)
    figures.append(Figure(say("usual"), middle, as_written("L/h")))
    why = say("Usual for this machine are {usual} an hour.", usual=Number(middle * 1000, 0, "mL"))
    if rate - wide > edge:
        action = say("More than usual. Look for the leak, the breather and blue smoke; have it looked at.")
        return Reading(rate, "L/h", Judgement(Band.ACT, action, why, tuple(figures)), rate - wide, rate + wide)
    words = Judgement(Band.IN_BAND, say("As usual."), why, tuple(figures))
    return Reading(rate, "L/h", words, rate - wide, rate + wide)


def median(ordered: Sequence[float]) -> float:
    """The middle of an ordered row.

    >>> median([1, 2, 4]), median([1, 2, 4, 9])
    (2, 3.0)
    """
    n = len(ordered)
    return ordered[n // 2] if n % 2 else (ordered[n // 2 - 1] + ordered[n // 2]) / 2
