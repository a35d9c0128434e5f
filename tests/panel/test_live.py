"""A machine read over its bus into a run, each process killed in the middle of a start.

How it could send somebody out, or lose what was told: values of a reader that died shown as if of now; a silent bus
taken for an engine that stands; red that came while the server was away, forgotten; another machine's bus; a stranger
who tells that the oil pressure stands; a real machine that takes orders from a page.
"""

from __future__ import annotations

import json
import random
import threading
import time
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, cast

import can
import pytest

from jutrel.core.errors import BadInput
from jutrel.core.panel.faults import Code, Faults, frames_of, write_faults
from jutrel.core.panel.signals import encode
from jutrel.exchange.bus import send
from jutrel.exchange.logs import Frame, write_log
from jutrel.panel.bus_reader import BusLine, Clock, Difference, Follower, Server
from jutrel.panel.import_log import import_values, seconds_of
from jutrel.standin.scenario import frames, scenario
from tests.api.test_runs import begin, engine, left, run_of, say
from tests.api.test_runs import can as may
from tests.deep import DEEP
from tests.device import Device
from tests.panel.processes import CHANNEL, KEY, Processes
from tests.panel.wire import HEADERS, Then, Wire, hours_of, message, tell, told
from tests.patience import client

Plain = dict[str, Any]


def test_who_tells_and_what(site: Device) -> None:
    body = message(100.0)
    assert tell(site, "ld-05", body, **{"x-device-key": "guessed"}).status_code == 401
    assert tell(site, "nobody", body).status_code == 404
    assert site.http.get("/api/machines/ld-05/stand-in").status_code == 401
    orders = {"turns": "runs"}
    assert site.http.put("/api/machines/ld-05/stand-in", json=orders).status_code == 404, "no reader says it is one"
    for wrong in ({"values": {"coolant": 1e12}}, {"alerts": [["Hot!", "red", "now"]]}, {"engine": "on"}, {"at": "x"}):
        assert tell(site, "ld-05", {**body, **wrong}).status_code == 422, wrong
    assert site.http.get("/api/machines/ld-05/panel").json() is None


def test_told_twice_it_counts_once_and_nothing_is_later_than_now(site: Device) -> None:
    hours = hours_of(site, "ex-01")
    ahead = datetime.now(UTC) + timedelta(hours=5)
    events = [told("engine", "stopped", datetime.now(UTC) - timedelta(seconds=9)), told("engine", "running", ahead)]
    body = {**message(hours, *events), "at": ahead.isoformat()}
    for _ in range(2):
        assert tell(site, "ex-01", body).status_code == 200
    time.sleep(2.1)
    now = run_of(site, "ex-01")
    assert now["engine"] == "running"
    assert abs(datetime.fromisoformat(now["started_at"]) - datetime.now(UTC)) < timedelta(seconds=8)
    assert now["stand"] == "stop", "it runs, and nobody said anything"
    assert tell(site, "ex-01", message(hours, told("engine", "stopped", datetime.now(UTC)))).status_code == 200
    assert run_of(site, "ex-01")["stand"] == "preparing"


def test_a_sensor_that_comes_and_goes_hides_no_running_engine(site: Device) -> None:
    """Thousands of words about one bad sensor: that the engine runs, and was red, is still known."""
    hours = hours_of(site, "rh-08")
    at = datetime.now(UTC) - timedelta(hours=2)
    first = [told("engine", "running", at), told("alert", "hot", at + timedelta(seconds=1), "red")]
    assert tell(site, "rh-08", message(hours, *first)).status_code == 200
    words = [told("silent" if n % 2 else "heard", "coolant", at + timedelta(seconds=2 + n)) for n in range(3100)]
    for n in range(0, len(words), 250):
        assert tell(site, "rh-08", message(hours, *words[n : n + 250])).status_code == 200
    now = run_of(site, "rh-08")
    assert (now["engine"], now["stand"]) == ("running", "stop")
    assert tell(site, "rh-08", message(hours, told("engine", "stopped", datetime.now(UTC)))).status_code == 200


