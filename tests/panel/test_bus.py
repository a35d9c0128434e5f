"""A hostile or broken bus, from its frames to the run's page: each of these once sent a person on with a wrong word.

How it could send somebody out, or ruin an engine: a display's pressure taken for the engine's; a gearbox that wipes
out the engine's red; a clock that somebody sets; flicker that pushes out that it turns; a log that eats the computer.
"""

from __future__ import annotations

import random
import re
import subprocess
import sys
import time
import zlib
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any, cast

import pytest

from jutrel.core.errors import BadInput
from jutrel.core.panel.faults import Code, Faults, in_pieces, sent_as, write_faults
from jutrel.core.panel.identity import IDENTIFICATION
from jutrel.core.panel.reader import Reader
from jutrel.core.panel.senders import Senders
from jutrel.core.panel.signals import Lack, encode, frame_id, group_of
from jutrel.core.procedure.kinds import Colour, EngineNow
from jutrel.exchange.bus import open_bus, send
from jutrel.exchange.logs import Frame, read_log, write_log
from jutrel.panel.bus_reader import BusLine, Clock, Follower
from jutrel.panel.waiting import Waiting
from jutrel.standin.scenario import frames, scenario
from tests.api.test_runs import run_of
from tests.conftest import CATALOG
from tests.device import Device
from tests.panel.wire import Fed, Plain, Sender, Wire, hours_of, message, tell, told

RED = Faults(frozenset({"red"}), (Code(110, 0),))


def test_a_display_and_a_second_engine_make_no_oil_pressure(site: Device) -> None:
    bus = Fed(site, "gr-09")
    bus.on(3, bus.engine(0, 0.0))
    display, second = Sender(40, {"oil-pressure": 340.0}), Sender(1, {"engine-speed": 1500.0, "oil-pressure": 420.0})
    bus.on(16, bus.engine(800, 0.0), display, second)
    assert "oil-pressure" not in bus.panel.stands, "the engine itself says nought"
    bus.send()
    assert bus.oil() != "done"
    assert bus.run["engine"] == "running"
    assert bus.alerts["Oil pressure is gone. Stop the engine now."] == "red"
    assert bus.alerts["Addresses 0 and 1 both tell of this engine. Look what is connected to the bus."] == "amber"
    assert bus.run["stand"] == "stop"
    bus.on(2, bus.engine(0, 0.0), Sender(1, {"engine-speed": 1500.0}))
    assert bus.panel.engine is EngineNow.STOPPED, "nor does another engine keep this one turning"


def test_an_engine_that_the_file_does_not_name_proves_nothing_and_can_stop(site: Device) -> None:
    """Whoever tells the worse counts; then somebody writes the address into the file, and it is believed."""
    bus = Fed(site, "ld-05")
    reader = bus.reader.reader
    reader.named(None)
    display = Sender(40, {"oil-pressure": 340.0})
    bus.on(3, bus.engine(0, 0.0), display)
    bus.on(14, bus.engine(800, 340.0), display)
    assert not reader.panel.stands
    bus.on(3, bus.engine(800, 20.0), display)
    assert reader.panel.alerts["oil-low"].colour is Colour.RED
    assert reader.panel.alerts["senders-0-40"].colour is Colour.AMBER
    assert reader.senders.engines(bus.clock.at) == (0, 40)
    body = message(bus.hours, told("stood", "oil-pressure", datetime.now(UTC)), engine_from=None, engines=[0, 40])
    assert tell(site, "ld-05", body).json()["engine"] == 0, "as the model's file says"
    assert "does not go by address 0" in run_of(site, "ld-05")["panel"]["doubt"]
    assert tell(site, "ld-05", message(bus.hours, engine_from=40)).is_success
    assert "does not go by address 0" in run_of(site, "ld-05")["panel"]["doubt"]
    assert tell(site, "ld-05", message(bus.hours)).is_success
    now = run_of(site, "ld-05")
    assert now["panel"]["doubt"] == ""
    assert not next(s for s in now["steps"] if s["id"] == "oil-pressure")["settled"], "said in doubt it stays unsaid"


