"""Wear: how far, how long still, which side first; track sag; a cylinder that creeps."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from jutrel.core.errors import BadInput
from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, cannot, reading
from jutrel.core.reading.slope import trend
from jutrel.core.wording import Number, Said, as_written, say, together

COMMON = say("common practice")
SEN = say("Theil 1950, Sen 1968, as in SciPy; limits: the machine's own figures")
GAUGE_MM = 1.0


class WornPart(StrEnum):
    """What is measured, which decides what is done about it."""

    EDGE = "edge"
    TIP = "tip"
    LINK = "link"
    BUSHING = "bushing"
    GROUSER = "grouser"
    ROLLER = "roller"
    TREAD = "tread"
    PAD = "pad"
    FOOT = "foot"


ADVICE = {
    "edge": say("Turn or change the edge before the blade itself wears."),
    "tip": say("Change the tip before the adapter wears."),
    "link": say("Have the chain measured as a whole."),
    "bushing": say("Have pins and bushings turned while they can be."),
    "grouser": say("Have the shoes looked at: worn bars slip and break."),
    "roller": say("Have the rollers swapped inner for outer, or changed."),
    "tread": say("Have the tyre changed or moved to the other axle."),
    "pad": say("Change the pads before steel runs on the road."),
    "foot": say("Have the feet built up: short ones press the top and leave it loose below."),
}


@reading(
    "wear",
    Topic.WEAR,
    say("Wear of a part"),
    [SEN],
    {
        "part": "edge",
        "left": 41,
        "right": 36,
        "new": 60,
        "limit": 30,
        "hours_now": 2600,
        "hours": [1200, 1700, 2100, 2400],
        "earlier": [55, 49, 44, 40],
    },
    mode="wear",
    control="profile",
)
def wear(
    left: Annotated[float, Given(say("Left, or only figure"), "mm", 0, 3000, gauge=GAUGE_MM)],
    new: Annotated[float, Given(say("When new"), "mm", 1, 3000)],
    limit: Annotated[float, Given(say("At its limit"), "mm", 0, 3000)],
    right: Annotated[float | None, Given(say("Right"), "mm", 0, 3000, gauge=GAUGE_MM)] = None,
    part: Annotated[WornPart, Given(say("What it is"))] = WornPart.EDGE,
    hours_now: Annotated[float | None, Given(say("Machine's hours"), "h", 0, 1e6, known=InputSource.HOURS)] = None,
    hours: Annotated[
        tuple[float, ...] | None,
        Given(say("Hours at earlier readings"), "h", 0, 1e6, known=InputSource.SERIES_HOURS, many=(0, 500)),
    ] = None,
    earlier: Annotated[
        tuple[float, ...] | None,
        Given(say("Earlier readings, oldest first"), "mm", 0, 3000, known=InputSource.SERIES, many=(0, 500)),
    ] = None,
    usual_rate: Annotated[float | None, Given(say("Usual wear of this model"), "mm/100 h", 0.001, 200)] = None,
    price: Annotated[float | None, Given(say("A new one, fitted, in your money"), "", 0, 1e6)] = None,
) -> Reading:
    """How far a part is worn, by its worse side, and the hours to its limit with their band.

    % = (new - now)/(new - limit), whichever way the figure moves. The rate is the Theil-Sen slope of at least three
    readings; with fewer, the model's usual one, said to be so. With the price of a new one: what it costs an hour.

    >>> wear(45, 60, 30).value, wear(30, 60, 30).finding[1]["wear"]
    (50.0, 'limit')
    """
    if new == limit:
        raise BadInput("limit", "the limit must differ from the figure when new")
    down = new > limit
    sides = [left] + ([right] if right is not None else [])
    now = min(sides) if down else max(sides)
    thicker = [s for s in sides if (s - new if down else new - s) > 2 * GAUGE_MM]
    if thicker:
        is_, was = Number(thicker[0], 0, "mm"), Number(new, 0, "mm")
        action = say(
            "Measure it again, or correct the figure when new: {a} is more than the {b} of a new one.", a=is_, b=was
        )
        return cannot("%", action, say("Nothing grows at work."))
    share = 100 * (new - now) / (new - limit)
    wide = abs(100 * 2 * GAUGE_MM / (new - limit))
    figures = [
        Figure(say("worse side"), now, as_written("mm")),
        Figure(say("worn"), share, as_written("%")),
    ]
    says: list[Said] = []
    more = {"worse": now, "limit": 100.0}
    rate, low_rate, high_rate, known = _rate(hours, earlier, hours_now, now, down, usual_rate)
    if rate is not None and rate > 0:
        to_go = max(0.0, abs(now - limit)) if share < 100 else 0.0
        left_h = to_go / rate
        figures.append(Figure(say("hours to the limit"), left_h, as_written("h")))
        more["hours_left"] = left_h
        if price is not None:
            more["cost_h"] = price * rate / abs(new - limit)
            figures.append(Figure(say("costs an hour of work"), more["cost_h"], as_written("")))
            says.append(say("It costs {c} an hour of work.", c=Number(more["cost_h"], 2)))
        if known:
            soonest = to_go / high_rate if high_rate > 0 else left_h
            latest = Number(to_go / low_rate, 0, "h") if low_rate > 0 else say("nobody knows when")
            says.append(say("At its rate it reaches the limit in {a} to {b}.", a=Number(soonest, 0, "h"), b=latest))
        else:
            says.append(
                say(
                    "At this model's usual rate the limit is about {a} away; its own rate takes three readings.",
                    a=Number(left_h, 0, "h"),
                )
            )
    if right is not None and abs(left - right) > 0.15 * abs(new - limit):
        worse = say("left", context="side") if (left < right) == down else say("right", context="side")
        says.append(say("The {side} side goes first.", side=worse))
    state = (
        "beyond"
        if share > 100
        else "limit"
        if share >= 95
        else "three-quarters"
        if share >= 70
        else ("half" if share >= 45 else "")
    )
    why = together([say("{share} % of its wear is used.", share=Number(share)), *says])
    found = ("wear", {"wear": state}) if state else None
    if share > 100:
        band, action = Band.STOP, together([say("Past its limit."), ADVICE[part]])
    elif share >= 70 or share + wide >= 100:
        band, action = Band.ACT, ADVICE[part]
    elif share >= 45:
        band, action = Band.IN_BAND, say("About half used. Measure it again at the next service.")
    else:
        band, action = Band.IN_BAND, say("Good.")
    return Reading(share, "%", Judgement(band, action, why, tuple(figures)), share - wide, share + wide, found, more)


def _rate(
    hours: tuple[float, ...] | None,
    earlier: tuple[float, ...] | None,
    hours_now: float | None,
    now: float,
    down: bool,
    usual: float | None,
) -> tuple[float | None, float, float, bool]:
    """Wear per hour [mm/h], its band, and whether it is this machine's own."""
    x, y = list(hours or ()), list(earlier or ())
    if len(x) != len(y):
        raise BadInput("earlier", "give as many earlier readings as hours")
    if hours_now is not None:
        x, y = [*x, hours_now], [*y, now]
    found = trend(x, y) if len(x) >= 3 else None
    if found is not None:
        sign = -1.0 if down else 1.0
        low, high = sorted((sign * found.low, sign * found.high))
        return sign * found.slope, low, high, True
    if usual is not None:
        return usual / 100, usual / 150, usual / 67, False
    return None, 0.0, 0.0, False