class Picky:
    """A server that is away, then takes all but one thing that it will never take, and no large message."""

    def __init__(self) -> None:
        self.away, self.told, self.refusals, self.no_values = True, list[str](), 0, False

    def ask(self, _method: str, _what: str, body: Plain) -> tuple[int, Any]:
        if self.away:
            return 0, None
        assert len(json.dumps(body)) < 64_000
        words = [t["word"] for t in body["told"]]
        if "fault-7-7" in words or (self.no_values and body["values"]):
            self.refusals += 1
            return 422, {"detail": "no"}
        self.told += words
        return 200, {"now": datetime.now(UTC).isoformat(), "engine": 0}


def test_what_no_server_takes_stops_nothing_else() -> None:
    """Hours without a server, then one word among hundreds that it refuses: red comes through all the same."""
    picky = Picky()
    reader = Follower(BusLine("ex-01", "virtual", "nobody"), cast(Any, picky), Clock())
    for n in range(700):
        faults = Faults(frozenset({"red"}), (Code(7, 7),) if n == 350 else (Code(100, 1 + n % 18),))
        for pgn, data in frames_of(faults):
            reader.take(100.0 + n, Frame(100.0 + n, pgn, 0, data))
        reader.take(100.5 + n, Frame(100.5 + n, 61444, 0, encode(61444, {"engine-speed": 800.0})))
    for _ in range(3):
        assert reader.send() > 0
    picky.away = False
    for _ in range(80):
        reader.send()
    assert picky.refusals > 3
    assert len(picky.told) > 80, "what comes and goes is told a few times, with how often"
    assert "fault-7-7" not in picky.told
    assert {"fault-100-1", "fault-100-18"} <= set(picky.told)
    assert reader.refused == ""
    # Where it is the values that it does not take, what happened goes without them.
    picky.no_values = True
    for pgn, data in frames_of(Faults(frozenset({"red"}), (Code(110, 0),))):
        reader.take(900.0, Frame(900.0, pgn, 0, data))
    reader.take(900.5, Frame(900.5, 61444, 0, encode(61444, {"engine-speed": 800.0})))
    for _ in range(30):
        reader.send()
    assert "fault-110-0" in picky.told


def test_a_reader_sets_its_clock_by_the_quickest_answer() -> None:
    """Five hours slow, answers between 10 ms and 3 s: never more than a second off, and never back and forth."""
    rng, difference, seen = random.Random(3), Difference(), []
    for n in range(300):
        there, back = rng.uniform(0.005, 1.5), rng.uniform(0.005, 1.5)
        difference.learn(100.0 + n, 100.0 + n + there + back, 18100.0 + n + there)
        seen.append(difference.seconds)
    assert all(abs(s - 18000) < 1.5 for s in seen)
    assert len(set(seen)) < 6
    assert abs(seen[-1] - 18000) < 0.3
    for n in range(3):  # put right by hand meanwhile
        difference.learn(30000.0 + n, 30000.1 + n, 30000.05 + n)
    assert abs(difference.seconds) < 0.5


def test_another_machines_bus_proves_nothing_and_can_still_stop(site: Device) -> None:
    other = 12.0
    at = datetime.now(UTC)
    events = [
        told("engine", "stopped", at - timedelta(seconds=3)),
        told("engine", "running", at - timedelta(seconds=2)),
    ]
    assert tell(site, "gr-09", message(other, *events, told("stood", "oil-pressure", at))).status_code == 200
    now = run_of(site, "gr-09")
    assert "another machine" in now["panel"]["doubt"]
    assert now["engine"] == "running"
    assert not next(s for s in now["steps"] if s["id"] == "oil-pressure")["settled"]
    assert tell(site, "gr-09", message(other, told("engine", "stopped", datetime.now(UTC)))).status_code == 200