def test_the_machines_file_says_where_its_needles_are_red(site: Device) -> None:
    """The reader goes by it from the server's first answer on, and the page draws it."""
    figures = CATALOG.models["korveth-kw64"].limits
    reply = tell(site, "ld-05", message(hours_of(site, "ld-05")))
    assert reply.json()["figures"]["oil_rated"] == figures["oil-rated"] > figures["oil-idle"]
    needles = {n["key"]: n for n in run_of(site, "ld-05")["panel"]["needles"]}
    assert needles["coolant"]["bands"][-1] == {"colour": "red", "low": figures["coolant-red"], "high": 120}
    bus = Fed(site, "ld-05")
    bus.on(3, bus.engine(0, 0.0))
    bus.reader.send()
    bus.on(14, bus.engine(1900, 150.0))
    assert "oil-low" in bus.reader.reader.panel.alerts, "enough at idle, too little at rated speed"


def test_a_gearbox_without_faults_does_not_wipe_out_the_engines_red(site: Device) -> None:
    bus = Fed(site, "ex-02")
    bus.on(2, bus.engine(0, 0.0))
    hot = bus.engine(800, 340.0)
    hot.faults = RED
    for _ in range(5):
        bus.on(1, hot, Sender(3, faults=Faults()))
    bus.send()
    assert [c for s, c in bus.alerts.items() if "110/0" in s] == ["red"]
    hot.faults = Faults()
    bus.on(2, hot, Sender(3, faults=Faults()))
    assert "fault-110-0" not in bus.panel.alerts, "its own unit says that it is over"


def test_a_clock_set_back_stops_no_judging(site: Device, monkeypatch: pytest.MonkeyPatch) -> None:
    bus = Fed(site, "ex-03")
    bus.on(2, bus.engine(0, 0.0))
    bus.on(12, bus.engine(800, 340.0))
    bus.clock.at -= 3600  # what a log may do; the reader's own clock cannot
    bus.on(14, bus.engine(800, 0.0))
    assert bus.reader.reader.panel.alerts["oil-low"].colour is Colour.RED
    assert bus.reader.reader.set_back == 1
    clock = Clock()
    before = clock()
    monkeypatch.setattr(time, "time", lambda: before - 3600)
    assert 0 <= clock() - before < 5, "nobody can set it"


def test_a_value_from_the_future_or_the_past_is_not_live_and_proves_nothing(site: Device) -> None:
    hours = hours_of(site, "ex-04")
    for off in (timedelta(hours=1), timedelta(hours=-1)):
        at = datetime.now(UTC) + off
        words = [
            told("engine", "stopped", at - timedelta(seconds=3)),
            told("engine", "running", at - timedelta(seconds=2)),
            told("stood", "oil-pressure", at),
        ]
        assert tell(site, "ex-04", {**message(hours, *words), "at": at.isoformat()}).is_success
        time.sleep(2.1)
        now = run_of(site, "ex-04")
        assert not now["panel"]["live"]
        if off > timedelta(0):
            assert "clock is wrong by 3600 s" in now["panel"]["doubt"]
            assert now["engine"] == "running", "it may well turn"
        assert not next(s for s in now["steps"] if s["id"] == "oil-pressure")["settled"]


