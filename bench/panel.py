"""Frames decoded and judged, against cantools decoding them alone; from the bus to the page; what buses cost."""

from __future__ import annotations

import http.client
import json
import os
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

import can
import cantools

from bench.lines import Lines
from bench.readings import median_ms
from bench.served import Client, catalog, cluster, processor_s, served, sql
from jutrel.core.panel.reader import Reader
from jutrel.core.panel.signals import BY_PGN, SIGNALS, dbc, encode, frame_id
from jutrel.core.panel.watch import STANDS_FOR_S
from jutrel.demo.story import PIN
from jutrel.exchange import bus as panel_bus
from jutrel.service.ids import uuid7
from jutrel.service.site.upgrade import bring_up
from jutrel.standin.scenario import frames, scenario
from tests.conftest import fill_base

SECONDS = 40.0


def read(lines: Lines) -> None:
    """A start of forty seconds, read and judged."""
    lines.head("The panel: frames decoded and judged")
    sent = [f for f in frames(scenario("warm-start")) if f.at < SECONDS]
    database = cantools.database.load_string(dbc(), "dbc")
    plain = [(frame_id(f.pgn, 254), f.data) for f in sent if f.pgn in BY_PGN]

    def theirs() -> None:
        for identifier, data in plain:
            database.decode_message(identifier, data)

    def ours() -> None:
        reader = Reader()
        for f in sent:
            reader.take(f.at, f.pgn, 0, f.data)

    least, took = median_ms(theirs), median_ms(ours)
    rate = len(sent) / took * 1000
    lines.add(f"as quick as cantools decoding alone ({rate:.0f} a second)", least / took, 0.5, least=True)


KEY, CHANNEL, MACHINES, EVERY_S = "bench", "239.74.163.9", 20, 0.02
FLEET, FLEET_S = 200, 15


def told(lines: Lines) -> None:
    """From the bus to the page, twenty machines at fifty frames a second; against an event of the yard from its tap."""
    with cluster() as scratch:
        url = scratch.url_of("bench", owner=False)
        sql(scratch.url_of("postgres", owner=True), 'create database "bench"')
        bring_up(scratch.url_of("bench", owner=True), catalog())
        fill_base(url)
        os.environ |= {"JUTREL_DEVICE_KEY": KEY, "JUTREL_DEMO_PIN": PIN}
        with served(url) as client:
            client.sign_in("Pell")
            port = client.connection.port
            _machines(client)
            client.sign_in("Mira")
            with _followed(port) as (send, reader):
                begun, before = time.perf_counter(), (processor_s(client.pid), processor_s(reader))
                _delays(lines, port, client.cookie, send)
                each = MACHINES * (time.perf_counter() - begun) / 100
                for name, pid, then in (("server", client.pid, before[0]), ("reader", reader, before[1])):
                    lines.add(f"processor of the {name}, of each machine", (processor_s(pid) - then) / each, None, "%")
            _fleet(lines, client)


def _fleet(lines: Lines, client: Client) -> None:
    """Two hundred machines, told of once a second in messages of fifty, all values changing."""
    client.sign_in("Pell")
    _machines(client, MACHINES, FLEET)
    used = processor_s(client.pid)
    begun = next_at = time.perf_counter()
    for turn in range(FLEET_S):
        for part in range(0, FLEET, 50):
            at = datetime.now(UTC)
            says = {s.key: s.low + (s.high - s.low) * ((turn % 7) + 1) / 9 for s in SIGNALS[:24]}
            body = {"since": at.isoformat(), "at": at.isoformat(), "engine": "running", "values": says,
                    "engine_from": 0, "engines": [0], "told": [],
                    "samples": [{"at": at.isoformat(), "values": says}]}  # fmt: skip
            machines = {f"b-{n}": body for n in range(part, part + 50)}
            status, data = client.ask("PUT", "/api/panels", {"machines": machines}, {"x-device-key": KEY})
            assert status == 200, data
        next_at += 1.0
        time.sleep(max(0.0, next_at - time.perf_counter()))
    share = (processor_s(client.pid) - used) / (time.perf_counter() - begun) * 100
    lines.add(f"processor of the server, the buses of {FLEET} machines", share, 25, "%")


