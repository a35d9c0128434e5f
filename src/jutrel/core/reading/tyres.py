"""Tyres: cold pressure, sides and duals compared, leak or weather, wheel nuts."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from jutrel.core.amounts import ABSOLUTE_ZERO_C
from jutrel.core.errors import BadInput
from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, reading
from jutrel.core.reading.spread import spread
from jutrel.core.wording import NOTHING, Number, Said, as_written, say, together

GAUGE_KPA = 3.5
"""One standard deviation of a hand gauge: within 1 psi nineteen times in twenty; common practice."""
THERMOMETER_K = 1.5
RUN_FLAT, LOW, ADJUST = 0.80, 0.90, 0.95
"""Shares of the cold pressure. 80 %: 29 CFR 1910.177, a tyre run at or under it is not inflated in place."""
SPREAD_MOST = 0.05
HOT_K = 15.0
"""So far over the air a tyre is warm from work [K]: it is neither filled nor bled; common practice."""
STATES = ("", "losing", "soft", "low", "run-flat")
"""How a tyre stands, from good to the worst: the scale of the rules."""
CYCLE = ("tight", "moved", "loose", "missing")

COMMON = say("common practice")
GAS = say("ideal gas at constant volume; ISA atmosphere")
RUN_FLAT_SOURCE = say("29 CFR 1910.177 (from memory) for the 80 %; otherwise common practice")


def atmosphere(altitude: float) -> float:
    """Pressure of the air [kPa] at a height above the sea [m], standard atmosphere (ISO 2533).

    >>> round(atmosphere(0), 3), round(atmosphere(1500), 2)
    (101.325, 84.56)
    """
    return float(101.325 * (1 - 2.25577e-5 * altitude) ** 5.25588)


def at_temperature(pressure: float, tyre_c: float, cold_c: float, altitude: float = 0.0) -> float:
    """Gauge pressure [kPa] that a tyre at `tyre_c` [°C] will have at `cold_c` [°C], the air in it being the same.

    p_ref = (p + p_atm)·T_ref/T - p_atm, with absolute temperatures.

    >>> round(at_temperature(620, 46, 20), 1), round(at_temperature(690, 61, 20, 1500), 1)
    (561.2, 595.0)
    """
    air = atmosphere(altitude)
    return (pressure + air) * (cold_c - ABSOLUTE_ZERO_C) / (tyre_c - ABSOLUTE_ZERO_C) - air


Pressure = Annotated[float, Given(say("Pressure on the gauge"), "kPa", 0, 1500, gauge=GAUGE_KPA, start=400)]
Cold = Annotated[float, Given(say("Cold pressure of this tyre, at 20 °C"), "kPa", 50, 1500)]
TyreC = Annotated[
    float,
    Given(
        say("Temperature of the tyre"),
        "°C",
        -50,
        120,
        say("After a night it is as cold as the air; driven on, it is warmer. Hold a thermometer to the side wall."),
        InputSource.AIR,
        THERMOMETER_K,
    ),
]
Air = Annotated[float, Given(say("Air temperature"), "°C", -50, 55, known=InputSource.AIR, gauge=1.5)]
Worked = Annotated[bool, Given(say("Driven in the last three hours"))]
Altitude = Annotated[float, Given(say("Height above the sea"), "m", -400, 5000, known=InputSource.ALTITUDE)]


def _state(share: float) -> str:
    if share <= RUN_FLAT:
        return "run-flat"
    if share <= LOW:
        return "low"
    return "soft" if share < ADJUST else ""


@reading(
    "tyre-pressure",
    Topic.TYRES,
    say("Tyre pressure, as if cold"),
    [GAS, RUN_FLAT_SOURCE],
    {"pressure": 620, "cold": 560, "tyre_c": 46},
    mode="pressure",
    control="dial",
)
def tyre_pressure(
    pressure: Pressure, cold: Cold, tyre_c: TyreC, altitude: Altitude = 0.0, air_c: Air = 20.0, worked: Worked = False
) -> Reading:
    """The pressure as it would read at 20 °C, against the tyre's cold pressure.

    Returns the cold pressure [kPa] with the range that gauge and thermometer leave. At or under 80 % it is not
    inflated in place. One more than 15 K over the air, or driven just now, is not judged for filling: it cools first.

    >>> tyre_pressure(620, 560, 46, air_c=40).finding is None
    True
    >>> str(tyre_pressure(455, 450, 68, air_c=24).judgement.action)
    'It is hot: nobody fills or bleeds it. Park it, keep away from it, and read it cold before it works on.'
    """
    as_cold = at_temperature(pressure, tyre_c, 20.0, altitude)
    wide = spread(lambda p, t: at_temperature(p, t, 20.0, altitude), [pressure, tyre_c], [GAUGE_KPA, THERMOMETER_K])
    share = as_cold / cold
    state = _state(share)
    pump = at_temperature(cold, 20.0, tyre_c, altitude)
    figures = (
        Figure(say("on the gauge"), pressure, as_written("kPa")),
        Figure(say("as if at 20 °C"), as_cold, as_written("kPa")),
        Figure(say("give or take"), wide, as_written("kPa")),
        Figure(say("of its cold pressure"), 100 * share, as_written("%")),
        Figure(say("what a good one would read now"), pump, as_written("kPa")),
    )
    why = say(
        "At 20 °C it would read {p}, give or take {wide}: {share} % of the {cold} it should have.",
        p=Number(as_cold, 0, "kPa"),
        wide=Number(wide, 0, "kPa"),
        share=Number(100 * share),
        cold=Number(cold, 0, "kPa"),
    )
    hot = worked or tyre_c - air_c > HOT_K
    band, action = _pressure_says(state, share, pump, hot)
    if not state and not hot and (as_cold - wide) / cold < ADJUST:
        action = together([action, say("It is close to the limit: read it again tomorrow.")])
    if state in ("soft", "low") and (as_cold - wide) / cold <= RUN_FLAT:
        band = Band.STOP
        state = "run-flat"  # until proved otherwise
        action = say("It may be at or under 80 %: keep away from it; a tyre fitter measures it again.")
    found = ("pressure", {"tyre_pressure": state}) if state else None
    return Reading(
        as_cold, "kPa", Judgement(band, action, why, figures), as_cold - wide, as_cold + wide, found, {"share": share}
    )


def _pressure_says(state: str, share: float, pump: float, hot: bool) -> tuple[Band, Said]:
    now = Number(pump, 0, "kPa")
    if hot and state != "run-flat":
        if state:
            says = say(
                "It is hot: nobody fills or bleeds it. Park it, keep away from it, and read it cold before it works on."
            )
            return Band.ACT, says
        return Band.IN_BAND, say("Good for a warm tyre. Leave it, and read it cold.")
    match state:
        case "run-flat":
            return Band.STOP, say(
                "Do not fill it, do not drive, keep away: take it as run flat until a tyre fitter has seen it."
            )
        case "low":
            return Band.ACT, say(
                "Before it starts, inflate it cold to {now}, long hose, standing aside. Look for the cause.",
                now=now,
            )
        case "soft":
            return Band.ACT, say(
                "Inflate it to {now} before it starts: cold, clip-on chuck, long hose, standing aside.", now=now
            )
        case _:
            if share > 1 + SPREAD_MOST:
                return Band.ACT, say("Over its pressure. Read it again after a night; never bleed a warm tyre.")
            return Band.IN_BAND, say("Good. Leave it.")


@reading(
    "tyre-set",
    Topic.TYRES,
    say("All tyres at once"),
    [GAS, RUN_FLAT_SOURCE],
    {"pressures": [450, 445, 380, 340], "cold": [450, 450, 375, 375], "tyre_c": [12, 12, 12, 12]},
    mode="pressure",
    control="tyre-set",
    trend="lowest",
)
def tyre_set(
    pressures: Annotated[
        tuple[float, ...],
        Given(
            say("Pressures, tyre by tyre, left before right"), "kPa", 0, 1500, gauge=GAUGE_KPA, many=(2, 12), start=400
        ),
    ],
    cold: Annotated[
        tuple[float, ...], Given(say("Their cold pressures, in the same order"), "kPa", 50, 1500, many=(2, 12))
    ],
    tyre_c: Annotated[
        tuple[float, ...],
        Given(say("How warm each is"), "°C", -50, 120, known=InputSource.AIR, gauge=THERMOMETER_K, many=(2, 12)),
    ],
    altitude: Altitude = 0.0,
    air_c: Air = 20.0,
    worked: Worked = False,
) -> Reading:
    """Every tyre against its cold pressure, and each pair side to side.

    Tyres stand in pairs, left before right or outer before inner. Returns the widest difference in a pair as a share
    of the higher [%]; more than 5 % is a finding of its own.

    >>> tyre_set([450, 445], [450, 450], [20, 20]).judgement.band.value
    'in-band'
    """
    for name, given in (("cold", cold), ("tyre_c", tyre_c)):
        if len(given) != len(pressures):
            raise BadInput(name, "give one figure for each of the {n} tyres", n=len(pressures))
    if len(pressures) % 2:
        raise BadInput("pressures", "tyres stand in pairs: give an even number")
    singles = [tyre_pressure(p, c, t, altitude, air_c, worked) for p, c, t in zip(pressures, cold, tyre_c, strict=True)]
    values = [float(r.value or 0.0) for r in singles]
    pairs = [(values[n], values[n + 1]) for n in range(0, len(values), 2)]
    gaps = [abs(a - b) / max(a, b, 1.0) for a, b in pairs]
    widest = max(gaps)
    noise = spread(lambda a, b: a - b, [0.0, 0.0], [GAUGE_KPA, GAUGE_KPA]) / max(*values, 1.0)
    order = [Band.IN_BAND, Band.ACT, Band.STOP]
    worst = max(range(len(singles)), key=lambda n: (order.index(singles[n].judgement.band), -singles[n].more["share"]))
    band = singles[worst].judgement.band
    figures = (
        *tuple(Figure(say("tyre {n}, as if at 20 °C", n=n + 1), v, as_written("kPa")) for n, v in enumerate(values)),
        Figure(say("widest difference in a pair"), 100 * widest, as_written("%")),
    )
    parts = []
    if band is not Band.IN_BAND:
        parts.append(say("Tyre {n}: {action}", n=worst + 1, action=singles[worst].judgement.action))
    if widest > SPREAD_MOST:
        band = max(band, Band.ACT, key=order.index)
        pair = gaps.index(widest)
        text = say(
            "Tyres {a} and {b} differ by {gap} %: even them out, cold.",
            a=2 * pair + 1,
            b=2 * pair + 2,
            gap=Number(100 * widest),
        )
        parts.append(text)
    action = together(parts) if parts else say("All good. Leave them.")
    why = say("Each is taken to 20 °C first: a tyre in the sun looks fuller than it is.")
    states = [str(r.finding[1]["tyre_pressure"]) if r.finding else "" for r in singles]
    state = max([*states, "soft" if widest > SPREAD_MOST else ""], key=STATES.index)
    found = ("pressure", {"tyre_pressure": state}) if state else None
    more = {f"cold_{n + 1}": v for n, v in enumerate(values)} | {"lowest": min(r.more["share"] for r in singles)}
    return Reading(
        100 * widest,
        "%",
        Judgement(band, action, why, figures),
        max(0.0, 100 * (widest - noise)),
        100 * (widest + noise),
        found,
        more,
    )


@reading(
    "tyre-loss",
    Topic.TYRES,
    say("Leak or weather?"),
    [GAS, COMMON],
    {"before": 452, "before_c": 18, "now": 418, "now_c": -3, "days": 2, "cold": 450},
    mode="pressure",
    trend="",
)
def tyre_loss(
    before: Annotated[float, Given(say("Pressure last time"), "kPa", 0, 1500, known=InputSource.LAST)],
    before_c: Annotated[float, Given(say("Temperature of the tyre last time"), "°C", -50, 120, known=InputSource.LAST)],
    now: Pressure,
    now_c: TyreC,
    days: Annotated[float, Given(say("Days between the two"), "d", 0.1, 400, known=InputSource.SINCE_LAST)],
    cold: Cold,
    altitude: Altitude = 0.0,
) -> Reading:
    """What was lost a day once the weather is taken out, and whether that is more than gauge and thermometer leave.

    Returns the loss [kPa/d]; positive is air lost. A loss inside the range of the two gauges counts as weather.

    >>> round(tyre_loss(450, 20, 419.3, 4, 1, 450).value or 0, 1)
    0.6
    """

    def loss(p0: float, t0: float, p1: float, t1: float) -> float:
        return (at_temperature(p0, t0, 20.0, altitude) - at_temperature(p1, t1, 20.0, altitude)) / days

    rate = loss(before, before_c, now, now_c)
    sigmas = [GAUGE_KPA, THERMOMETER_K, GAUGE_KPA, THERMOMETER_K]
    wide = spread(loss, [before, before_c, now, now_c], sigmas)
    as_cold = at_temperature(now, now_c, 20.0, altitude)
    to_flat = (as_cold - RUN_FLAT * cold) / rate if rate > 0 else None
    figures = (
        Figure(say("last time, as if at 20 °C"), at_temperature(before, before_c, 20.0, altitude), as_written("kPa")),
        Figure(say("now, as if at 20 °C"), as_cold, as_written("kPa")),
        Figure(say("lost a day"), rate, as_written("kPa/d")),
        Figure(say("give or take"), wide, as_written("kPa/d")),
    )
    if rate <= wide:
        why = say(
            "The loss of {rate} a day is inside what two gauges leave ({wide}).",
            rate=Number(rate, 1, "kPa"),
            wide=Number(wide, 1, "kPa"),
        )
        words = Judgement(Band.IN_BAND, say("Weather: the air in it is the same."), why, figures)
        return Reading(rate, "kPa/d", words, rate - wide, rate + wide)
    soon = to_flat is not None and to_flat < 1.5
    action = (
        say("It leaks: within a shift or two it would be run flat. First a tyre fitter finds the hole.")
        if soon
        else say(
            "It leaks slowly. Look for the nail, valve or rim; it reaches 80 % in about {n} day.",
            many="It leaks slowly. Look for the nail, valve or rim; it reaches 80 % in about {n} days.",
            n=round(to_flat or 0.0),
        )
    )
    why = say(
        "Weather taken out, {rate} a day are missing, give or take {wide}.",
        rate=Number(rate, 1, "kPa"),
        wide=Number(wide, 1, "kPa"),
    )
    state = max(_state(as_cold / cold) or "losing", "low" if soon else "", key=STATES.index)
    band = Band.STOP if soon or state == "run-flat" else Band.ACT
    return Reading(
        rate,
        "kPa/d",
        Judgement(band, action, why, figures),
        rate - wide,
        rate + wide,
        ("pressure", {"tyre_pressure": state}),
    )


class Nut(StrEnum):
    """How a wheel nut stands."""

    TIGHT = "tight"
    MOVED = "moved"
    LOOSE = "loose"
    MISSING = "missing"


@reading(
    "wheel-nuts",
    Topic.TYRES,
    say("Wheel nuts"),
    [COMMON],
    {"nuts": [0, 0, 1, 0, 0, 0, 2, 0, 0, 0]},
    mode="fastener",
    control="nuts",
    trend="",
)
def wheel_nuts(
    nuts: Annotated[
        tuple[float, ...],
        Given(
            say("Nut by nut round the wheel: 0 tight, 1 mark moved or rust streak, 2 loose, 3 missing"),
            "",
            0,
            3,
            many=(4, 60),
            start=0,
            whole=True,
        ),
    ],
) -> Reading:
    """The circle of nuts, one by one.

    Returns how many are loose or missing. Any is at least Limit; two side by side, or one in five, is a Hold. Nothing
    is tightened to hide it: the cause, the stud and the rim are looked at.

    >>> wheel_nuts([0] * 10).finding, wheel_nuts([2, 2, *[0] * 10]).finding[1]["fastener_share"]
    (None, 'fifth')
    """
    total = len(nuts)
    gone = [n >= 2 for n in nuts]
    count = sum(gone)
    moved = sum(n == 1 for n in nuts)
    off = [n >= 1 for n in nuts]
    # A mark that moved beside a loose nut: two side by side.
    beside = any((gone[n] and off[(n + 1) % total]) or (off[n] and gone[(n + 1) % total]) for n in range(total))
    figures = (
        Figure(say("nuts"), float(total), NOTHING),
        Figure(say("marks moved"), float(moved), NOTHING),
        Figure(say("loose or missing"), float(count), NOTHING),
    )
    if not count and not moved:
        words = Judgement(
            Band.IN_BAND, say("All tight."), say("Every mark is in line and every nut is tight."), figures
        )
        return Reading(0.0, "", words, 0.0, 0.0)
    if not count:
        why = say("A nut whose mark has moved, or that has a rust streak, has turned or is about to.")
        action = say("Check all of them with the wrench before it moves, and again after two hours.")
        return Reading(
            0.0,
            "",
            Judgement(Band.ACT, action, why, figures),
            0.0,
            float(moved),
            ("fastener", {"fastener_state": "mark-moved"}),
        )
    share = "fifth" if beside or count / total >= 0.2 else "one" if count == 1 else "several"
    state = "missing" if 3 in nuts else "loose"
    if share == "fifth" or state == "missing" or share == "several":
        band = Band.STOP
        action = say("Do not move it: the wheel can come off. Have studs, nuts and rim looked at.")
        why = say("What is loose or missing loads its neighbours, and they follow.")
    else:
        band = Band.ACT
        action = say("Tighten it with the wrench before it moves, and check all of them after two hours.")
        why = say("A loose nut loads its neighbours, and they follow.")
    found = ("fastener", {"fastener_state": state, "fastener_share": share})
    return Reading(float(count), "", Judgement(band, action, why, figures), float(count), float(count + moved), found)
