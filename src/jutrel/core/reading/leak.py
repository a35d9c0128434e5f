"""Leaks: class, rate from counted drops, and the hours left to the ADD mark."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from jutrel.core.amounts import number
from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.wording import NOTHING, Number, Said, as_written, say

DROP_ML = 0.049
"""Volume of one drop [mL]; trade leak chart, from memory: a drop a second is 1.125 US gal a day."""
COUNT_SPREAD = 0.25
"""Drops differ in size with the fluid and the edge they hang from: common practice."""
SAFE_SHIFTS = 2.0


class LeakClass(StrEnum):
    """I: wet or stained, no drop. II: a drop forms and stays. III: drops fall. Spray: a jet or mist under pressure.

    US Army technical manuals, preventive maintenance checks, for I to III; spray as a class above: common practice.
    """

    I = "I"  # noqa: E741  (the trade's own name)
    II = "II"
    III = "III"
    SPRAY = "spray"


class Coupling(StrEnum):
    """How the line is joined, which decides whether tightening can help."""

    FLAT_FACE = "flat-face"
    FLARED = "flared"
    HOSE = "hose"
    OTHER = "other"


@dataclass(frozen=True, slots=True)
class LeakReading:
    """Rate [L/h] and hours to the ADD mark with their range; None when no drop falls."""

    rate: float | None
    hours_to_add: float | None
    hours_low: float | None
    hours_high: float | None
    judgement: Judgement


def drop_rate(drops: float, seconds: float) -> float:
    """Rate [L/h] of `drops` counted in `seconds`.

    >>> round(drop_rate(60, 60), 4)  # one a second
    0.1764
    """
    drops = number("drops", drops, 0, 10_000)
    seconds = number("seconds", seconds, 1, 3600)
    return drops / seconds * 3600 * DROP_ML / 1000


def leak_reading(
    leak_class: LeakClass,
    reserve: float | None,
    shift_hours: float,
    drops: float | None = None,
    seconds: float | None = None,
    coupling: Coupling = Coupling.OTHER,
) -> LeakReading:
    """What a leak means for the shift.

    Parameters
    ----------
    leak_class : by what it looks like
    reserve : fluid left above the ADD mark [L]; None if there is no such mark
    shift_hours : hours of the shift still to come [h]
    drops, seconds : drops counted in a time [s]; only a class III leak has them
    coupling : how the line is joined

    Raises
    ------
    BadInput
        For a count that cannot be, or drops counted at a leak that drops nothing.

    >>> r = leak_reading(LeakClass.III, 6.0, 10.0, drops=6, seconds=60)
    >>> round(r.rate, 5), round(r.hours_to_add)
    (0.01764, 340)
    """
    shift_hours = number("shift_hours", shift_hours, 0, 24)
    if reserve is not None:
        reserve = number("reserve", reserve, 0, 10_000)
    if drops is not None:
        drops = number("drops", drops, 0, 10_000)
    if seconds is not None:
        seconds = number("seconds", seconds, 1, 3600)
    ring = RING if coupling is Coupling.FLAT_FACE else NOTHING
    if leak_class is LeakClass.III and drops and seconds is not None:
        return _counted(drops, seconds, reserve, shift_hours, ring)
    action = LOOKS_LIKE[leak_class]
    if leak_class is LeakClass.SPRAY:
        return LeakReading(None, None, None, None, Judgement(Band.STOP, action, action))
    band = Band.ACT if ring or leak_class is not LeakClass.I else Band.IN_BAND
    return LeakReading(None, None, None, None, Judgement(band, ring or action, action))


RING = say(
    "A flat-face coupling that weeps has a cut or hardened ring. Tightening will not seal it: "
    "shut down, release the pressure, fit a new ring."
)
LOOKS_LIKE = {
    LeakClass.I: say("Wet, no drop. Wipe it and look again at the next stop."),
    LeakClass.II: say("A drop forms and stays. Look again within the shift."),
    LeakClass.III: say("Drops fall. Count them for a minute."),
    LeakClass.SPRAY: say("A jet goes through skin. Stop the engine and stay away from it."),
}


def _counted(drops: float, seconds: float, reserve: float | None, shift_hours: float, ring: Said) -> LeakReading:
    """A leak whose drops were counted: what it loses, how long that lasts. `ring`: done first, whatever it loses."""
    rate = drop_rate(drops, seconds)
    figures = [
        Figure(say("drops a minute"), drops / seconds * 60, as_written("/min")),
        Figure(say("rate"), rate, as_written("L/h")),
    ]
    loses = Number(rate * 1000, 0, "mL")
    if reserve is None:
        action = ring or say("Drops fall. Watch the level through the shift.")
        why = say("It loses {loses} an hour.", loses=loses)
        return LeakReading(rate, None, None, None, Judgement(Band.ACT, action, why, tuple(figures)))
    hours = reserve / rate
    low, high = hours / (1 + COUNT_SPREAD), hours / (1 - COUNT_SPREAD)
    need = SAFE_SHIFTS * shift_hours
    figures += [
        Figure(say("to the ADD mark"), hours, as_written("h")),
        Figure(say("twice the shift left"), need, as_written("h")),
    ]
    why = say(
        "It loses {loses} an hour; {reserve} stand above the ADD mark, so it reaches "
        "the mark in {low} to {high}. Twice the shift left is {need}.",
        loses=loses,
        reserve=Number(reserve, 1, "L"),
        low=Number(low),
        high=Number(high, 0, "h"),
        need=Number(need, 0, "h"),
    )
    if hours < shift_hours:
        band, action = Band.STOP, say("It will not last this shift. Repair before start.")
    elif hours < need:
        band, action = Band.ACT, say("It lasts the shift with too little to spare. Have it repaired.")
    else:
        band, action = Band.ACT, say("It lasts the shift. Check the level at the next stop.")
    return LeakReading(rate, hours, low, high, Judgement(band, ring or action, why, tuple(figures)))