def _machines(client: Client, since: int = 0, until: int = MACHINES) -> None:
    for n in range(since, until):
        now = datetime.now(UTC)
        body = {"id": uuid7(now, n), "name": f"B-{n}", "model_id": "tolvane-e24", "options": [], "hour_meter": 100.0}
        status, data = client.ask("PUT", f"/api/machines/b-{n}", body)
        assert status == 200, data


@contextmanager
def _followed(port: int) -> Iterator[tuple[Callable[[float], None], int]]:
    """The reader in a process of its own, and the machines; gives what sets the first one's speed, and its process."""
    with tempfile.TemporaryDirectory() as folder:
        file, base = Path(folder) / "buses.toml", 20000 + port % 20000
        line = '[[machine]]\nid = "b-{n}"\ninterface = "udp_multicast"\nchannel = "{c}"\nport = {p}\n'
        file.write_text("".join(line.format(n=n, c=CHANNEL, p=base + n) for n in range(MACHINES)))
        command = [str(Path(sys.executable).with_name("jutrel")), "panel", "follow", str(file)]
        process = subprocess.Popen([*command, "--server", f"http://127.0.0.1:{port}", "--key", KEY])
        buses = [can.Bus(interface="udp_multicast", channel=CHANNEL, port=base + n) for n in range(MACHINES)]
        speed, done = [0.0], threading.Event()

        def run() -> None:
            n, next_at = 0, time.perf_counter()
            while not done.is_set():
                said = {"engine-speed": 800.0, "oil-pressure": 340.0, "coolant": 80.0, "volts": 28.0, "hours": 100.0}
                pgn = tuple(BY_PGN)[n % len(BY_PGN)] if n % 2 else 61444
                for i, bus in enumerate(buses):
                    said["engine-speed"] = speed[0] if i == 0 else 800.0
                    panel_bus.send(bus, pgn, encode(pgn, said))
                n, next_at = n + 1, next_at + EVERY_S
                done.wait(max(0.0, next_at - time.perf_counter()))

        thread = threading.Thread(target=run)
        thread.start()
        try:
            yield lambda to: speed.__setitem__(0, to), process.pid
        finally:
            done.set()
            thread.join()
            process.terminate()
            process.wait(10)
            for bus in buses:
                bus.shutdown()


def _delays(lines: Lines, port: int, cookie: str, send: Callable[[float], None]) -> None:
    heard: list[tuple[float, str]] = []
    yard: list[float] = []

    def listen(path: str, take: Callable[[bytes], None]) -> None:
        line = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        line.request("GET", path, headers={"Cookie": cookie})
        reply = line.getresponse()
        while text := reply.readline():
            if text.startswith(b"data:"):
                take(text)

    def panel(text: bytes) -> None:
        heard.append((time.perf_counter(), json.loads(text[5:])["engine"] if b"engine" in text else ""))

    paths = [("/api/machines/b-0/panel/events", panel), ("/api/events", lambda _: yard.append(time.perf_counter()))]
    time.sleep(4)
    for path, take in paths:
        threading.Thread(target=listen, args=(path, take), daemon=True).start()
    time.sleep(2)
    late = []
    for turn in range(16):
        to, word = (800.0, "running") if turn % 2 == 0 else (0.0, "stopped")
        begun = time.perf_counter()
        send(to)
        while not (heard and heard[-1][0] > begun and heard[-1][1] == word):
            assert time.perf_counter() - begun < 20, (word, heard[-3:])
            time.sleep(0.001)
        late.append(heard[-1][0] - begun - (0.0 if word == "running" else STANDS_FOR_S))
        time.sleep(0.6)
    empty = []
    client = Client(port)
    client.cookie = cookie
    client.sign_in("Pell")
    for n in range(8):
        time.sleep(1)
        body = {"id": uuid7(datetime.now(UTC), n), "why": "bench, so that the yard is told"}
        begun = time.perf_counter()
        assert client.ask("POST", "/api/machines/b-19/locks", body)[0] == 200
        while not (yard and yard[-1] > begun):
            time.sleep(0.001)
        empty.append(yard[-1] - begun)
    middle, floor = statistics.median(late), statistics.median(empty)
    lines.add(f"from the bus to the page, {MACHINES} machines ({middle * 1000:.0f} ms)", middle / floor, None)


if __name__ == "__main__":
    read(made := Lines())
    told(made)
