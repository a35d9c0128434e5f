"""The place: sound of the alarm over the surroundings, slope, dark."""

from __future__ import annotations

import math
from typing import Annotated

from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, cannot, reading
from jutrel.core.reading.spread import spread
from jutrel.core.reading.tank import slope_deg
from jutrel.core.wording import Number, as_written, say

ALARM = say("30 CFR 56.14132, 29 CFR 1926.602(a)(9) (from memory): heard above the surroundings; level sums: acoustics")
PARKING = say("30 CFR 56.14207 (from memory); 1°: common practice")
DETECTION = say("common practice: 5 m, or as the unit is set")
TAPE_M = 0.1
"""How well a tape on rough ground says a distance [m]; common practice."""
SUN = say("NOAA solar equations, checked against astral")


def level_alone(on: float, background: float) -> float:
    """Level [dB] of a source alone from the level with it and without it: 10·log10(10^(on/10) - 10^(bg/10)).

    >>> round(level_alone(97, 92), 2)
    95.35
    """
    return 10 * math.log10(10 ** (on / 10) - 10 ** (background / 10))


@reading(
    "travel-alarm",
    Topic.GROUND,
    say("Travel alarm over the surroundings"),
    [ALARM],
    {"on": 97, "background": 82, "distance": 7},
    mode="inoperative",
    control="dial",
    trend="at_one",
    trend_unit="dB",
)
def travel_alarm(
    on: Annotated[float, Given(say("Level with the alarm sounding"), "dB", 30, 140, gauge=1, start=95)],
    background: Annotated[float, Given(say("Level without it, engine as in work"), "dB", 20, 130, gauge=1, start=80)],
    distance: Annotated[float, Given(say("Distance from the alarm"), "m", 0.5, 50)] = 1.0,
    listener: Annotated[float, Given(say("Distance at which a person must hear it"), "m", 1, 60)] = 7.0,
) -> Reading:
    """The alarm alone, at a person's distance, against the surroundings.

    Less than 3 dB over the background it cannot be judged: a quieter place. Returns decibels above the surroundings
    at the listener's distance.

    >>> travel_alarm(84, 82).judgement.band.value, travel_alarm(97, 82, 7).judgement.band.value
    ('refused', 'in-band')
    """
    if on - background < 3:
        return cannot(
            "dB",
            say("Measure it again in a quieter place, or nearer to the alarm."),
            say("Less than 3 dB over the surroundings nobody can tell the alarm from them."),
        )
    alone = level_alone(on, background)
    there = alone - 20 * math.log10(listener / distance)
    over = there - background
    wide = spread(lambda a, b: level_alone(a, min(b, a - 0.5)) - b, [on, background], [1.0, 1.0])
    at_one = alone + 20 * math.log10(distance)
    figures = (
        Figure(say("the alarm alone"), alone, as_written("dB")),
        Figure(say("at the listener"), there, as_written("dB")),
        Figure(say("over the surroundings"), over, as_written("dB")),
    )
    why = say("Where a person must hear it, it stands {over} over the surroundings.", over=Number(over, 1, "dB"))
    more = {"alone": alone, "at_one": at_one}
    if over < 0:
        words = Judgement(
            Band.STOP, say("It is not heard: a signaller whenever it moves, and have it mended."), why, figures
        )
        return Reading(over, "dB", words, over - wide, over + wide, ("inoperative", {"works": "weak"}), more)
    if over < 5:
        words = Judgement(
            Band.ACT, say("Only just heard. Clean its mouth, turn it up if it can be, measure again."), why, figures
        )
        return Reading(over, "dB", words, over - wide, over + wide, None, more)
    return Reading(
        over, "dB", Judgement(Band.IN_BAND, say("It is heard."), why, figures), over - wide, over + wide, None, more
    )


