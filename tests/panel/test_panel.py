"""The stand-in's equations against an integrator, and every scenario from the bus to the words.

How it could send somebody out, or ruin an engine: a lost sensor read as nought, or as good; a red that goes out
because its sensor died; an alarm on every cold morning, so that nobody listens; oil pressure noticed too late.
"""

from __future__ import annotations

import json
import random
from collections.abc import Callable
from dataclasses import fields, replace
from pathlib import Path

import pytest
from scipy.integrate import solve_ivp
from typer.testing import CliRunner

from jutrel.catalog import catalog
from jutrel.commands.panel import panel
from jutrel.core.panel.figures import PanelFigures, figures_of
from jutrel.core.panel.reader import Reader
from jutrel.core.panel.signals import Lack, group_of
from jutrel.core.panel.watch import OIL_WITHIN_S, Panel, heard, moved, ticked
from jutrel.core.procedure.kinds import Colour
from jutrel.exchange.bus import open_bus, send
from jutrel.standin.engine import TAU, Inputs, SimulatedEngine, Turns, stepped, targets
from jutrel.standin.scenario import SCENARIOS, Frame, Scenario, frames, scenario
from tests.deep import DEEP


def read(run: Scenario) -> tuple[Reader, list[tuple[float, str]]]:
    """A scenario through frames to alerts: (time [s], what began)."""
    reader, told = Reader(), []
    last = 0.0
    for f in frames(run, tick=0.1 if run.minutes < 3 else 0.5):
        told += [(f.at, a.id) for a in reader.take(f.at, f.pgn, 0, f.data)]
        if f.at - last >= 1:
            told += [(f.at, a.id) for a in reader.tick(f.at)]
            last = f.at
    return reader, told


@pytest.mark.parametrize("air", [-20.0, 5.0, 35.0])
@pytest.mark.parametrize("load", [0.0, 0.5, 1.0])
def test_the_closed_forms_are_what_an_integrator_finds(air: float, load: float) -> None:
    """SciPy's solve_ivp on dx/dt = (X - x)/tau, targets held as in one step."""
    given = Inputs(Turns.RUNS, load, load, air)
    start = SimulatedEngine(coolant=air, oil=air, hydraulic=air, transmission=air, pressure=0.0, speed=0.0)
    to = targets(given, start.oil, start.coolant, start.speed)
    pairs = {"speed": "speed", "coolant": "coolant", "oil": "oil", "hydraulic": "hydraulic",
             "transmission": "transmission", "pressure": "pressure"}  # fmt: skip
    for seconds in (0.1, 7.0, 600.0):
        ours = stepped(start, given, seconds)
        for name, attribute in pairs.items():
            x0, tau, target = getattr(start, attribute), TAU[name], to[name]
            theirs = solve_ivp(lambda _, x, t=tau, a=target: (a - x) / t, (0, seconds), [x0], rtol=1e-10, atol=1e-12)
            assert getattr(ours, attribute) == pytest.approx(theirs.y[0][-1], rel=1e-6, abs=1e-6)
    # Many small steps come to what one would, where the targets stay.
    still = Inputs(Turns.STANDS, 0, 0, air)
    warm, one = SimulatedEngine(coolant=80, oil=80), stepped(SimulatedEngine(coolant=80, oil=80), still, 3600)
    for _ in range(3600):
        warm = stepped(warm, still, 1.0)
    assert (warm.coolant, warm.oil) == pytest.approx((one.coolant, one.oil))


FOUND = {
    # The alert that has to come, how urgent, and within how many seconds of the fault's beginning.
    "low-oil-pressure": ("oil-low", Colour.RED, 7.0, OIL_WITHIN_S + 2),
    "no-charge": ("no-charge", Colour.AMBER, 7.0, 60),
    "overheating": ("hot", Colour.RED, 500.0, 900),
    "plugged-air-filter": ("air", Colour.AMBER, 500.0, 30),
    "weak-battery": ("weak-battery", Colour.AMBER, 5.0, 4),
    "flat-exhaust-fluid": ("exhaust-fluid", Colour.AMBER, 450.0, 60),
    "sensor-lost": ("lost-oil-pressure", Colour.AMBER, 450.0, 5),
    "sensor-wrong": ("lost-coolant", Colour.AMBER, 450.0, 3),
}


@pytest.mark.parametrize("key", FOUND)
def test_each_fault_is_found_within_its_time(key: str) -> None:
    alert, colour, since, within = FOUND[key]
    reader, told = read(scenario(key))
    first = next((at for at, name in told if name == alert), None)
    assert first is not None, told
    assert since <= first <= since + within, (first, told)
    found = reader.panel.alerts.get(alert)
    assert found is None or found.colour is colour
    assert not [t for t in told if t[0] < since], "nothing was wrong before"


