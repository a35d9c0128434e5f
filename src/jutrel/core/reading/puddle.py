"""How fast it leaks: by drops, by the mark on the ground, by the level lost while parked."""

from __future__ import annotations

import math
from enum import StrEnum
from typing import Annotated

from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.leak import COUNT_SPREAD, Coupling, LeakClass, drop_rate, leak_reading
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, reading
from jutrel.core.wording import Number, as_written, say

DROP = say("trade leak chart, from memory: a drop a second is 1.125 US gal a day")
CLASSES = say("leak classes: US Army equipment manuals, preventive checks")
FILM = say("film thickness by surface: common practice, as a range")


class Surface(StrEnum):
    """What the mark lies on."""

    CONCRETE = "concrete"
    PACKED = "packed-ground"
    GRAVEL = "gravel"
    STEEL = "steel"


FILM_MM = {"concrete": (0.15, 0.6), "packed-ground": (1.0, 4.0), "gravel": (3.0, 12.0), "steel": (0.1, 0.4)}
"""Litres lie or have soaked so thick [mm], from least to most."""


@reading(
    "leak-drops",
    Topic.LEAKS,
    say("Leak by drops"),
    [DROP, CLASSES],
    {"drops": 12, "seconds": 60, "reserve": 4.5, "shift_hours": 10},
    mode="leak",
    control="drops",
    trend="",
)
def leak_drops(
    drops: Annotated[float, Given(say("Drops counted"), "", 0, 10_000, start=0, whole=True)],
    seconds: Annotated[float, Given(say("In how many seconds"), "s", 1, 3600)],
    reserve: Annotated[float, Given(say("Litres above the ADD mark in that compartment"), "L", 0, 10_000)],
    shift_hours: Annotated[
        float, Given(say("Hours of the shift still to come"), "h", 0.25, 24, known=InputSource.SHIFT)
    ],
    assumed_full: Annotated[bool, Given(say("The compartment was not read; it is taken for full"))] = False,
) -> Reading:
    """Litres an hour from counted drops, and the hours to the ADD mark against twice the shift left.

    Spray or mist is no rate: stop the engine and stay away.

    >>> round(leak_drops(60, 60, 4.5, 10).more["hours"])
    26
    """
    if drops == 0:
        words = Judgement(
            Band.IN_BAND,
            say("No drop fell. Wipe it and look again at the next stop."),
            say("A drop that forms and stays is a leak of class II."),
        )
        return Reading(0.0, "L/h", words, 0.0, 0.0, None, {})
    found = leak_reading(LeakClass.III, reserve, shift_hours, drops, seconds, Coupling.OTHER)
    rate = drop_rate(drops, seconds)
    shaky = math.hypot(COUNT_SPREAD, 1 / math.sqrt(drops))
    more = {"hours": found.hours_to_add or 0.0}
    judgement = found.judgement
    if assumed_full:
        why = say("{why} The compartment was taken for full: read it.", why=judgement.why)
        judgement = Judgement(judgement.band, judgement.action, why, judgement.figures)
    low, high = rate * max(0.0, 1 - shaky), rate * (1 + shaky)
    return Reading(
        rate, "L/h", judgement, low, high, ("leak", {"leak_class": "III", "drops": drops, "seconds": seconds}), more
    )


