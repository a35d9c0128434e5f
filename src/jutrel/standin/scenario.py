"""Days on the stand-in: what is done and what goes wrong, minute by minute, as frames on a bus."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from jutrel.core.errors import BadInput
from jutrel.core.panel.faults import frames_of
from jutrel.core.panel.signals import BY_PGN, encode
from jutrel.exchange.logs import Frame
from jutrel.standin.engine import Fault, Inputs, SimulatedEngine, Turns, faults_of, signals_of, stepped

TICK_S = 0.1
DM1_EVERY_S = 1.0
EVERY_S = {pgn: min(s.every_s for s in found) for pgn, found in BY_PGN.items()}
ENGINE = 0
"""The address of the stand-in's engine."""
LOST_GROUP = 65263
"""The group whose sensor falls silent in the scenario of a lost sensor: it carries the oil pressure."""


@dataclass(frozen=True, slots=True)
class Scenario:
    """A course of events: from each time [s] on these inputs hold. It starts with the air and this warmth [°C]."""

    key: str
    minutes: float
    course: tuple[tuple[float, Inputs], ...]
    warm_c: float | None = None

    def inputs(self, at: float) -> Inputs:
        """What holds at a time [s]."""
        return [given for since, given in self.course if since <= at][-1]


def _start(air: float, *faults: Fault, crank_s: float = 2.0) -> tuple[tuple[float, Inputs], ...]:
    wrong = frozenset(faults)
    return (
        (0.0, Inputs(air_c=air, faults=wrong)),
        (5.0, Inputs(Turns.CRANKED, air_c=air, faults=wrong)),
        (5.0 + crank_s, Inputs(Turns.RUNS, air_c=air, faults=wrong)),
    )


def _worked(air: float, *later: Fault, at: float = 500.0) -> tuple[tuple[float, Inputs], ...]:
    """Started, warmed up, put to work; what goes wrong does so at a time [s]."""
    return (
        *_start(air),
        (420.0, Inputs(Turns.RUNS, 0.7, 0.6, air)),
        (at, Inputs(Turns.RUNS, 0.9, 0.9, air, frozenset(later))),
    )


SCENARIOS: Mapping[str, Scenario] = {
    s.key: s
    for s in (
        Scenario("cold-start", 12, _start(-12, crank_s=4)),
        Scenario("warm-start", 6, _start(18), 70),
        Scenario("shift", 30, (*_worked(18), (1500.0, Inputs(Turns.RUNS, 0, 0, 18)), (1700.0, Inputs(air_c=18)))),
        Scenario("low-oil-pressure", 2, _start(10, Fault.OIL_PRESSURE)),
        Scenario("no-charge", 4, _start(10, Fault.NO_CHARGE)),
        Scenario("overheating", 30, _worked(30, Fault.OVERHEATING), 70),
        Scenario("plugged-air-filter", 12, _worked(18, Fault.AIR_FILTER), 70),
        Scenario("weak-battery", 1, _start(-5, Fault.WEAK_BATTERY, crank_s=8)),
        Scenario("flat-exhaust-fluid", 10, _worked(18, Fault.EXHAUST_FLUID, at=450), 70),
        Scenario("sensor-lost", 10, _worked(18, Fault.SENSOR_LOST, at=450), 70),
        Scenario("sensor-wrong", 10, _worked(18, Fault.SENSOR_WRONG, at=450), 70),
    )
}


def scenario(key: str) -> Scenario:
    """The scenario of that key; raises BadInput naming those there are."""
    if key not in SCENARIOS:
        raise BadInput("scenario", "'{it}' is no scenario; one of {those}", it=key[:40], those=", ".join(SCENARIOS))
    return SCENARIOS[key]


def frames(run: Scenario, tick: float = TICK_S) -> Iterator[Frame]:
    """Every frame of a scenario, in time: each group as often as its quickest signal, faults once a second."""
    air = run.inputs(0.0).air_c
    warm = air if run.warm_c is None else run.warm_c
    engine = SimulatedEngine(coolant=warm, oil=warm, hydraulic=min(warm, 45), transmission=min(warm, 50))
    for n in range(round(run.minutes * 60 / tick)):
        engine = stepped(engine, run.inputs(n * tick), tick)
        yield from frames_at(engine, n, tick)


def frames_at(engine: SimulatedEngine, n: int, tick: float) -> Iterator[Frame]:
    """The frames of one step, the n-th of that length [s]: each group when it is due, faults once a second."""
    said, at = signals_of(engine), n * tick
    for pgn, every_s in EVERY_S.items():
        silent = pgn == LOST_GROUP and Fault.SENSOR_LOST in engine.given.faults
        if n % max(1, round(every_s / tick)) == 0 and not silent:
            yield Frame(at, pgn, ENGINE, encode(pgn, said))
    if n % max(1, round(DM1_EVERY_S / tick)) == 0:
        yield from (Frame(at, pgn, ENGINE, data) for pgn, data in frames_of(faults_of(engine)))