def test_a_log_is_taken_into_the_course_and_moves_no_run(site: Device, tmp_path: Path) -> None:
    """Lost or made up so: a log of last week that starts or stops a run of today; a peak that the picture smooths away;
    the same log taken twice; times that count from zero taken for 1970."""
    log = tmp_path / "noon.log"
    assert write_log(log, frames(scenario("overheating")))
    before = run_of(site, "dz-06")
    server = Server(str(site.http.base_url), KEY, "dz-06")
    with pytest.raises(BadInput, match="say when it began"):
        import_values(log, server)
    began = datetime.now(UTC).replace(second=0, microsecond=0) - timedelta(minutes=58)
    kept = import_values(log, server, began.isoformat())
    assert kept > 600
    assert import_values(log, server, began.isoformat()) == kept

    def course(**more: Any) -> Plain:
        until = began + timedelta(hours=1)
        asked = {"since": began.isoformat(), "until": until.isoformat(), **more}
        return dict(site.http.get("/api/machines/dz-06/panel/course", params=asked).raise_for_status().json())

    lines = {x["key"]: x for x in course()["lines"]}
    whole = max(s["values"]["coolant"] for s in seconds_of(log, began.timestamp()) if "coolant" in s["values"])
    assert max(x["high"] for x in lines["coolant"]["stretches"]) == whole, "no peak is smoothed away"
    assert len(lines["coolant"]["stretches"]) <= 240
    assert [x["key"] for x in course(key=["boost"])["lines"]] == ["boost"]
    after = run_of(site, "dz-06")
    assert (after["engine"], after["stand"], after["needs_cause"]) == (before["engine"], before["stand"], False)
    # A day old, one a minute stays, as of the machine's own; what lies ahead is refused by name.
    old = import_values(log, server, (began - timedelta(days=3)).isoformat())
    assert old == pytest.approx(kept / 60, abs=2)
    ahead = {"samples": [{"at": (datetime.now(UTC) + timedelta(hours=1)).isoformat(), "values": {"coolant": 80.0}}]}
    reply = site.http.post("/api/machines/dz-06/panel/samples", json=ahead, headers=HEADERS)
    assert (reply.status_code, reply.json()["field"]) == (422, "at")
    assert site.http.post("/api/machines/dz-06/panel/samples", json=ahead).status_code == 401
    for wrong in ({"key": ["colant"]}, {"until": began.isoformat()}, {"since": "2026-05-04T06:00:00"}):
        asked = {"since": began.isoformat(), "until": datetime.now(UTC).isoformat(), **wrong}
        assert site.http.get("/api/machines/dz-06/panel/course", params=asked).status_code == 422, wrong


def test_red_is_not_left_behind_with_its_run(site: Device) -> None:
    """Red, stopped, the run ended, a new one begun: it is not started as if nothing had been."""
    hours = hours_of(site, "dz-06")
    site.whole("dz-06")
    first = begin(site, "dz-06")
    at = datetime.now(UTC) - timedelta(seconds=2)
    events = [told("engine", "running", at), told("alert", "hot", at + timedelta(seconds=1), "red")]
    assert tell(site, "dz-06", message(hours, *events)).status_code == 200
    assert run_of(site, "dz-06", first)["stand"] == "stop"
    assert tell(site, "dz-06", message(hours, told("engine", "stopped", datetime.now(UTC)))).status_code == 200
    for _ in range(2):
        run = run_of(site, "dz-06")["run"]
        ended = [site.entry("abandoned", reason="enough")]
        assert site.send("dz-06", run, ended).json()["refused"] == []
        run = begin(site, "dz-06")
    now = say(site, "dz-06", run, *left(run_of(site, "dz-06", run), "ready", "start", engine=None))
    while may(now, "start"):
        now = say(site, "dz-06", run, *may(now, "start"))
    assert now["needs_cause"]
    assert not now["ready_to_start"]
    assert any("Write down" in m for m in now["missing"])
    heads = now["engine_heads"]
    cranked = site.entry("engine", heads, state="cranking", why="hose clamp tightened, coolant filled")
    assert site.send("dz-06", run, [cranked]).json()["refused"] == []
    assert not run_of(site, "dz-06", run)["needs_cause"]


SAID = {
    "low-oil-pressure": ("red", "Oil pressure is gone"),
    "no-charge": ("amber", "The battery is not charged"),
    "overheating": ("red", "It overheats"),
    "plugged-air-filter": ("amber", "The air filter is plugged"),
    "flat-exhaust-fluid": ("amber", "DEF is low"),
    "sensor-lost": ("amber", "Engine oil, pressure: no value"),
    "sensor-wrong": ("amber", "Coolant: no value"),
}


