"""The hydraulic glass as a reading: of any tank, whose figures are inputs, and of a machine, whose tank is known."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated

from jutrel.core.amounts import LITRES_PER_M3
from jutrel.core.errors import BadInput
from jutrel.core.inspection.kinds import OUT
from jutrel.core.machine.model import HydraulicTank, RodGroup
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.registry import Given, InputSource, Reading, Topic, reading
from jutrel.core.reading.tank import HydraulicLevel, hydraulic_level
from jutrel.core.wording import say

GLASS = say("geometry and thermal expansion; 3°, 50 °C and 0.0007 /K: common practice")


@reading(
    "hydraulic-glass",
    Topic.LEVELS,
    say("Hydraulic glass"),
    [GLASS],
    {"seen": -0.1, "oil_c": 38, "area": 0.45, "gap": 0.12, "rods": 2, "rod": 0.105, "stroke": 1.48, "out": 1.0},
    mode="level",
    control="glass",
)
def hydraulic_glass(
    seen: Annotated[
        float,
        Given(say("Where it stands: 0 at the low mark, 1 at the full mark"), "", -1.5, 2.5, gauge=0.04, start=0.5),
    ],
    oil_c: Annotated[float, Given(say("Temperature of the oil"), "°C", -50, 120, known=InputSource.AIR, gauge=3)],
    area: Annotated[float, Given(say("Surface of the oil in the tank"), "m²", 0.01, 10)],
    gap: Annotated[float, Given(say("From the low to the full mark"), "m", 0.01, 1)],
    rods: Annotated[float, Given(say("Rods that are out or in"), "", 0, 4, whole=True)] = 0.0,
    rod: Annotated[float, Given(say("Thickness of a rod"), "m", 0.01, 0.5)] = 0.1,
    stroke: Annotated[float, Given(say("Stroke"), "m", 0.05, 5)] = 1.0,
    out: Annotated[float, Given(say("How far out: 0 in, 1 out"), "", 0, 1)] = 0.0,
    out_at_check: Annotated[float, Given(say("How far out when it is meant to be read"), "", 0, 1)] = 0.0,
    system_oil: Annotated[float, Given(say("Oil in the whole system"), "L", 1, 10_000)] = 200.0,
    cold_c: Annotated[float, Given(say("The glass is marked for"), "°C", -40, 50)] = 20.0,
    pitch: Annotated[float, Given(say("Nose down"), "°", -45, 45, known=InputSource.PITCH, gauge=0.5)] = 0.0,
    roll: Annotated[float, Given(say("Left side down"), "°", -45, 45, known=InputSource.ROLL, gauge=0.5)] = 0.0,
    gauge_x: Annotated[float, Given(say("Glass ahead of the tank's middle"), "m", -2, 2)] = 0.0,
    gauge_y: Annotated[float, Given(say("Glass left of the tank's middle"), "m", -2, 2)] = 0.0,
) -> Reading:
    """The level as it would read cold, level and in posture; what to add or drain.

    Returns the corrected line, 0 at the low and 1 at the full mark.

    >>> round(hydraulic_glass(-0.1, 38, 0.45, 0.12, rods=2, rod=0.105, stroke=1.48, out=1).value or 0, 2)
    0.33
    """
    group = (RodGroup("rods", "Rods", int(rods), rod, stroke, out_at_check),) if rods >= 1 else ()
    tank = HydraulicTank(area, gap, gauge_x, gauge_y, system_oil, cold_c, "", group)
    level = hydraulic_level(tank, seen, oil_c, pitch, roll, {"rods": out} if group else {})
    return reading_of_level(level, tank)


LEVEL_FIGURES = ("seen", "oil_c", "pitch_deg", "roll_deg")
"""What is read of the hydraulic level of a machine whose tank is known, beside how far its rods are out."""


def level_inputs(tank: HydraulicTank) -> tuple[str, ...]:
    """What has to be said of a machine's level: its figures, and how far each group of its rods is out."""
    return (*LEVEL_FIGURES, *(f"{OUT}{r.id}" for r in tank.rods))


def machine_level(tank: HydraulicTank, given: Mapping[str, object]) -> Reading:
    """The hydraulic level of a machine by its own tank.

    `given`: what stands in the glass and how the machine stands, and how far each group of rods is out under `out.`
    and its name. Raises BadInput for a figure that cannot be, or that is missing.
    """
    figures = {key: _figure(given, key) for key in level_inputs(tank)}
    out = {r.id: figures[f"{OUT}{r.id}"] for r in tank.rods}
    seen, oil_c, pitch, roll = (figures[key] for key in LEVEL_FIGURES)
    return reading_of_level(hydraulic_level(tank, seen, oil_c, pitch, roll, out), tank)


def _figure(given: Mapping[str, object], key: str) -> float:
    value = given.get(key)
    if value is None:
        raise BadInput(key, "is missing")
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        raise BadInput(key, "give a plain number, not {it}", it=repr(value)[:60])
    return float(value)


def reading_of_level(level: HydraulicLevel, tank: HydraulicTank) -> Reading:
    """A level as a reading: the corrected line, the finding that it amounts to, what was taken out of it.

    Its `reserve` [L] stands above the low mark.
    """
    if level.corrected is None:
        return Reading(None, "", level.judgement)
    state = None
    if level.judgement.band is Band.STOP:
        state = {"low_level": "very-low"}
    elif level.judgement.band is Band.ACT:
        state = {"low_level": "low"} if level.corrected < 0 else {"over_level": "over"}
    more = {
        "posture": level.posture,
        "temperature": level.temperature,
        "tilt": level.tilt,
        "litres": level.litres_to_middle or 0.0,
        "reserve": max(0.0, level.corrected) * tank.area * tank.band * LITRES_PER_M3,
    }
    return Reading(
        level.corrected, "", level.judgement, level.low, level.high, ("level", state) if state else None, more
    )


def level_told(seen: float, r: Reading) -> HydraulicLevel:
    """A reading of a machine's level with its parts by name; `seen`: what stood in the glass."""
    posture, temperature, tilt = (r.more.get(k, 0.0) for k in ("posture", "temperature", "tilt"))
    litres = r.more.get("litres") if r.value is not None else None
    return HydraulicLevel(seen, posture, temperature, tilt, r.value, r.low, r.high, litres, r.judgement)
