"""The level in a hydraulic tank, corrected for posture, temperature and tilt.

A sight gauge is marked for one posture, cold oil and level ground. Rods that are
out hold oil that the tank lacks; cold oil is smaller than warm oil; a tilted tank
reads high at its low end. Each of the three is taken out before the level is judged.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from jutrel.core.amounts import LITRES_PER_M3, celsius, number
from jutrel.core.machine.model import HydraulicTank
from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.wording import Number, Said, as_written, say

EXPANSION_PER_K = 7e-4
"""Volumetric expansion of mineral hydraulic oil [1/K]; common practice."""
EXPANSION_SPREAD = 1e-4
MAX_TILT_DEG = 3.0
MAX_COLD_GAUGE_C = 50.0
SEEN_SPREAD = 0.04
"""How well a line on a glass is read, as a share of the band."""
TILT_SPREAD_DEG = 0.5
OIL_SPREAD_K = 3.0
NOTHING_SEEN = -0.75
"""Where the drawn glass ends: no oil was seen in it, and how far down it stands nobody knows."""
OF_THE_GAP = say("% of the gap between the marks")
EMPTY_BELOW = -0.5
"""Half a band under the low mark the pump may draw air: common practice, the manual decides."""


@dataclass(frozen=True, slots=True)
class HydraulicLevel:
    """A corrected level. `corrected` is 0 at the low and 1 at the full mark; None when refused.

    `low`..`high` is the range that the uncertain inputs leave. The three corrections
    are shares of the band, added to what was seen. `litres_to_middle` [L] is positive
    when oil is missing.
    """

    seen: float
    posture: float
    temperature: float
    tilt: float
    corrected: float | None
    low: float | None
    high: float | None
    litres_to_middle: float | None
    judgement: Judgement


def rod_volume(count: int, diameter: float, stroke: float, extension: float = 1.0) -> float:
    """Oil [L] that `count` cylinders take from the tank as their rods come out.

    n·π/4·d²·stroke·extension, with diameter and stroke in metres: coming out, the
    piston side takes in a whole bore while the rod side gives back a ring.

    >>> round(rod_volume(2, 0.105, 1.48), 2)
    25.63
    """
    return count * math.pi / 4 * diameter**2 * stroke * extension * LITRES_PER_M3


def expansion(volume: float, warmer_by: float, alpha: float = EXPANSION_PER_K) -> float:
    """Change of volume V·α·ΔT, in the unit of `volume`, for a warming of `warmer_by` [K].

    >>> round(expansion(200.0, -24.0), 2)
    -3.36
    """
    return volume * alpha * warmer_by


def tilt_rise(offset: float, angle_deg: float) -> float:
    """How much higher [m] the oil stands at a gauge `offset` [m] to the low side: x·tan θ.

    >>> round(tilt_rise(0.30, 2.0) * 1000, 1)
    10.5
    """
    return offset * math.tan(math.radians(angle_deg))


def slope_deg(pitch_deg: float, roll_deg: float) -> float:
    """The steepest slope [°] of ground that is pitched and rolled at once.

    >>> round(slope_deg(2.0, 2.0), 2)
    2.83
    """
    return math.degrees(math.atan(math.hypot(math.tan(math.radians(pitch_deg)), math.tan(math.radians(roll_deg)))))


def hydraulic_level(
    tank: HydraulicTank,
    seen: float,
    oil_c: float,
    pitch_deg: float,
    roll_deg: float,
    extensions: Mapping[str, float],
) -> HydraulicLevel:
    """The level as it would read cold, on level ground, in the maker's posture.

    Parameters
    ----------
    tank : the tank, its gauge and its cylinders
    seen : the oil line, 0 at the low mark, 1 at the full mark; below or above is allowed to ±1.5
    oil_c : oil temperature [°C]
    pitch_deg : nose-down slope [°]; oil runs forward when it is positive
    roll_deg : left-side-down slope [°]; oil runs left when it is positive
    extensions : rods out, 0 to 1, for each rod group of the tank

    Raises
    ------
    BadInput
        For a figure that cannot be, or a rod group without its extension.

    Notes
    -----
    Refused, not corrected, on more than 3° or with oil over 50 °C: the corrections
    are then larger than the band they are meant to refine.

    References
    ----------
    Geometry and thermal expansion; the two limits and α are common practice.
    """
    seen = number("seen", seen, -1.5, 2.5)
    oil_c = celsius("oil_c", oil_c)
    pitch_deg = number("pitch_deg", pitch_deg, -45, 45)
    roll_deg = number("roll_deg", roll_deg, -45, 45)
    out = {}
    for rods in tank.rods:
        out[rods.id] = number(f"extensions.{rods.id}", extensions.get(rods.id, math.nan), 0, 1)

    slope = slope_deg(pitch_deg, roll_deg)
    if slope > MAX_TILT_DEG + 1e-9:
        return _refused(
            seen,
            say("Move to level ground, then read the glass."),
            say(
                "The machine stands on {slope}°. Over {most}° a glass at the side "
                "of the tank says more about the slope than about the oil.",
                slope=Number(slope, 1),
                most=Number(MAX_TILT_DEG),
            ),
            Figure(say("slope"), slope, as_written("°")),
        )
    if oil_c > MAX_COLD_GAUGE_C:
        return _refused(
            seen,
            say("Wait until the oil has cooled, then read the glass."),
            say(
                "The oil is at {oil}. This glass is marked for cold oil; over "
                "{most} it reads high and invites too little oil.",
                oil=Number(oil_c, 0, "°C"),
                most=Number(MAX_COLD_GAUGE_C, 0, "°C"),
            ),
            Figure(say("oil temperature"), oil_c, as_written("°C")),
        )

    per_band = 1 / (tank.area * tank.band * LITRES_PER_M3)
    held_by_rods = sum(
        rod_volume(r.count, r.rod_diameter, r.stroke, out[r.id] - r.extension_at_check) for r in tank.rods
    )
    posture = held_by_rods * per_band
    colder_by = tank.cold_c - oil_c
    temperature = expansion(tank.system_oil, colder_by) * per_band
    rise = tilt_rise(tank.gauge_x, pitch_deg) + tilt_rise(tank.gauge_y, roll_deg)
    tilt = -rise / tank.band
    corrected = seen + posture + temperature + tilt

    spread = math.sqrt(
        SEEN_SPREAD**2
        + (expansion(tank.system_oil, OIL_SPREAD_K) * per_band) ** 2
        + (expansion(tank.system_oil, colder_by, EXPANSION_SPREAD) * per_band) ** 2
        + (tilt_rise(math.hypot(tank.gauge_x, tank.gauge_y), TILT_SPREAD_DEG) / tank.band) ** 2
    )
    to_middle = (0.5 - corrected) / per_band
    figures = (
        Figure(say("seen"), 100 * seen, OF_THE_GAP),
        Figure(say("rods out"), 100 * posture, OF_THE_GAP),
        Figure(say("oil temperature"), 100 * temperature, OF_THE_GAP),
        Figure(say("slope"), 100 * tilt, OF_THE_GAP),
        Figure(say("corrected"), 100 * corrected, OF_THE_GAP),
        Figure(say("uncertainty"), 100 * spread, OF_THE_GAP),
        Figure(say("to the middle"), to_middle, as_written("L")),
    )
    return HydraulicLevel(
        seen,
        posture,
        temperature,
        tilt,
        corrected,
        corrected - spread,
        corrected + spread,
        to_middle,
        _judged(tank, seen, corrected, spread, to_middle, figures),
    )


def _refused(seen: float, action: Said, why: Said, figure: Figure) -> HydraulicLevel:
    return HydraulicLevel(seen, 0.0, 0.0, 0.0, None, None, None, None, Judgement(Band.REFUSED, action, why, (figure,)))


def _judged(
    tank: HydraulicTank, seen: float, corrected: float, spread: float, to_middle: float, figures: tuple[Figure, ...]
) -> Judgement:
    why = say(
        "Cold ({cold}), level and in the checking posture it stands at {line}\u00a0% between the marks, give or take "
        "{spread}\u00a0%.",
        cold=Number(tank.cold_c, 0, "°C"),
        line=Number(100 * corrected),
        spread=Number(100 * spread),
    )
    if seen <= NOTHING_SEEN:
        return Judgement(
            Band.STOP,
            say("Do not start. No oil shows in the glass: find where it went, fill until it shows, read it again."),
            say("The oil is below the glass, so its level is unknown: slope and heat cannot be allowed for."),
            figures,
        )
    if corrected < EMPTY_BELOW:
        action = say(
            "Do not start. Find where the oil went, then add about {litres}.", litres=Number(to_middle, 0, "L")
        )
        return Judgement(Band.STOP, action, why, figures)
    if corrected < 0:
        low = say("Low. Add about {litres} of the right oil and look for the leak.", litres=Number(to_middle, 0, "L"))
        return Judgement(Band.ACT, low, why, figures)
    if corrected > 1:
        full = say("Too full. Drain about {litres}: warm oil needs the room.", litres=Number(-to_middle, 0, "L"))
        return Judgement(Band.ACT, full, why, figures)
    if seen < 0:
        looks = say("Good. It only looks low: do not top up, that would overfill it.")
        return Judgement(Band.IN_BAND, looks, why, figures)
    if corrected - spread < 0:
        return Judgement(Band.IN_BAND, say("Good, close to the low mark. Read it again tomorrow."), why, figures)
    return Judgement(Band.IN_BAND, say("Good. Do not top up."), why, figures)
