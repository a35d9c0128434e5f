"""Air filter restriction and drive belts."""

from __future__ import annotations

from typing import Annotated

from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, reading
from jutrel.core.reading.slope import Trend, trend
from jutrel.core.reading.tyres import atmosphere
from jutrel.core.wording import Number, as_written, say

COMMON = say("common practice")
BLOW = say("29 CFR 1910.242(b) (from memory): under 207 kPa; otherwise common practice")
BELT = say("1/64 in per inch of span, from memory")


@reading(
    "air-restriction",
    Topic.AIR,
    say("Air filter restriction"),
    [BLOW],
    {"restriction": 4.1, "limit": 6.2, "altitude": 600},
    mode="dirty wear",
    control="restriction",
)
def air_restriction(
    restriction: Annotated[
        float, Given(say("What the filter's indicator shows at full speed"), "kPa", 0, 15, gauge=0.2, start=2)
    ],
    limit: Annotated[float, Given(say("Limit of this element"), "kPa", 1, 15)],
    altitude: Annotated[float, Given(say("Height above the sea"), "m", -400, 5000, known=InputSource.ALTITUDE)] = 0.0,
    tripped_after_cleaning: Annotated[bool, Given(say("Still red after it was cleaned and reset"))] = False,
    hours: Annotated[
        tuple[float, ...] | None,
        Given(say("Hours at earlier readings"), "h", 0, 1e6, known=InputSource.SERIES_HOURS, many=(0, 500)),
    ] = None,
    earlier: Annotated[
        tuple[float, ...] | None,
        Given(say("Restriction at earlier readings"), "kPa", 0, 15, known=InputSource.SERIES, many=(0, 500)),
    ] = None,
) -> Reading:
    """Restriction against the element's limit, as it would be at sea level, and from history the hours left.

    Thin air pulls less through the same dirt: the reading is taken to sea level by the pressure of the air. The
    outer element may be blown out from inside with at most 207 kPa; the inner one is only replaced.

    >>> round(air_restriction(4.1, 6.2, 600).value or 0, 2)
    4.4
    """
    here = restriction * atmosphere(0) / atmosphere(altitude)
    wide = 0.4 * atmosphere(0) / atmosphere(altitude)
    row: Trend | None = trend(hours, earlier) if hours and earlier and len(hours) == len(earlier) else None
    left = (limit - here) / row.slope if row is not None and row.slope > 0 else None
    figures = [
        Figure(say("as if at sea level"), here, as_written("kPa")),
        Figure(say("of the limit"), 100 * here / limit, as_written("%")),
    ]
    if left is not None:
        figures.append(Figure(say("hours to the limit"), left, as_written("h")))
    why = say("{share} % of what this element may have.", share=Number(100 * here / limit))
    more = {"share": here / limit, "limit": limit} | ({"hours_left": left} if left is not None else {})
    if tripped_after_cleaning or here >= limit:
        action = (
            say("Do not run it: still tripped after cleaning. New element; run it only with one.")
            if tripped_after_cleaning
            else say(
                "Clean or change the outer element before start: out of the machine, away from people, at most 207 kPa."
            )
        )
        band = Band.STOP if tripped_after_cleaning else Band.ACT
        found = ("wear", {"wear": "beyond"}) if tripped_after_cleaning else ("dirty", {"dirt": "heavy"})
        words = Judgement(band, action, why, tuple(figures))
        return Reading(here, "kPa", words, here - wide, here + wide, found, more)
    if here + wide >= limit or (left is not None and left < 50) or here > 0.85 * limit:
        action = say("Plan to clean or change the outer element this week. Do not wait for it to trip.")
        return Reading(
            here,
            "kPa",
            Judgement(Band.ACT, action, why, tuple(figures)),
            here - wide,
            here + wide,
            ("dirty", {"dirt": "light"}),
            more,
        )
    words = Judgement(Band.IN_BAND, say("Good. Leave it shut: opening it lets dust in."), why, tuple(figures))
    return Reading(here, "kPa", words, max(0.0, here - wide), here + wide, None, more)


@reading(
    "belt-deflection",
    Topic.AIR,
    say("Belt tension"),
    [BELT],
    {"span": 420, "deflection": 9},
    mode="abnormal",
    control="belt",
)
def belt_deflection(
    span: Annotated[float, Given(say("Free span between the pulleys"), "mm", 50, 2000)],
    deflection: Annotated[
        float, Given(say("How far it gives in the middle, under the maker's force"), "mm", 0, 100, gauge=1, start=6)
    ],
    per_metre: Annotated[float, Given(say("What it should give per metre of span"), "mm/m", 2, 60)] = 15.625,
) -> Reading:
    """How far a belt gives in the middle of a span against what it should. Engine off, key out, fan still.

    >>> belt_deflection(420, 6.5).judgement.band.value
    'in-band'
    """
    wanted = span / 1000 * per_metre
    ratio = deflection / wanted
    figures = (Figure(say("should give"), wanted, as_written("mm")), Figure(say("gives"), deflection, as_written("mm")))
    why = say("A span of {span} should give {w}.", span=Number(span, 0, "mm"), w=Number(wanted, 1, "mm"))
    low, high = (deflection - 2) / wanted, (deflection + 2) / wanted
    if ratio > 2:
        words = Judgement(
            Band.ACT, say("Far too loose: it slips and can come off. Have it tightened before long work."), why, figures
        )
        return Reading(ratio, "", words, low, high, ("abnormal", {"abnormal": "noise"}))
    if ratio > 1.4:
        words = Judgement(Band.ACT, say("Loose. Have it tightened this week, and look at its edges."), why, figures)
        return Reading(ratio, "", words, low, high, ("abnormal", {"abnormal": "noise"}))
    if ratio < 0.6:
        words = Judgement(Band.ACT, say("Too tight: it wears bearings. Have it let off."), why, figures)
        return Reading(ratio, "", words, low, high, ("abnormal", {"abnormal": "noise"}))
    return Reading(ratio, "", Judgement(Band.IN_BAND, say("Good."), why, figures), low, high)
