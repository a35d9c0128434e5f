"""Brakes: stopping distance, park brake, stationary test, accumulator."""

from __future__ import annotations

import math
from typing import Annotated

from jutrel.core.errors import BadInput
from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, cannot, reading
from jutrel.core.wording import Number, as_written, say

MSHA = say("30 CFR 56.14101, table M-1 and its formula (from memory)")
COMMON = say("common practice; the machine's own figures")
TAKE_UP_MM, TAKE_UP_S, GAUGE_MM = 20.0, 2.0, 2.0
"""Take-up where no model says it [mm], how soon it is over [s], and what a mark on the ground is read to [mm]; common
practice."""
FEET, POUNDS = 0.3048, 0.45359237
CLASSES_LB = (36_000, 70_000, 140_000, 250_000, 400_000)
RESPONSE_S = (0.5, 1.0, 1.5, 2.0, 2.25, 2.5)
"""Response of the brake system [s] by gross weight [lb] up to each class, and above."""


def stopping_limit(speed_mph: float, weight_lb: float) -> int:
    """The longest stopping distance allowed [ft] from a speed [mph] at a gross weight [lb], rounded up.

    v·(1 + t_s) + v²/(2·9.66), v in ft/s: one second for the operator, t_s for the system.

    >>> [stopping_limit(v, 36_000) for v in (10, 15, 20)]
    [34, 59, 89]
    """
    v = speed_mph * 5280 / 3600
    t = next((s for limit, s in zip(CLASSES_LB, RESPONSE_S, strict=False) if weight_lb <= limit), RESPONSE_S[-1])
    return math.ceil(v * (1 + t) + v * v / (2 * 9.66) - 1e-9)


@reading(
    "service-brake",
    Topic.BRAKES,
    say("Service brake, stopping distance"),
    [MSHA],
    {"speed": 24, "distance": 15, "weight": 16000},
    mode="inoperative",
    trend="share",
)
def service_brake(
    speed: Annotated[float, Given(say("Speed when the pedal went down"), "km/h", 16, 32.2, gauge=1)],
    distance: Annotated[float, Given(say("Distance to standstill, from the signal on"), "m", 0.5, 200, gauge=0.3)],
    weight: Annotated[float, Given(say("Gross weight as it stood"), "kg", 1000, 1_000_000)],
    slope: Annotated[float, Given(say("Slope"), "°", 0, 45, known=InputSource.PITCH)] = 0.0,
) -> Reading:
    """Stopping distance against what its weight class allows, 16 to 32 km/h, on a safe level place only.

    Returns metres to spare.

    >>> service_brake(24, 15, 16000).judgement.band.value, service_brake(24, 19, 16000).judgement.band.value
    ('in-band', 'stop')
    """
    if slope > 1:
        return cannot(
            "m",
            say("Do it on a safe level place, or do it by feel at walking pace."),
            say("A slope adds to or takes from the brake."),
        )
    mph = speed / 1.609344
    allowed = stopping_limit(mph, weight / POUNDS) * FEET
    spare = allowed - distance
    slower = stopping_limit(max(10.0, mph - 2 / 1.609344), weight / POUNDS) * FEET
    wide = math.hypot(allowed - slower, 0.6)
    figures = (Figure(say("allowed"), allowed, as_written("m")), Figure(say("to spare"), spare, as_written("m")))
    why = say("From {v} it may take {a}.", v=Number(speed, 0, "km/h"), a=Number(allowed, 1, "m"))
    more = {"share": distance / allowed}
    if spare < 0:
        words = Judgement(Band.STOP, say("The brake does not hold what it must: out of work, tagged."), why, figures)
        return Reading(spare, "m", words, spare - wide, spare + wide, ("inoperative", {"works": "weak"}), more)
    if spare < wide:
        words = Judgement(
            Band.ACT,
            say("Within what it may, with little to spare: do it twice more and take the longest."),
            why,
            figures,
        )
        return Reading(spare, "m", words, spare - wide, spare + wide, None, more)
    return Reading(
        spare,
        "m",
        Judgement(Band.IN_BAND, say("The brake holds."), why, figures),
        spare - wide,
        spare + wide,
        None,
        more,
    )