@pytest.mark.parametrize("key", ["cold-start", "warm-start", "shift"])
def test_a_normal_day_says_nothing(key: str) -> None:
    _, told = read(SCENARIOS[key])
    assert told == []


def test_no_false_alarm_over_cold_and_warm_starts() -> None:
    """Random air, warmth, cranking and work; ten minutes each: the rate of false alarms is nought."""
    rng = random.Random(11)
    wrong: list[object] = []
    starts = 200 if DEEP else 30
    for n in range(starts):
        air, crank = rng.uniform(-25, 38), rng.uniform(0.8, 9)
        run = Inputs(Turns.RUNS, 0, 0, air)
        work = Inputs(Turns.RUNS, rng.uniform(0.2, 1), rng.uniform(0, 0.9), air)
        course = ((0.0, Inputs(air_c=air)), (4.0, Inputs(Turns.CRANKED, air_c=air)), (4.0 + crank, run), (400.0, work))
        warm = rng.choice([None, rng.uniform(air, 85)])
        reader = Reader()
        for f in frames(Scenario(str(n), 10, course, warm), tick=1.0):
            wrong += [(n, air, a.id) for a in reader.take(f.at, f.pgn, 0, f.data)]
    print(f"false alarms: {len(wrong)} in {starts} starts")
    assert wrong == []


def slow(minutes: int, **course: Callable[[float], float]) -> list[str]:
    """What is told of a day in which needles move as these functions of the minute say; the rest stands still."""
    panel, told = Panel(), list[str]()
    still = {"engine-speed": 1800.0, "load": 60.0, "coolant": 88.0, "oil-pressure": 340.0, "oil-temperature": 96.0}
    for second in range(0, minutes * 60, 5):
        moved = {k.replace("_", "-"): f(second / 60) for k, f in course.items()}
        before = panel.alerts
        panel = heard(panel, {**still, "volts": 28.2, "air-restriction": 2.4, **moved}, float(second))
        told += [a for a in panel.alerts if a not in before]
    return told


def test_what_changes_slowly_is_told_before_it_is_red() -> None:
    """Coolant that climbs four degrees in a quarter of an hour at the same load; pressure that sags; a filter."""
    assert slow(60) == []
    assert slow(40, coolant=lambda m: 88 + 0.3 * m)[0] == "climbs"
    assert slow(40, coolant=lambda m: 88 + 0.3 * m, load=lambda m: 40 + m) == ["warm"], "it works harder"
    assert slow(40, oil_pressure=lambda m: 340 - 4 * m)[0] == "sags"
    assert slow(40, oil_pressure=lambda m: 340 - 4 * m, engine_speed=lambda m: 1800 - 20 * m) == [], "it runs slower"
    assert slow(40, air_restriction=lambda m: 2.4 + 0.07 * m) == ["plugs"]
    assert slow(25, coolant=lambda m: min(20 + 4 * m, 88.0)) == [], "it warms up"


def test_a_lost_sensor_is_unknown_and_never_nought() -> None:
    reader, _ = read(scenario("sensor-lost"))
    assert reader.panel.value("oil-pressure") is Lack.LOST
    assert "oil-low" not in reader.panel.alerts, "nobody knows that the pressure is gone"
    wrong, _ = read(scenario("sensor-wrong"))
    assert wrong.panel.value("coolant") is Lack.ERROR


def test_a_red_does_not_go_out_because_its_sensor_dies() -> None:
    now = Panel()
    for n in range(400):
        now = heard(now, {"engine-speed": 800.0, "oil-pressure": 300.0 if n < 200 else 30.0}, n * 0.1)
    assert now.worst is Colour.RED
    for n in range(400, 500):
        now = ticked(heard(now, {"engine-speed": 800.0}, n * 0.1), n * 0.1)
    assert now.value("oil-pressure") is Lack.LOST
    assert now.worst is Colour.RED
    now = heard(now, {"engine-speed": 800.0, "oil-pressure": 300.0}, 60.0)
    assert now.worst is Colour.NONE


def steady(figures: PanelFigures, speed: float, seconds: float = 60.0, **values: float) -> set[str]:
    """What holds after a minute of a running engine with these values on a machine with these figures."""
    reader = Reader()
    reader.named(0, figures)
    now = reader.panel
    told = {"engine-speed": speed, **{k.replace("_", "-"): v for k, v in values.items()}}
    for n in range(int(seconds * 2)):
        now = heard(now, told, n * 0.5)
    return set(now.alerts)


