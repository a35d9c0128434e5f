"""A stand-in for a machine's engine, hydraulics and electrics: first-order lags with an exact step.

Each quantity x nears its target X with a time constant tau: dx/dt = (X - x)/tau, so that after a step of dt with
constant inputs x = X + (x0 - X)·exp(-dt/tau), whatever the length of the step. All figures are invented.

===================  ==========================================================  =========
quantity             target while it runs (load L from 0 to 1, speed n)           tau [s]
===================  ==========================================================  =========
speed                800 rpm at idle, up to 2100 with the throttle                0.6
coolant              air + 62 K + 18 K·L, held at 88 °C by the thermostat         420
oil                  coolant + 4 K + 14 K·L                                       500
hydraulic oil        air + 30 K + 40 K·L                                          1300
transmission oil     air + 38 K + 46 K·L                                          1100
oil pressure         (140 + 0.16·n) kPa, times 1.35 cold to 1.0 at 90 °C          1.2
volts                28.2 charging, 25.4 standing, 21 while it is cranked         2 (0.3)
===================  ==========================================================  =========
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from enum import StrEnum

from jutrel.core.panel.faults import Code, Faults
from jutrel.core.panel.signals import Lack, Value

IDLE_RPM, FULL_RPM, CRANK_RPM = 800.0, 2100.0, 180.0
THERMOSTAT_C = 88.0
TAU = {"speed": 0.6, "coolant": 420.0, "oil": 500.0, "hydraulic": 1300.0, "transmission": 1100.0, "pressure": 1.2}


class Turns(StrEnum):
    """What the engine does."""

    STANDS = "stands"
    CRANKED = "cranked"
    RUNS = "runs"


class Fault(StrEnum):
    """What can be wrong with it."""

    OIL_PRESSURE = "oil-pressure"
    NO_CHARGE = "no-charge"
    OVERHEATING = "overheating"
    AIR_FILTER = "air-filter"
    WEAK_BATTERY = "weak-battery"
    EXHAUST_FLUID = "exhaust-fluid"
    SENSOR_LOST = "sensor-lost"
    SENSOR_WRONG = "sensor-wrong"


@dataclass(frozen=True, slots=True)
class Inputs:
    """What is done to it: whether it turns, throttle and load (0 to 1), the air [°C], and what is wrong."""

    turns: Turns = Turns.STANDS
    throttle: float = 0.0
    load: float = 0.0
    air_c: float = 15.0
    faults: frozenset[Fault] = frozenset()


@dataclass(frozen=True, slots=True)
class SimulatedEngine:
    """Its state: temperatures [°C], pressure [kPa], speed [rpm], volts, shares [%], hours and litres an hour."""

    speed: float = 0.0
    coolant: float = 15.0
    oil: float = 15.0
    hydraulic: float = 15.0
    transmission: float = 15.0
    pressure: float = 0.0
    volts: float = 25.4
    fuel: float = 70.0
    exhaust_fluid: float = 60.0
    hours: float = 6200.0
    restriction: float = 0.0
    given: Inputs = field(default_factory=Inputs)


def near(x: float, target: float, dt: float, tau: float) -> float:
    """Where a first-order lag stands after a step.

    >>> round(near(20, 90, 420, 420), 2)
    64.25
    """
    return target + (x - target) * math.exp(-dt / tau)


def targets(given: Inputs, oil_c: float, coolant_c: float, speed: float) -> dict[str, float]:
    """What each quantity nears, with these inputs."""
    runs, load, faults = given.turns is Turns.RUNS, given.load, given.faults
    hot = Fault.OVERHEATING in faults
    warm = given.air_c + 62 + 18 * load
    coolant = min(warm, THERMOSTAT_C) if not hot else given.air_c + 75 + 60 * load
    share = min(max((90 - oil_c) / 110, 0.0), 1.0)
    pressure = (140 + 0.16 * speed) * (1 + 0.35 * share) if runs else 0.0
    if Fault.OIL_PRESSURE in faults:
        pressure *= 0.15
    volts = 25.4 if not runs or Fault.NO_CHARGE in faults else 28.2
    if runs and Fault.NO_CHARGE in faults:
        volts = 24.2
    if given.turns is Turns.CRANKED:
        volts = 15.5 if Fault.WEAK_BATTERY in faults else 21.0
    return {
        "speed": {Turns.STANDS: 0.0, Turns.CRANKED: CRANK_RPM}.get(
            given.turns, IDLE_RPM + (FULL_RPM - IDLE_RPM) * given.throttle
        ),
        "coolant": coolant if runs else given.air_c,
        "oil": coolant_c + 4 + 14 * load if runs else given.air_c,
        "hydraulic": given.air_c + (30 + 40 * load if runs else 0),
        "transmission": given.air_c + (38 + 46 * load if runs else 0),
        "pressure": pressure,
        "volts": volts,
    }


def stepped(engine: SimulatedEngine, given: Inputs, dt: float) -> SimulatedEngine:
    """The engine after a time [s] with constant inputs; the targets are those at the step's beginning."""
    to = targets(given, engine.oil, engine.coolant, engine.speed)
    slow = 1.0 if given.turns is Turns.RUNS else 6.0  # what stands cools slower than what runs warms
    cranked = given.turns is Turns.CRANKED
    burn = fuel_rate(given)
    worn = 7.4 if Fault.AIR_FILTER in given.faults else 3.1
    return replace(
        engine,
        speed=near(engine.speed, to["speed"], dt, TAU["speed"]),
        coolant=near(engine.coolant, to["coolant"], dt, TAU["coolant"] * slow),
        oil=near(engine.oil, to["oil"], dt, TAU["oil"] * slow),
        hydraulic=near(engine.hydraulic, to["hydraulic"], dt, TAU["hydraulic"] * slow),
        transmission=near(engine.transmission, to["transmission"], dt, TAU["transmission"] * slow),
        pressure=near(engine.pressure, to["pressure"], dt, TAU["pressure"]),
        volts=near(engine.volts, to["volts"], dt, 0.3 if cranked else 2.0),
        fuel=max(0.0, engine.fuel - burn * dt / 3600 / 4),  # a tank of 400 L
        exhaust_fluid=5.0 if Fault.EXHAUST_FLUID in given.faults else engine.exhaust_fluid,
        hours=engine.hours + (dt / 3600 if given.turns is Turns.RUNS else 0.0),
        restriction=worn * (0.25 + 0.75 * given.throttle) if given.turns is Turns.RUNS else 0.0,
        given=given,
    )


