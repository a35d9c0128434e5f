"""Upkeep: when service is due, grease, pace."""

from __future__ import annotations

import math
from typing import Annotated

from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, reading
from jutrel.core.wording import Number, as_written, say

COMMON = say("common practice; the machine's own figures")


@reading(
    "service-due",
    Topic.UPKEEP,
    say("Next service"),
    [COMMON],
    {"hours_now": 6214, "last": 6000, "interval": 250, "per_day": [6, 9, 8, 7, 9]},
    trend="",
)
def service_due(
    hours_now: Annotated[float, Given(say("Machine's hours"), "h", 0, 1e6, known=InputSource.HOURS)],
    last: Annotated[float, Given(say("Hours at the last service"), "h", 0, 1e6)],
    interval: Annotated[float, Given(say("Service every"), "h", 5, 10_000)],
    per_day: Annotated[tuple[float, ...], Given(say("Hours on recent working days"), "h", 0, 24, many=(1, 400))] = (
        8.0,
    ),
) -> Reading:
    """The hour at which service is due, and in how many working days, as a range of this machine's own days.

    Returns the hours left.

    >>> service_due(6214, 6000, 250).value
    36.0
    """
    due = last + interval
    left = due - hours_now
    days = sorted(d for d in per_day if d > 0) or [8.0]
    fast, slow = days[-1], days[0]
    soonest, latest = left / fast, left / slow
    figures = (Figure(say("due at"), due, as_written("h")), Figure(say("left"), left, as_written("h")))
    why = say("In {a} to {b} working days.", a=Number(max(0.0, soonest)), b=Number(max(0.0, latest)))
    more = {"due": due, "days_low": soonest, "days_high": latest}
    if left < 0:
        words = Judgement(Band.ACT, say("Overdue by {n}: have it serviced now.", n=Number(-left, 0, "h")), why, figures)
    elif left < 0.1 * interval or soonest < 3:
        words = Judgement(Band.ACT, say("Due soon: book it and order the parts."), why, figures)
    else:
        words = Judgement(Band.IN_BAND, say("Due in {n}.", n=Number(left, 0, "h")), why, figures)
    return Reading(left, "h", words, left, left, None, more)


@reading(
    "grease",
    Topic.UPKEEP,
    say("Grease"),
    [COMMON],
    {"fittings": 22, "strokes": 4, "missing": 0, "cartridge": 300},
    control="count",
    trend="",
)
def grease(
    fittings: Annotated[float, Given(say("Fittings greased"), "", 0, 200, whole=True)],
    strokes: Annotated[float, Given(say("Strokes each"), "", 0, 60, whole=True)],
    per_stroke: Annotated[float, Given(say("Grams a stroke"), "g", 0.2, 5)] = 1.0,
    cartridge: Annotated[float, Given(say("Left in the cartridge before"), "g", 0, 20_000)] = 400.0,
    missing: Annotated[float, Given(say("Fittings missing or blocked"), "", 0, 200, whole=True)] = 0.0,
) -> Reading:
    """Grease used and left; a missing fitting is a defect.

    >>> grease(22, 4).value
    312.0
    """
    used = fittings * strokes * per_stroke
    left = cartridge - used
    figures = (Figure(say("used"), used, as_written("g")), Figure(say("left"), left, as_written("g")))
    why = say("Fittings: {n}. Strokes each: {s}.", n=Number(fittings), s=Number(strokes))
    wide = 0.15 * used
    if missing > 0:
        action = say("A fitting that takes no grease runs dry: have it renewed.")
        return Reading(left, "g", Judgement(Band.ACT, action, why, figures), left - wide, left + wide)
    if left < 0:
        words = Judgement(Band.ACT, say("Take {n} more cartridges.", n=math.ceil(-left / 400)), why, figures)
        return Reading(left, "g", words, left - wide, left + wide)
    return Reading(left, "g", Judgement(Band.IN_BAND, say("Enough."), why, figures), left - wide, left + wide)