def test_no_flicker_hides_a_running_engine(site: Device) -> None:
    """Three thousand words of a red that comes and goes, from a reader that does not hold them back."""
    hours, at = hours_of(site, "rh-08"), datetime.now(UTC) - timedelta(hours=2)
    first = [told("engine", "running", at), told("alert", "oil-low", at + timedelta(seconds=1), "red")]
    assert tell(site, "rh-08", message(hours, *first)).is_success
    kinds = ("alert", "over")
    words = [told(kinds[n % 2], "hot", at + timedelta(seconds=2 + n), "red") for n in range(6300)]
    for n in range(0, len(words), 250):
        assert tell(site, "rh-08", message(hours, *words[n : n + 250])).is_success
    now = run_of(site, "rh-08")
    assert (now["engine"], now["stand"]) == ("running", "stop")
    assert tell(site, "rh-08", message(hours, told("engine", "stopped", datetime.now(UTC)))).is_success
    # The reader itself tells it once, with how often it came.
    bus = Fed(site, "rh-08")
    bus.on(2, bus.engine(0, 0.0))
    bus.on(12, bus.engine(800, 340.0))
    for n in range(100):
        flickers = bus.engine(800, 340.0)
        flickers.faults = RED if n % 2 else Faults()
        bus.on(1, flickers)
    words_kept = [w for w in bus.reader._told.next(999) if w["word"] == "fault-110-0"]
    assert len(words_kept) < 8
    bus.on(30, bus.engine(800, 340.0, coolant=70.0), Sender(0, faults=Faults()))
    over = next(w for w in bus.reader._told.next(999) if w["what"] == "over" and w["value"])
    assert over["value"] > 40


def test_a_value_that_goes_away_in_between_is_no_good_value(site: Device) -> None:
    bus = Fed(site, "dz-06")
    bus.on(2, bus.engine(0, 0.0))
    bus.on(11, bus.engine(800, 340.0))
    for n in range(10):
        bus.on(0.5, bus.engine(800, (0.0, 0.0, Lack.NOT_AVAILABLE)[n % 3]))
    bus.send()
    assert bus.alerts["Oil pressure is gone. Stop the engine now."] == "red"


def test_a_red_lamp_without_a_code_is_red(site: Device) -> None:
    bus = Fed(site, "ah-07")
    bus.on(2, bus.engine(0, 0.0))
    lit = bus.engine(800, 340.0)
    lit.faults = Faults(frozenset({"red"}))
    bus.on(3, lit)
    bus.send()
    assert bus.alerts["The red stop lamp is lit, with no code. Stop the engine now."] == "red"
    assert bus.run["stand"] == "stop"


def test_no_red_is_dropped_while_the_server_is_away(site: Device) -> None:
    """Ninety seconds of codes that change five times a second, amber ones, four hundred at once, in one queue."""
    bus, rng = Fed(site, "ex-01"), random.Random(5)
    bus.on(2, bus.engine(0, 0.0))
    hot = bus.engine(800, 340.0)
    hot.faults = RED
    bus.on(3, hot)
    for _ in range(450):
        codes = tuple(Code(rng.randrange(200, 9000), rng.randrange(20)) for _ in range(400))
        flood = Sender(47, faults=Faults(frozenset({"amber"}), codes))
        bus.n = 0
        bus.on(0.2, bus.engine(800, 340.0), flood)
    late = bus.engine(800, 340.0)
    late.faults = Faults(frozenset({"red"}), (Code(190, 0),))
    bus.on(3, late, flood)
    assert len(bus.reader._told) < 1000, "so many codes are told as many"
    reds = {w["word"] for w in bus.reader._told.next(9999) if w["colour"] == "red"}
    assert {"fault-110-0", "fault-190-0"} <= reds, "each red by its own name, however many are amber"
    bus.send()
    now = bus.run
    assert any("110/0" in m for m in now["missing"]), now["missing"]
    # And a queue that is full lets go of amber first, and says so.
    queue = Waiting(50)
    for n in range(400):
        colour = "red" if n % 40 == 0 else "amber"
        queue.add({"id": n, "at": float(n), "what": "alert", "word": f"w{n}", "colour": colour, "value": None})
    queue.add({"id": 999, "at": 0.0, "what": "engine", "word": "running", "colour": "none", "value": None})
    kept = queue.next(999)
    assert [w["word"] for w in kept[:11]] == [f"w{n}" for n in range(0, 400, 40)] + ["running"]
    assert (len(kept), queue.lost, queue.lost_red) == (50, 351, False)