def fuel_rate(given: Inputs) -> float:
    """Litres an hour."""
    return 0.0 if given.turns is not Turns.RUNS else 4.0 + 34.0 * given.load * (0.4 + 0.6 * given.throttle)


def signals_of(engine: SimulatedEngine) -> dict[str, Value]:
    """What its sensors say, by signal."""
    given = engine.given
    said: dict[str, Value] = {
        "engine-speed": engine.speed,
        "load": 100 * given.load if given.turns is Turns.RUNS else 0.0,
        "coolant": engine.coolant,
        "oil-temperature": engine.oil,
        "fuel-pressure": 420.0 if given.turns is Turns.RUNS else 0.0,
        "oil-level": 82.0,
        "oil-pressure": engine.pressure,
        "coolant-level": 96.0,
        "volts": engine.volts,
        "hours": engine.hours,
        "fuel-level": engine.fuel,
        "fuel-rate": fuel_rate(given),
        "exhaust-fluid": engine.exhaust_fluid,
        "air-restriction": engine.restriction,
        "boost": 180 * given.load * given.throttle if given.turns is Turns.RUNS else 0.0,
        "ambient": given.air_c,
        "barometer": 99.5,
        "hydraulic-oil": engine.hydraulic,
        "transmission-oil": engine.transmission,
    }
    if Fault.SENSOR_WRONG in given.faults:
        said["coolant"] = Lack.ERROR
    return said


def faults_of(engine: SimulatedEngine) -> Faults:
    """What it says of itself as active faults."""
    given = engine.given
    codes: list[Code] = []
    lamps: set[str] = set()
    if Fault.OIL_PRESSURE in given.faults and given.turns is Turns.RUNS and engine.pressure < 90:
        codes.append(Code(100, 1))
        lamps.add("red")
    if Fault.NO_CHARGE in given.faults and given.turns is Turns.RUNS and engine.volts < 25:
        codes.append(Code(168, 18))
        lamps.add("amber")
    if Fault.EXHAUST_FLUID in given.faults:
        codes.append(Code(1761, 18))
        lamps.add("amber")
    if Fault.SENSOR_WRONG in given.faults:
        codes.append(Code(110, 3))
        lamps.add("amber")
    if Fault.OVERHEATING in given.faults and engine.coolant > 104:
        codes += [Code(110, 16), Code(175, 16)]
        lamps.add("red")
    return Faults(frozenset(lamps), tuple(codes))