@pytest.mark.parametrize("key", SAID)
def test_every_scenario_comes_to_the_page_in_words(site: Device, key: str) -> None:
    """Frames, reader, rules, server, page: what is wrong is said there, and a lost value is never nought."""
    run = scenario(key)
    clock = Then(time.time() - 60 * run.minutes)
    reader = Follower(BusLine("ex-04", "virtual", "nobody"), cast(Any, Wire(site, "ex-04")), cast(Any, clock))
    begun = clock.at
    for f in frames(run, tick=0.1 if run.minutes < 3 else 0.5):
        clock.at = begun + f.at
        reader.take(clock.at, f)
    for _ in range(40):
        reader.send()
    assert reader.refused == ""
    now = site.http.get("/api/machines/ex-04/panel").raise_for_status().json()
    colour, says = SAID[key]
    assert any(a["colour"] == colour and a["says"].startswith(says) for a in now["alerts"]), now["alerts"]
    for needle in now["needles"]:
        assert (needle["value"] is None) == (needle["lack"] is not None)
    if key.startswith("sensor"):
        gone = "oil-pressure" if key == "sensor-lost" else "coolant"
        assert next(n for n in now["needles"] if n["key"] == gone)["value"] is None


@pytest.fixture
def machine(tmp_path: Path, bare: str) -> Iterator[tuple[Processes, Device]]:
    p = Processes(tmp_path, "ex-01", bare, 0.0)
    p.server()
    me = Device(client(p.base))
    assert me.sign_in("Mira").is_success
    me.whole("ex-01")
    p.hours = hours_of(me, "ex-01") + 1
    p.stand_in()
    p.reader()
    yield p, me
    p.end()


def panel(me: Device) -> Plain | None:
    found = me.http.get("/api/machines/ex-01/panel")
    return dict(found.json()) if found.is_success and found.json() else None


def order(me: Device, turns: str, *faults: str) -> None:
    body = {"turns": turns, "air_c": 12, "faults": list(faults)}
    me.http.put("/api/machines/ex-01/stand-in", json=body).raise_for_status()


@pytest.mark.skipif(not DEEP, reason="a start for each process: make test-deep")
def test_each_process_is_killed_in_the_middle_of_a_start(machine: tuple[Processes, Device]) -> None:
    p, me = machine
    p.until(lambda: (panel(me) or {}).get("engine") == "stopped")
    run = begin(me, "ex-01")
    now = say(me, "ex-01", run, *left(run_of(me, "ex-01", run), "ready", "start", engine=None))
    while may(now, "start"):
        now = say(me, "ex-01", run, *may(now, "start"))
    assert now["ready_to_start"], now["missing"]
    # By its key alone. The reader dies while it is cranked: nobody knows, and nobody says that it stands.
    order(me, "cranked")
    p.until(lambda: run_of(me, "ex-01")["stand"] == "cranking")
    p.kill("reader")
    p.until(lambda: not (panel(me) or {"live": True})["live"], 15)
    assert run_of(me, "ex-01")["engine"] == "cranking"
    assert all(n["value"] is None for n in (panel(me) or {})["needles"])
    order(me, "runs")
    p.reader()
    p.until(lambda: run_of(me, "ex-01")["engine"] == "running")
    # It was silent when the pressure came: the needle that stands now was never seen down, and proves nothing.
    time.sleep(3)
    oil = next(s for s in run_of(me, "ex-01")["steps"] if s["id"] == "oil-pressure")
    assert oil["mark"] == "open"
    order(me, "stands")
    p.until(lambda: run_of(me, "ex-01")["engine"] == "stopped")
    # The reader's clock may be two seconds ahead: what is said at once would be said before that stop.
    time.sleep(3)
    # Once more, heard from the beginning; then the server is away while it turns red, and hears of it all the same.
    now = run_of(me, "ex-01", run)
    while may(now, "start"):
        now = say(me, "ex-01", run, *may(now, "start"))
    order(me, "cranked")
    p.until(lambda: run_of(me, "ex-01")["engine"] == "cranking")
    order(me, "runs")
    p.until(lambda: any(s["id"] == "oil-pressure" and s["measured"] for s in run_of(me, "ex-01")["steps"]))
    now = run_of(me, "ex-01")
    assert now["stand"] == "started", now["missing"]
    order(me, "runs", "oil-pressure")
    time.sleep(0.5)
    p.kill("server")
    time.sleep(14)  # ten seconds after the start the rule counts
    p.server()
    p.until(lambda: run_of(me, "ex-01")["stand"] == "stop")
    assert any("Oil pressure is gone" in m for m in run_of(me, "ex-01")["missing"])
    # The machine itself falls silent: its values are lost, and its engine does not stand for that.
    p.kill("stand_in")
    p.until(lambda: all(n["lack"] == "lost" for n in (panel(me) or {})["needles"]))
    assert run_of(me, "ex-01")["engine"] == "running"
    after = engine(me, "ex-01", run, "stopped")
    assert after["engine"] == "stopped", "a person may say so where the machine tells nothing any more"
    assert after["needs_cause"]