@reading(
    "park-brake",
    Topic.BRAKES,
    say("Park brake on a grade"),
    [COMMON],
    {"grade": 15, "crept": 4, "seconds": 30, "wanted_grade": 15, "moved_s": 1},
    mode="inoperative",
    control="stopwatch",
    trend="",
)
def park_brake(
    grade: Annotated[float, Given(say("Grade it stood on"), "%", 0, 60)],
    crept: Annotated[float, Given(say("How far it crept"), "mm", 0, 5000)],
    seconds: Annotated[float, Given(say("Watched for"), "s", 1, 600)],
    wanted_grade: Annotated[float, Given(say("Grade that it must hold"), "%", 1, 60)],
    moved_s: Annotated[float | None, Given(say("It stood still again after"), "s", 0, 600)] = None,
    take_up: Annotated[float, Given(say("Take-up of tyres and pads on this machine"), "mm", 0, 200)] = TAKE_UP_MM,
) -> Reading:
    """Holds the stated load on the stated grade, watched for ten seconds or more.

    Tyres and pads take up a little as the brake comes on: no creep, if it stands still again within two seconds and
    moved no farther than this machine's take-up; 20 mm where nobody knows (common practice).

    >>> park_brake(15, 1, 30, 15).judgement.band.value, park_brake(15, 15, 30, 15, 1.5).judgement.band.value
    ('in-band', 'in-band')
    >>> park_brake(15, 30, 30, 15, 1.5).judgement.band.value, park_brake(15, 15, 30, 15, 9).judgement.band.value
    ('stop', 'stop')
    """
    figures = (Figure(say("crept"), crept, as_written("mm")), Figure(say("grade"), grade, as_written("%")))
    why = say("It has to stand still on {g} %.", g=Number(wanted_grade))
    if GAUGE_MM < crept <= take_up and moved_s is None:
        says = say("Do it again and watch for how long it moves: take-up is over within two seconds.")
        return cannot("mm", says, why)
    if crept > max(GAUGE_MM, take_up) or (crept > GAUGE_MM and moved_s is not None and moved_s > TAKE_UP_S):
        words = Judgement(Band.STOP, say("It creeps: chock it, out of work, tagged."), why, figures)
        return Reading(crept, "mm", words, crept, crept, ("inoperative", {"works": "weak"}))
    if grade < wanted_grade - 0.5 or seconds < 10:
        return cannot("mm", say("Watch it for ten seconds or more on the stated grade, chocks at hand."), why)
    says = say("It holds. What it moved is the take-up of tyres and pads.") if crept > 0 else say("It holds.")
    return Reading(crept, "mm", Judgement(Band.IN_BAND, says, why, figures), 0.0, crept + GAUGE_MM)


@reading(
    "stationary-brake",
    Topic.BRAKES,
    say("Stationary brake test"),
    [COMMON],
    {"rpm": 1500, "low": 1450, "high": 1600, "crept": False},
    mode="inoperative",
    control="dial",
    trend="",
)
def stationary_brake(
    rpm: Annotated[
        float, Given(say("Engine speed reached against the brake"), "1/min", 300, 4000, gauge=20, start=1500)
    ],
    low: Annotated[float, Given(say("From, in its manual"), "1/min", 300, 4000)],
    high: Annotated[float, Given(say("To, in its manual"), "1/min", 300, 4000)],
    crept: Annotated[bool, Given(say("It crept on, beyond the take-up of tyres and pads"))],
    pressure: Annotated[float | None, Given(say("Brake pressure on its gauge"), "kPa", 0, 40_000)] = None,
    pressure_low: Annotated[float | None, Given(say("Its lower mark"), "kPa", 1, 40_000)] = None,
    pressure_high: Annotated[float | None, Given(say("Its upper mark"), "kPa", 1, 40_000)] = None,
) -> Reading:
    """No creep at the stated engine speed, in the stated gear; nobody in front or behind.

    Where the gauge has marks, its needle stands between them.

    >>> stationary_brake(1500, 1450, 1600, False).judgement.band.value
    'in-band'
    """
    if low >= high:
        raise BadInput("high", "the upper speed must be above the lower")
    figures: tuple[Figure, ...] = (Figure(say("reached"), rpm, as_written("1/min")),)
    why = say("It must stand still between {a} and {b} revolutions.", a=Number(low), b=Number(high))
    if crept:
        words = Judgement(Band.STOP, say("It moved: out of work, tagged."), why, figures)
        return Reading(rpm, "1/min", words, rpm - 40, rpm + 40, ("inoperative", {"works": "weak"}))
    if pressure is not None and pressure_low is not None and pressure_high is not None:
        if pressure_low >= pressure_high:
            raise BadInput("pressure_high", "the upper mark must be above the lower")
        figures = (*figures, Figure(say("brake pressure"), pressure, as_written("kPa")))
        if not pressure_low <= pressure <= pressure_high:
            words = Judgement(Band.STOP, say("The needle is not between its marks: out of work, tagged."), why, figures)
            return Reading(rpm, "1/min", words, rpm - 40, rpm + 40, ("inoperative", {"works": "weak"}))
    if rpm < low:
        return cannot("1/min", say("Do it again between the two speeds, for five seconds at most."), why)
    if rpm > high:
        words = Judgement(
            Band.ACT, say("It holds. The speed is high for the converter: have that looked at."), why, figures
        )
        return Reading(rpm, "1/min", words, rpm - 40, rpm + 40)
    return Reading(rpm, "1/min", Judgement(Band.IN_BAND, say("It holds."), why, figures), rpm - 40, rpm + 40)


@reading(
    "brake-accumulator",
    Topic.BRAKES,
    say("Brake applications left, engine off"),
    [COMMON],
    {"count": 6, "wanted": 5},
    mode="inoperative",
    control="count",
)
def brake_accumulator(
    count: Annotated[
        float,
        Given(say("How often the brake was pressed fully until the warning came"), "", 0, 60, start=5, whole=True),
    ],
    wanted: Annotated[float, Given(say("That this machine must have"), "", 1, 40, whole=True)],
) -> Reading:
    """Applications left with the engine off against the unit's number; on level ground, chocked.

    >>> brake_accumulator(3, 5).judgement.band.value
    'stop'
    """
    figures = (Figure(say("counted"), count, as_written("")), Figure(say("wanted"), wanted, as_written("")))
    why = say("It must have {n}.", n=Number(wanted))
    if count < wanted:
        words = Judgement(Band.STOP, say("Too few: the store of pressure is lost. Out of work, tagged."), why, figures)
        return Reading(count, "", words, count, count, ("inoperative", {"works": "weak"}))
    return Reading(count, "", Judgement(Band.IN_BAND, say("Enough."), why, figures), count, count)
