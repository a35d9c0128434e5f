"""Start, warm-up and cool-down: how long, and why."""

from __future__ import annotations

import math
from typing import Annotated

from jutrel.core.errors import BadInput
from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.oil import GENTLE, LOAD, temperature_for
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, reading
from jutrel.core.wording import Number, Said, as_written, say

LUMPED = say("lumped thermal model, closed form; checked against a numerical integrator; limits: common practice")
LEAST_MIN, COOLANT_C, STILL_WARM_MIN = 5.0, 40.0, 30.0
"""Idling from cold at least [min], coolant that is warm [°C], and how long it stays so without a doubt [min]; common
practice."""


def minutes_to(target: float, start: float, air: float, rise: float, tau: float) -> float | None:
    """Minutes until a body warmed by a steady source reaches a temperature [°C]; None if it never does.

    C·dT/dt = P - hA·(T - T_air): T nears air + rise with the time constant tau [min].

    >>> round(minutes_to(40, 0, 0, 80, 20) or 0, 2), minutes_to(90, 0, 0, 80, 20) is None
    (13.86, True)
    """
    if start >= target:
        return 0.0
    end = air + rise
    return None if end <= target else tau * math.log((end - start) / (end - target))


def _warms(coolant: float, oil: float, gentle: float) -> Said:
    """What has to get warmer, and from what to what [°C]."""
    c, o = Number(coolant, 0, "°C"), Number(oil, 0, "°C")
    t, g = Number(COOLANT_C, 0, "°C"), Number(gentle, 0, "°C")
    if coolant >= COOLANT_C and oil >= gentle:
        return say("Coolant and oil are still warm: {c} and {o}.", c=c, o=o)
    if oil >= gentle:
        return say("The coolant has to come from {c} to {t}; the oil is warm enough.", c=c, t=t)
    if coolant >= COOLANT_C:
        return say("The oil has to come from {o} to {g}; the coolant is warm enough.", o=o, g=g)
    return say("Coolant from {c} to {t}, oil from {o} to {g}.", c=c, t=t, o=o, g=g)


@reading(
    "warm-up",
    Topic.START,
    say("Warm-up time"),
    [LUMPED],
    {"air_c": -5, "soak_h": 12, "last_c": 80, "v40": 46, "v100": 6.8},
    trend="",
)
def warm_up(
    air_c: Annotated[float, Given(say("Air temperature"), "°C", -50, 55, known=InputSource.AIR, gauge=1.5)],
    soak_h: Annotated[float, Given(say("Hours since the engine stopped"), "h", 0, 10_000)] = 12.0,
    last_c: Annotated[float, Given(say("Coolant then"), "°C", -40, 120)] = 80.0,
    heater: Annotated[bool, Given(say("Block heater was on"))] = False,
    v40: Annotated[float, Given(say("Hydraulic oil at 40 °C"), "mm²/s", 5, 500)] = 46.0,
    v100: Annotated[float, Given(say("Hydraulic oil at 100 °C"), "mm²/s", 2, 60)] = 6.8,
    coolant_tau: Annotated[float, Given(say("Time constant of the coolant"), "min", 2, 120)] = 18.0,
    coolant_rise: Annotated[float, Given(say("Coolant over air, idling, in the end"), "K", 20, 120)] = 75.0,
    oil_tau: Annotated[float, Given(say("Time constant of the oil"), "min", 5, 400)] = 45.0,
    oil_rise: Annotated[float, Given(say("Oil over air, idling, in the end"), "K", 10, 100)] = 55.0,
    coolant_c: Annotated[float | None, Given(say("Coolant now, from its gauge"), "°C", -50, 130)] = None,
) -> Reading:
    """Minutes of idling until the coolant has 40 °C and the oil may be worked gently; never under five from cold.

    Still warm after a short stop (coolant over 40 °C, stood for less than half an hour) it needs only what is lacking.
    A block heater starts the coolant 30 K above the air. What cannot be reached by idling is said: then the
    implements are moved gently, unloaded, to warm the oil.

    >>> warm_up(20, 0.1).value, round(warm_up(20, 12).value, 1)
    (0.0, 5.3)
    >>> str(warm_up(20, 0.1).judgement.why)
    'Coolant and oil are still warm: 78 °C and 59 °C.'
    """
    if v100 >= v40:
        raise BadInput("v100", "an oil is thinner at 100 °C than at 40 °C; check which is which")
    cooled = air_c + (last_c - air_c) * math.exp(-soak_h * 60 / 180)
    coolant = coolant_c if coolant_c is not None else max(cooled, air_c + 30) if heater else cooled
    oil = air_c + (min(last_c, 60.0) - air_c) * math.exp(-soak_h * 60 / 240)
    gentle, load = temperature_for(GENTLE, v40, v100), temperature_for(LOAD, v40, v100)
    to_coolant = minutes_to(COOLANT_C, coolant, air_c, coolant_rise, coolant_tau)
    to_gentle = minutes_to(gentle, oil, air_c, oil_rise, oil_tau)
    to_load = minutes_to(load, oil, air_c, oil_rise, oil_tau)
    reached = [m for m in (to_coolant, to_gentle) if m is not None]
    warm = coolant > COOLANT_C and soak_h * 60 < STILL_WARM_MIN
    least = 0.0 if warm else LEAST_MIN
    wait = max(least, *reached) if reached else least
    figures = [
        Figure(say("coolant now"), coolant, as_written("°C")),
        Figure(say("oil now"), oil, as_written("°C")),
        Figure(say("oil: gently from"), gentle, as_written("°C")),
        Figure(say("oil: loaded from"), load, as_written("°C")),
    ]
    why = _warms(coolant, oil, gentle)
    more = {
        "gentle_min": to_gentle if to_gentle is not None else -1.0,
        "load_min": to_load if to_load is not None else -1.0,
    }
    n = math.ceil(wait - 1e-9)
    if to_coolant is None or to_gentle is None:
        action = say(
            "Idling alone does not warm it: after {n} move the implements gently, unloaded, and keep at it.",
            n=Number(n, 0, "min"),
        )
        return Reading(float(n), "min", Judgement(Band.ACT, action, why, tuple(figures)), 0.8 * n, 1.6 * n, None, more)
    action = say("Idle {n}, then move gently.", n=Number(n, 0, "min"))
    if wait == 0:
        action = say("Still warm: look at the gauges, then move gently.")
    return Reading(
        float(wait), "min", Judgement(Band.IN_BAND, action, why, tuple(figures)), 0.8 * wait, 1.3 * wait, None, more
    )