def test_an_addressed_packet_does_not_end_a_broadcast() -> None:
    reader = Reader()
    many = Faults(frozenset({"red"}), tuple(Code(100 + n, 1) for n in range(6)))
    broadcast = in_pieces(65226, write_faults(many))
    addressed = [b"\x10\x10\x00\x03\xff\xca\xfe\x00", b"\x01" + b"\x55" * 7, b"\x02" + b"\x66" * 7]
    for n, (pgn, data) in enumerate(broadcast):
        reader.take(n * 0.05, pgn, 0, data)
        other = addressed[min(n, 2)]
        pgn, source, to = group_of(frame_id(60416 if n == 0 else 60160, 0, to=3))
        reader.take(n * 0.05 + 0.02, pgn, source, other, to)
    reader.tick(5.0)
    assert reader.panel.alerts["fault-100-1"].colour is Colour.RED
    assert len([a for a in reader.panel.alerts if a.startswith("fault")]) == 6


def test_hours_that_are_told_on_request_alone_are_asked_for(site: Device) -> None:
    """Without them nobody knows whose machine it is; who may only listen asks for nothing."""
    hours = hours_of(site, "ld-05")
    for asks in (True, False):
        channel, asked = f"cab-{asks}", list[bytes]()
        line = BusLine("ld-05", "virtual", channel, asks=asks)
        with open_bus("virtual", channel) as bus:
            reader = Follower(line, cast(Any, Wire(site, "ld-05")), Clock())
            reader.start()
            end = time.monotonic() + 4
            while time.monotonic() < end:
                send(bus, 61444, encode(61444, {"engine-speed": 0.0}))
                m = bus.recv(0.1)
                if m is not None and group_of(m.arbitration_id)[0] == 59904:
                    asked.append(bytes(m.data))
                    send(bus, 65253, encode(65253, {"hours": hours}))
            reader.stop()
        assert bool(asked) is asks
        assert set(asked) <= {bytes([0xE5, 0xFE, 0x00]), bytes([0xEC, 0xFE, 0x00])}, "hours, name; low byte first"
        assert reader.reader.panel.values.get("hours") == (pytest.approx(hours, abs=0.05) if asks else None)