class SagWay(StrEnum):
    """How this model wants its track measured."""

    STANDING = "standing"
    LIFTED = "lifted"


@reading(
    "track-sag",
    Topic.WEAR,
    say("Track sag"),
    [COMMON],
    {"sag": 62, "wanted": 50, "way": "standing", "measured": "standing"},
    mode="tension",
    control="sag",
)
def track_sag(
    sag: Annotated[float, Given(say("Sag in the middle"), "mm", 0, 800, gauge=3, start=60)],
    wanted: Annotated[float, Given(say("What it should be"), "mm", 5, 600)],
    way: Annotated[SagWay, Given(say("How this model wants it measured"))],
    measured: Annotated[SagWay, Given(say("How it was measured"))],
    packed: Annotated[bool, Given(say("Mud or stones packed in the track"))] = False,
) -> Reading:
    """The sag of a track against the unit's figure, measured the way this model wants it.

    Standing, a straight edge over the top run; lifted, at the bottom run: two different figures. Packed mud tightens
    a track: it is cleaned out first, else it is not judged. Returns the share of what it should be [%].

    >>> track_sag(50, 50, SagWay.STANDING, SagWay.STANDING).judgement.band.value
    'in-band'
    """
    if way != measured:
        how = (
            say("standing, straight edge over the top run")
            if way == SagWay.STANDING
            else say("track lifted, at the bottom run")
        )
        return Reading(
            None,
            "%",
            Judgement(Band.REFUSED, say("Measure it {how}.", how=how), say("The two ways have different figures.")),
        )
    if packed:
        return Reading(
            None,
            "%",
            Judgement(
                Band.REFUSED,
                say("Clean the track out, roll one turn, and measure again."),
                say("Packed mud pulls the track tight."),
            ),
        )
    share = 100 * sag / wanted
    wide = 100 * 6 / wanted
    figures = (Figure(say("sag"), sag, as_written("mm")), Figure(say("should be"), wanted, as_written("mm")))
    why = say("It hangs {sag}; it should hang {w}.", sag=Number(sag, 0, "mm"), w=Number(wanted, 0, "mm"))
    low, high = share - wide, share + wide
    if share > 190 or share < 45:
        far = ("tension", {"tension": "far"})
        action = (
            say("No travel but to where it is set: too slack it comes off.")
            if share > 100
            else say("Have it let off before it travels: as tight as that it breaks or wears at once.")
        )
        return Reading(share, "%", Judgement(Band.STOP, action, why, figures), low, high, far)
    if share > 130 or share < 75:
        off = ("tension", {"tension": "off"})
        action = (
            say("Too slack: have it set this week.")
            if share > 100
            else say("Too tight: have it let off this week. The grease comes out slowly, face and hands away.")
        )
        return Reading(share, "%", Judgement(Band.ACT, action, why, figures), low, high, off)
    return Reading(share, "%", Judgement(Band.IN_BAND, say("Good."), why, figures), low, high)