def test_a_page_hears_at_once_and_when_it_falls_silent(machine: tuple[Processes, Device]) -> None:
    p, me = machine
    p.until(lambda: (panel(me) or {}).get("live") is True)
    lines: list[Plain] = []
    with me.http.stream("GET", "/api/machines/ex-01/panel/events", timeout=30) as stream:
        for line in stream.iter_lines():
            if line.startswith("data: "):
                lines.append(json.loads(line[6:]))
            # Values come one after the other, quicker or slower as the machine under the test is.
            shown = {n["key"] for n in lines[-1]["needles"]} if lines else set()
            if len(lines) >= 5 and shown >= {"oil-pressure", "coolant", "volts"} and "reader" in p.running:
                p.kill("reader")
            if lines and not lines[-1]["live"]:
                break
    assert lines[0]["live"]
    assert len(lines) >= 6, "it heard values, and then that there are none any more"
    assert "reader" not in p.running, "no value was missing, and the page was told so when they ended"


def test_two_engines_and_a_display_on_one_bus(machine: tuple[Processes, Device]) -> None:
    """On a real bus between processes: the engine at nought, another one and a display that tell of good pressure."""
    p, me = machine
    p.until(lambda: (panel(me) or {}).get("engine") == "stopped")
    p.until(lambda: run_of(me, "ex-01")["panel"]["doubt"] == "")
    ended = threading.Event()

    def others() -> None:
        with can.Bus(interface="udp_multicast", channel=CHANNEL, port=p.bus) as bus:
            while not ended.wait(0.05):
                send(bus, 61444, encode(61444, {"engine-speed": 1500.0}), 1)
                for source in (1, 40):
                    send(bus, 65263, encode(65263, {"oil-pressure": 340.0}), source)
                send(bus, 65226, write_faults(Faults()), 3)

    thread = threading.Thread(target=others)
    thread.start()
    try:
        time.sleep(2)
        assert run_of(me, "ex-01")["engine"] == "stopped", "another engine turns, not this one"
        order(me, "cranked", "oil-pressure")
        p.until(lambda: run_of(me, "ex-01")["engine"] == "cranking")
        order(me, "runs", "oil-pressure")
        p.until(lambda: run_of(me, "ex-01")["stand"] == "stop" and any(
            "Oil pressure is gone" in m for m in run_of(me, "ex-01")["missing"]))  # fmt: skip
        now = run_of(me, "ex-01")
    finally:
        ended.set()
        thread.join()
    says = {a["says"]: a["colour"] for a in now["panel"]["alerts"]}
    assert says["Addresses 0 and 1 both tell of this engine. Look what is connected to the bus."] == "amber"
    assert any("100/1" in s and c == "red" for s, c in says.items()), "the engine's own fault, not wiped out by others"
    oil = next(s for s in now["steps"] if s["id"] == "oil-pressure")
    assert not oil["measured"]