@reading(
    "leak-mark",
    Topic.LEAKS,
    say("Leak by the mark on the ground"),
    [FILM],
    {"across": 30, "along": 25, "surface": "packed-ground", "parked_h": 12, "reserve": 6, "shift_hours": 10},
    mode="pool",
    control="puddle",
    trend="",
)
def leak_mark(
    across: Annotated[float, Given(say("Mark, shorter way"), "cm", 0, 500, start=20)],
    along: Annotated[float, Given(say("Mark, longer way"), "cm", 0, 500, start=25)],
    surface: Annotated[Surface, Given(say("On what"))],
    parked_h: Annotated[float, Given(say("Hours parked"), "h", 0.25, 2000)],
    reserve: Annotated[float, Given(say("Litres above the ADD mark in that compartment"), "L", 0, 10_000)],
    shift_hours: Annotated[float, Given(say("Hours of the shift"), "h", 0.25, 24, known=InputSource.SHIFT)] = 10.0,
) -> Reading:
    """What a mark holds and how fast it leaked, as a range: area times film thickness by surface.

    Under way under pressure it leaks faster than parked. A boot print is about 300 cm².

    >>> r = leak_mark(30, 25, Surface.PACKED, 12, 6)
    >>> round(r.low or 0, 3), round(r.high or 0, 3)
    (0.005, 0.02)
    """
    area = math.pi / 4 * across * along
    thin, thick = FILM_MM[surface]
    low_l, high_l = area * thin / 10 / 1000, area * thick / 10 / 1000
    low, high = low_l / parked_h, high_l / parked_h
    rate = math.sqrt(low * high)
    hours = reserve / high if high > 0 else math.inf
    figures = (
        Figure(say("area"), area, as_written("cm²")),
        Figure(say("at least"), low_l, as_written("L")),
        Figure(say("at most"), high_l, as_written("L")),
    )
    why = say(
        "The mark holds {a} to {b}, lost in {h}.",
        a=Number(low_l, 2, "L"),
        b=Number(high_l, 2, "L"),
        h=Number(parked_h, 0, "h"),
    )
    if area < 5:
        words = Judgement(Band.IN_BAND, say("A drip mark. Look above it."), why, figures)
        return Reading(rate, "L/h", words, low, high, ("pool", {"pool": "drips"}) if area > 0 else None)
    state = "pool" if area > 300 else "drips"
    more = {"hours": hours, "area": area}
    found = ("pool", {"pool": state})
    if hours < shift_hours:
        found = ("pool", {"pool": "pool"})  # as much as that is no drip, however small the mark
        action = say("Find the source before you start: at worst it fails within the shift.")
        return Reading(rate, "L/h", Judgement(Band.STOP, action, why, figures), low, high, found, more)
    action = say("Find the source above it, and read that compartment before start.")
    return Reading(rate, "L/h", Judgement(Band.ACT, action, why, figures), low, high, found, more)


@reading(
    "leak-parked",
    Topic.LEAKS,
    say("Leak by the level lost while parked"),
    [say("levels as corrected")],
    {"lost": 3, "lost_give": 1.2, "parked_h": 12, "reserve": 20, "shift_hours": 10},
    mode="level",
    trend="",
)
def leak_parked(
    lost: Annotated[float, Given(say("Litres less than when it was left, both corrected"), "L", -500, 5000)],
    lost_give: Annotated[float, Given(say("Give or take"), "L", 0, 500)],
    parked_h: Annotated[float, Given(say("Hours parked"), "h", 0.25, 2000)],
    reserve: Annotated[float, Given(say("Litres above the ADD mark now"), "L", 0, 10_000)],
    shift_hours: Annotated[float, Given(say("Hours of the shift"), "h", 0.25, 24, known=InputSource.SHIFT)] = 10.0,
) -> Reading:
    """What went missing while nobody worked it, once posture, warmth and slope are taken out of both levels.

    >>> leak_parked(0.5, 1.2, 12, 20).judgement.band.value, leak_parked(3, 1.2, 12, 20).judgement.band.value
    ('in-band', 'act')
    """
    rate, wide = lost / parked_h, lost_give / parked_h
    figures = (Figure(say("lost"), lost, as_written("L")), Figure(say("give or take"), lost_give, as_written("L")))
    why = say("{l} less than when it was left, give or take {g}.", l=Number(lost, 1, "L"), g=Number(lost_give, 1, "L"))
    if lost <= lost_give:
        words = Judgement(Band.IN_BAND, say("The two readings explain it."), why, figures)
        return Reading(rate, "L/h", words, rate - wide, rate + wide)
    hours = reserve / (rate + wide)
    if hours < shift_hours:
        words = Judgement(
            Band.STOP,
            say("It went somewhere, and at that rate it does not last the shift. Find it first."),
            why,
            figures,
        )
        return Reading(
            rate, "L/h", words, rate - wide, rate + wide, ("level", {"low_level": "very-low"}), {"hours": hours}
        )
    words = Judgement(Band.ACT, say("It went somewhere: look under it and along its lines before start."), why, figures)
    return Reading(rate, "L/h", words, rate - wide, rate + wide, None, {"hours": hours})