@reading(
    "detection-stop",
    Topic.GROUND,
    say("Distance at which the person detection stops it"),
    [DETECTION],
    {"stopped": 5.4, "wanted": 5},
    mode="inoperative",
    trend="",
)
def detection_stop(
    stopped: Annotated[
        float,
        Given(say("From the machine to the dummy or test object when it stopped"), "m", 0, 60, gauge=TAPE_M, start=5),
    ],
    wanted: Annotated[float, Given(say("Distance that is set"), "m", 2, 20)] = 5.0,
) -> Reading:
    """Where travel stopped before a dummy or test object, against the distance that is set. Returns metres to spare.

    Never tried on a person: by the maker's self-test, his test object or a dummy, with nobody in the zone.

    A tape laid on rough ground is good for a decimetre; less than that to spare nobody can tell from too late.

    >>> [detection_stop(x).judgement.band.value for x in (5.4, 5.05, 4.9)]
    ['in-band', 'act', 'stop']
    """
    spare = stopped - wanted
    figures = (Figure(say("to spare"), spare, as_written("m")),)
    why = say("It is set to stop at {wanted}.", wanted=Number(wanted, 1, "m"))
    if spare < 0:
        action = say("It stops too late: nobody relies on it. Have it set before it works.")
        words = Judgement(Band.STOP, action, why, figures)
        return Reading(spare, "m", words, spare - TAPE_M, spare + TAPE_M, ("inoperative", {"works": "dead"}))
    if spare < TAPE_M:
        words = Judgement(
            Band.ACT,
            say("Just at its setting: try it twice more with the same dummy and take the nearest."),
            why,
            figures,
        )
        return Reading(spare, "m", words, spare - TAPE_M, spare + TAPE_M)
    words = Judgement(Band.IN_BAND, say("It stops in time."), why, figures)
    return Reading(spare, "m", words, spare - TAPE_M, spare + TAPE_M)


@reading(
    "slope",
    Topic.GROUND,
    say("Slope where it stands"),
    [PARKING],
    {"pitch": 2.5, "roll": 1},
    mode="lean",
    control="bubble",
    trend="",
)
def slope(
    pitch: Annotated[float, Given(say("Nose down"), "°", -45, 45, known=InputSource.PITCH, gauge=0.3, start=0)],
    roll: Annotated[float, Given(say("Left side down"), "°", -45, 45, known=InputSource.ROLL, gauge=0.3, start=0)],
    most_pitch: Annotated[float, Given(say("Most along, in its manual"), "°", 1, 45)] = 20.0,
    most_roll: Annotated[float, Given(say("Most across, in its manual"), "°", 1, 45)] = 10.0,
) -> Reading:
    """The steepest slope of the ground, and what it means: chocks from 1°, levels to 3°, the machine's own limits.

    >>> round(slope(2, 2).value or 0, 2), slope(0, 14).judgement.band.value
    (2.83, 'stop')
    """
    steep = slope_deg(pitch, roll)
    wide = spread(slope_deg, [pitch, roll], [0.3, 0.3])
    percent = 100 * math.tan(math.radians(steep))
    figures = (Figure(say("steepest"), steep, as_written("°")), Figure(say("steepest"), percent, as_written("%")))
    why = say("The ground falls {d}, which is {p} %.", d=Number(steep, 1, "°"), p=Number(percent, 1))
    low, high = max(0.0, steep - wide), steep + wide
    more = {"percent": percent}
    if abs(pitch) > most_pitch or abs(roll) > most_roll:
        words = Judgement(
            Band.STOP, say("Steeper than this machine may stand: move it, nobody below it."), why, figures
        )
        return Reading(steep, "°", words, low, high, ("lean", {"lean": "much"}), more)
    if steep > 3:
        action = say("Chock it or turn it into the bank. Fluids are not read here: move to level ground.")
        return Reading(
            steep, "°", Judgement(Band.ACT, action, why, figures), low, high, ("lean", {"lean": "slight"}), more
        )
    if steep >= 1:
        words = Judgement(Band.ACT, say("Chock it. Fluids may be read."), why, figures)
        return Reading(steep, "°", words, low, high, None, more)
    return Reading(steep, "°", Judgement(Band.IN_BAND, say("Level."), why, figures), low, high, None, more)