def _cut(data: bytes) -> bytes:
    return data[: len(data) // 2 + 3]


def _noise(data: bytes) -> bytes:
    return data[:80] + random.Random(1).randbytes(4000) + data[80:]


def _empty(_: bytes) -> bytes:
    return b""


def _long(data: bytes) -> bytes:
    return data + b"7" * 3_000_000


def what_is_read(log: Path) -> tuple[list[Frame], str]:
    """The frames of a log, and with which sentence it is refused then."""
    found, says = list[Frame](), ""
    try:
        for frame in read_log(log):
            found.append(frame)
    except BadInput as error:
        says = str(error)
    return found, says


@pytest.mark.parametrize("harm", [_cut, _noise, _empty, _long])
@pytest.mark.parametrize("ending", ["asc", "blf", "log", "csv", "trc"])
def test_a_broken_log_is_refused_with_a_sentence(tmp_path: Path, ending: str, harm: Callable[[bytes], bytes]) -> None:
    whole, broken = tmp_path / f"run.{ending}", tmp_path / f"broken.{ending}"
    write_log(whole, (f for f in frames(scenario("weak-battery")) if f.at < 2))
    broken.write_bytes(harm(whole.read_bytes()))
    found, says = what_is_read(broken)
    assert says or len(found) <= len(what_is_read(whole)[0]), "what can be read of it is read"
    assert len(says) < 400
    if ending == "blf" and harm in (_noise, _empty):  # in text a line more or less is no fault
        assert says.startswith("log: it is broken"), says


def test_a_log_that_would_eat_the_computer_is_refused(tmp_path: Path) -> None:
    """A container of a binary log that unpacks to eight hundred million bytes."""
    file = tmp_path / "bomb.blf"
    write_log(file, (f for f in frames(scenario("weak-battery")) if f.at < 2))
    data = bytearray(file.read_bytes())
    at = data.index(b"LOBJ")
    packed = zlib.compressobj(9)
    bomb = b"".join(packed.compress(bytes(1 << 20)) for _ in range(800)) + packed.flush()
    head = bytearray(data[at : at + 32])
    head[8:12] = (32 + len(bomb)).to_bytes(4, "little")
    head[24:28] = (800 << 20).to_bytes(4, "little")
    file.write_bytes(bytes(data[:at]) + bytes(head) + bomb)
    # In a process of its own: what the reader's children took is counted with none of ours.
    tried = (
        "import resource, sys; from jutrel.exchange.logs import read_log; from jutrel.core.errors import BadInput\n"
        "try: list(read_log(__import__('pathlib').Path(sys.argv[1])))\n"
        "except BadInput as error: print(error)\n"
        "print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)"
    )
    command = [sys.executable, "-c", tried, str(file)]
    said = subprocess.run(command, capture_output=True, text=True, check=True).stdout.splitlines()
    assert re.search(r"memory|ended", said[0]), said
    assert int(said[-1]) < 700 << 10, "in thousands of bytes"


def test_a_bus_that_calls_its_machine_otherwise_proves_nothing(site: Device) -> None:
    """The reader is plugged into the neighbour, whose meter happens to fit; or nobody says whose bus it is."""
    hours, step = hours_of(site, "ex-01"), "oil-pressure"

    def heard(*names: str) -> Plain:
        at = datetime.now(UTC)
        word = told("stood", step, at)
        assert tell(site, "ex-01", message(hours, word, identities=list(names))).is_success
        return run_of(site, "ex-01")

    for names, why in (((), "has not told yet whose it is"), (("TE24-00418",), "calls its machine TE24-00418")):
        now = heard(*names)
        assert why in now["panel"]["doubt"]
        assert not next(s for s in now["steps"] if s["id"] == step)["settled"]
    assert "TE24-00417, TE24-00418" in heard("TE24-00417", "TE24-00418")["panel"]["doubt"], "two ways is one too many"
    assert heard("te24-00417 ")["panel"]["doubt"] == ""
    red = told("alert", "hot", datetime.now(UTC), "red")
    engine = told("engine", "running", datetime.now(UTC))
    assert tell(site, "ex-01", message(hours, engine, red, identities=["TE24-00418"])).is_success
    assert run_of(site, "ex-01")["stand"] == "stop", "in doubt it can still stop"
    assert tell(site, "ex-01", message(hours, identities=["x" * 61])).status_code == 422
    assert tell(site, "ex-01", message(hours, identities=["\x1b[31m"])).status_code == 422


def test_a_log_that_counts_from_before_nought_is_judged(site: Device) -> None:
    """Its times were all taken for nought, so nothing ever stood for its time: no red at all."""
    for began in (-9000.0, -2.0, 0.0, 1e9):
        reader = Reader(senders=Senders(0))
        for n in range(300):
            at = began + n * 0.1
            reader.take(at, 61444, 0, encode(61444, {"engine-speed": 0.0 if n < 20 else 800.0}))
            reader.take(at, 65263, 0, encode(65263, {"oil-pressure": 0.0}))
        assert reader.panel.alerts["oil-low"].colour is Colour.RED, began
        assert reader.set_back == 0, began


def test_whose_bus_it_is_is_read_from_pieces_and_forgotten_when_nobody_says_it(site: Device) -> None:
    bus = Fed(site, "ex-01")
    who = bus.reader.reader.identities

    def says(source: int, name: bytes) -> None:
        for pgn, data in sent_as(IDENTIFICATION, name):
            bus.reader.take(bus.clock.at, Frame(bus.clock.at, pgn, source, data))

    bus.on(1, bus.engine(0, 0.0))
    says(0, b"TE24-00417*")
    says(3, bytes([0xFF] * 8))
    says(11, b"\x1b[2J*")
    assert who.holds(bus.clock.at) == ("TE24-00417",)
    says(3, b"KW64-1*")
    assert who.holds(bus.clock.at) == ("KW64-1", "TE24-00417")
    bus.clock.at += 300
    assert who.holds(bus.clock.at) == ()
    for source in range(300):
        says(source % 250, b"N%d*" % source)
    assert len(who.holds(bus.clock.at)) <= 8, "a flood of names fills no memory"