def test_alarms_go_by_the_machines_own_figures() -> None:
    """12 V is no weak 24 V; what is enough oil pressure at idle is not enough at rated speed."""
    usual, own = PanelFigures(), PanelFigures(oil_idle=100, oil_rated=220, rated_speed=1900, coolant_red=110)
    assert "oil-low" not in steady(usual, 1900, oil_pressure=150)
    assert "oil-low" in steady(own, 1900, oil_pressure=150)
    assert "oil-low" not in steady(own, 750, oil_pressure=150)
    assert "oil-low" in steady(own, 750, oil_pressure=90)
    half = [p for p in range(100, 230, 5) if "oil-low" not in steady(own, 1400, oil_pressure=p)]
    assert half[0] == 160, "straight between the two"
    assert ("hot" in steady(usual, 1800, coolant=107), "hot" in steady(own, 1800, coolant=107)) == (True, False)
    twelve = PanelFigures(system_volts=12)
    assert {"no-charge", "weak-battery"} <= steady(usual, 1800, volts=13.9)
    assert not {"no-charge", "weak-battery"} & steady(twelve, 1800, volts=13.9)
    assert "no-charge" in steady(twelve, 1800, volts=12.2)
    for model in catalog().models.values():
        figures = figures_of(model.limits)
        assert figures.oil_rated > figures.oil_idle, model.id
        assert figures.system_volts in (12, 24)


def test_a_panel_that_moves_on_leaves_nothing_behind() -> None:
    """Its fields are written out one by one: one forgotten or swapped would take back a red with each frame."""
    own = ("at", "values", "seen", "warned", "pending", "alerts", "ruled_at")
    before = {f.name: object() for f in fields(Panel)}
    changed = {name: object() for name in own}
    after = moved(Panel(**before), **changed)  # type: ignore[arg-type]
    assert {f.name: getattr(after, f.name) for f in fields(Panel)} == before | changed


def test_what_comes_and_goes_at_the_limit_is_told_once() -> None:
    """Three kelvin of hysteresis, ten seconds of patience."""
    now, begun = Panel(), 0
    for n in range(6000):
        before = now.alerts
        now = heard(now, {"engine-speed": 1800.0, "coolant": 99.0 + (1.2 if n % 4 < 3 else -1.0)}, n * 0.5)
        begun += "warm" in now.alerts and "warm" not in before
    assert begun <= 1


def test_many_machines_at_once_each_by_itself() -> None:
    readers = {key: Reader() for key in SCENARIOS}
    streams = {key: list(frames(replace(s, minutes=1), tick=0.5)) for key, s in SCENARIOS.items()}
    mixed: list[tuple[str, Frame]] = sorted(((k, f) for k, fs in streams.items() for f in fs), key=lambda x: x[1].at)
    for key, f in mixed:
        readers[key].take(f.at, f.pgn, 0, f.data)
    alone = Reader()
    for f in streams["low-oil-pressure"]:
        alone.take(f.at, f.pgn, 0, f.data)
    assert readers["low-oil-pressure"].panel == alone.panel
    assert readers["cold-start"].panel.worst is Colour.NONE


def test_over_a_bus_of_the_library_and_from_a_log_at_the_terminal(tmp_path: Path) -> None:
    """The same frames by the library's virtual bus and by a log: the same is told."""
    heard_: list[tuple[int, bytes]] = []
    sent = [f for f in frames(replace(scenario("no-charge"), minutes=0.1)) if f.at < 3]
    with open_bus("virtual", "yard") as ours, open_bus("virtual", "yard") as theirs:
        for f in sent:
            send(ours, f.pgn, f.data)
            m = theirs.recv(1)
            assert m is not None
            heard_.append((group_of(m.arbitration_id)[0], bytes(m.data)))
    assert heard_ == [(f.pgn, f.data) for f in sent]
    told = CliRunner()
    file = str(tmp_path / "run.log")
    assert told.invoke(panel, ["simulate", "low-oil-pressure", "--log", file]).exit_code == 0
    lines = [json.loads(x) for x in told.invoke(panel, ["read", file, "--json"]).stdout.splitlines()]
    assert [x["id"] for x in lines[:-1]] == ["fault-100-1", "oil-low"]
    assert lines[-1]["frames"] == 4200
    assert told.invoke(panel, ["simulate", "moon", "--log", file]).exit_code == 2
    (tmp_path / "broken.asc").write_text("no log at all\n" * 3)
    assert told.invoke(panel, ["read", str(tmp_path / "broken.asc")]).exit_code in (0, 2)
    assert "BO_" in told.invoke(panel, ["database"]).stdout