@reading(
    "cool-down", Topic.START, say("Cool-down before shutdown"), [LUMPED], {"turbo_c": 480, "safe_c": 220}, trend=""
)
def cool_down(
    turbo_c: Annotated[float, Given(say("Turbine housing, from the last ten minutes' load"), "°C", 50, 900)],
    safe_c: Annotated[float, Given(say("Safe to stop at"), "°C", 60, 600)] = 220.0,
    idle_c: Annotated[float, Given(say("Where it settles at idle"), "°C", 40, 400)] = 150.0,
    tau: Annotated[float, Given(say("Time constant"), "min", 0.3, 20)] = 2.0,
    least: Annotated[float, Given(say("House rule: at least"), "min", 0, 30)] = 3.0,
    most: Annotated[float, Given(say("House rule: at most"), "min", 1, 30)] = 10.0,
) -> Reading:
    """Minutes of idling before the engine is stopped: tau·ln((T - T_idle)/(T_safe - T_idle)), within the house rule.

    >>> round(cool_down(480).value or 0, 2), cool_down(100).value
    (3.1, 3.0)
    """
    if safe_c <= idle_c:
        needed = most
    elif turbo_c <= safe_c:
        needed = 0.0
    else:
        needed = tau * math.log((turbo_c - idle_c) / (safe_c - idle_c))
    minutes = min(max(needed, least), max(least, most))
    figures = (Figure(say("by the model"), needed, as_written("min")), Figure(say("idle"), minutes, as_written("min")))
    why = say("Hot oil would bake in a turbocharger that stops at once.")
    words = Judgement(
        Band.ACT if minutes > 0 else Band.IN_BAND,
        say("Idle {n}, then stop.", n=Number(minutes, 1, "min")),
        why,
        figures,
    )
    return Reading(minutes, "min", words, min(minutes, 0.8 * needed) if needed else minutes, max(minutes, 1.2 * needed))


@reading(
    "cranking",
    Topic.START,
    say("Cranking"),
    [say("common practice")],
    {"tries": 1, "seconds": 12, "rested_s": 0},
    control="stopwatch",
    trend="",
)
def cranking(
    tries: Annotated[float, Given(say("Tries so far"), "", 0, 20, whole=True)],
    seconds: Annotated[float, Given(say("Cranked in the last"), "s", 0, 120)],
    rested_s: Annotated[float, Given(say("Rested since"), "s", 0, 100_000)],
) -> Reading:
    """Whether it may be cranked again: at most 30 s, two minutes' rest, three tries, then look for the cause.

    Returns the rest still due [s].

    >>> cranking(1, 30, 50).value, cranking(3, 20, 500).judgement.band.value
    (70.0, 'stop')
    """
    rest = max(0.0, 120 - rested_s) if tries >= 1 else 0.0
    figures = (Figure(say("rest still due"), rest, as_written("s")),)
    why = say("A starter takes 30 s at most, and two minutes to cool.")
    if tries >= 3:
        words = Judgement(
            Band.STOP, say("Three tries: stop and look for the cause. Fuel, air, battery, interlock."), why, figures
        )
    elif seconds > 30 or rest > 0:
        words = Judgement(Band.ACT, say("Let the starter rest {n} s more.", n=Number(rest)), why, figures)
    else:
        words = Judgement(Band.IN_BAND, say("Crank for 30 s at most."), why, figures)
    return Reading(rest, "s", words, rest, rest)