@reading(
    "cylinder-drift",
    Topic.WEAR,
    say("Does a cylinder creep?"),
    [COMMON],
    {"moved": 12, "minutes": 5, "allowed": 5},
    mode="inoperative",
    control="stopwatch",
)
def cylinder_drift(
    moved: Annotated[float, Given(say("How far it sank"), "mm", 0, 3000, gauge=1)],
    minutes: Annotated[float, Given(say("In how many minutes"), "min", 1, 120, gauge=0.02)],
    allowed: Annotated[float, Given(say("Allowed on this machine"), "mm/min", 0.1, 200)],
) -> Reading:
    """Drift of a raised implement over a timed test: nobody under or beside it, load as the manual says.

    >>> cylinder_drift(12, 5, 5).value
    2.4
    """
    rate = moved / minutes
    wide = 2 / minutes
    figures = (Figure(say("sinks"), rate, as_written("mm/min")), Figure(say("allowed"), allowed, as_written("mm/min")))
    why = say("It sinks {r} a minute; {a} are allowed.", r=Number(rate, 1, "mm"), a=Number(allowed, 1, "mm"))
    if rate > 2 * allowed:
        action = say("It does not hold: light work only, nobody under it, never left raised. Have it repaired.")
        return Reading(
            rate,
            "mm/min",
            Judgement(Band.ACT, action, why, figures),
            max(0.0, rate - wide),
            rate + wide,
            ("inoperative", {"works": "dead"}),
        )
    if rate > allowed:
        action = say("More than allowed: never leave it raised, and have it looked at this week.")
        return Reading(
            rate,
            "mm/min",
            Judgement(Band.ACT, action, why, figures),
            max(0.0, rate - wide),
            rate + wide,
            ("inoperative", {"works": "intermittent"}),
        )
    close = say("It holds. Close to the limit: time it again next week.") if rate + wide > allowed else say("It holds.")
    return Reading(rate, "mm/min", Judgement(Band.IN_BAND, close, why, figures), max(0.0, rate - wide), rate + wide)