def sun_elevation(hours: float, latitude: float, longitude: float) -> float:
    """How high the sun stands [°], refraction left out; `hours` since the start of the year 2000, UTC.

    The equations of the US weather service's solar calculator, good to some hundredths of a degree this century.

    >>> round(sun_elevation(4.5 * 24, 0, 0) - sun_elevation(4.5 * 24, 0, 360), 9)
    0.0
    """
    century = (hours / 24 - 0.5) / 36525
    mean = math.radians((280.46646 + century * (36000.76983 + century * 0.0003032)) % 360)
    anomaly = math.radians(357.52911 + century * (35999.05029 - 0.0001537 * century))
    eccentric = 0.016708634 - century * (0.000042037 + 0.0000001267 * century)
    centre = (
        math.sin(anomaly) * (1.914602 - century * (0.004817 + 0.000014 * century))
        + math.sin(2 * anomaly) * (0.019993 - 0.000101 * century)
        + math.sin(3 * anomaly) * 0.000289
    )
    node = math.radians(125.04 - 1934.136 * century)
    apparent = mean + math.radians(centre - 0.00569 - 0.00478 * math.sin(node))
    tilt = math.radians(
        23
        + (26 + (21.448 - century * (46.815 + century * (0.00059 - century * 0.001813))) / 60) / 60
        + 0.00256 * math.cos(node)
    )
    declination = math.asin(math.sin(tilt) * math.sin(apparent))
    y = math.tan(tilt / 2) ** 2
    equation = 4 * math.degrees(
        y * math.sin(2 * mean)
        - 2 * eccentric * math.sin(anomaly)
        + 4 * eccentric * y * math.sin(anomaly) * math.cos(2 * mean)
        - 0.5 * y * y * math.sin(4 * mean)
        - 1.25 * eccentric**2 * math.sin(2 * anomaly)
    )
    solar_minutes = (hours % 24) * 60 + equation + 4 * longitude
    angle = math.radians(solar_minutes / 4 - 180)
    lat = math.radians(latitude)
    up = math.sin(lat) * math.sin(declination) + math.cos(lat) * math.cos(declination) * math.cos(angle)
    return math.degrees(math.asin(max(-1.0, min(1.0, up))))


SET_BELOW = -0.833
"""Elevation [°] of the sun's middle at rise and set: refraction and its half width."""


@reading(
    "dark",
    Topic.GROUND,
    say("When lamps are due"),
    [SUN],
    {"hours": 235_400, "latitude": 52, "longitude": 11, "shift_hours": 10},
    mode="",
    trend="",
)
def dark(
    hours: Annotated[
        float, Given(say("Time, hours since the start of 2000, UTC"), "h", 0, 900_000, known=InputSource.TIME)
    ],
    latitude: Annotated[float, Given(say("Latitude"), "°", -90, 90, known=InputSource.LATITUDE)],
    longitude: Annotated[float, Given(say("Longitude, east positive"), "°", -180, 180, known=InputSource.LONGITUDE)],
    shift_hours: Annotated[float, Given(say("Hours of the shift"), "h", 0.25, 24, known=InputSource.SHIFT)] = 10.0,
) -> Reading:
    """Whether it is dark now, or becomes dark during the shift: then lamps have to be looked at.

    Returns the elevation of the sun [°]; under -0.833° it has set.

    >>> dark(235_400, 52, 11).unit
    '°'
    """
    now = sun_elevation(hours, latitude, longitude)
    steps = [sun_elevation(hours + n / 4, latitude, longitude) for n in range(int(shift_hours * 4) + 1)]
    lit = [n for n, up in enumerate(steps) if up >= SET_BELOW]
    night = next((n / 4 for n, up in enumerate(steps) if up < SET_BELOW), None)
    figures = (Figure(say("sun stands"), now, as_written("°")),)
    soon = say("Under {set} the sun has set.", set=Number(SET_BELOW, 3, "°"))
    more = {} if night is None else {"dark_in": night}
    if now < SET_BELOW:
        words = Judgement(Band.ACT, say("It is dark: lamps are needed from the start."), soon, figures)
    elif night is not None:
        words = Judgement(
            Band.ACT,
            say("It gets dark {h} into the shift: lamps are looked at.", h=Number(night, 1, "h")),
            soon,
            figures,
        )
    elif lit and min(steps) < 6:
        words = Judgement(
            Band.ACT, say("The sun goes down within an hour of the shift's end: lamps are looked at."), soon, figures
        )
    else:
        words = Judgement(Band.IN_BAND, say("Daylight through the shift."), soon, figures)
    return Reading(now, "°", words, now - 0.1, now + 0.1, None, more)
