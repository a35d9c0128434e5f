"""`python -m bench.flood 60`: a bus that is flooded for so many minutes, and what becomes of the reader beside it.

A bus of 250 kbit/s carries some 1,800 frames a second; 1,500 are sent, each from another address, with fault messages
of four hundred codes that change, a red that flickers, and packets for one unit in the engine's name. Once a minute the
engine itself has a red of its own for three seconds. Told at the end: whether each of these came to the server, what
memory the reader took from the third minute on, and a tap beside the flood against one without it, turn by turn.
"""

from __future__ import annotations

import json
import os
import random
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import can

from bench.served import ROOT, Client, catalog, cluster, served, sql
from bench.server import Hand
from jutrel.core.panel.faults import Code, Faults, frames_of
from jutrel.core.panel.signals import BY_PGN, encode
from jutrel.demo.load import load_demo
from jutrel.demo.story import PIN
from jutrel.exchange.logs import Frame, message
from jutrel.service.site.upgrade import bring_up

KEY, CHANNEL, MACHINE, OTHER = "flood", "239.74.163.11", "ex-02", "ld-05"
FRAMES_A_SECOND, TICK_S, TURN_S, CALM_S = 1500, 0.1, 60, 20
FIRST_CODE = 2000
TAPS = 25


def engine(n: int, hours: float) -> Iterator[Frame]:
    """What the engine sends in the n-th tick."""
    said = {"engine-speed": 800.0, "oil-pressure": 340.0, "coolant": 80.0, "volts": 28.0, "hours": hours}
    for pgn in (61444, 65263, 65262, 65271, 65253):
        if pgn == 61444 or n % 5 == 0:
            yield Frame(0.0, pgn, 0, encode(pgn, said))
    turn, within = divmod(n * TICK_S, TURN_S)
    if n % 10 == 0:
        red = Faults(frozenset({"red"}), (Code(FIRST_CODE + int(turn), 1),))
        yield from (Frame(0.0, pgn, 0, d) for pgn, d in frames_of(red if 30 <= within < 33 else Faults()))


def flood(rng: random.Random, n: int) -> Iterator[Frame]:
    """What else is on the bus then: noise, changing codes, flicker, packets for one unit."""
    if n % 2 == 0:
        codes = tuple(Code(rng.randrange(3000, 90_000), rng.randrange(20)) for _ in range(400))
        yield from (Frame(0.0, pgn, 47, d) for pgn, d in frames_of(Faults(frozenset({"amber"}), codes)))
    flicker = Faults(frozenset({"red"}), (Code(520, 2),)) if n % 4 < 2 else Faults()
    yield from (Frame(0.0, pgn, 48, d) for pgn, d in frames_of(flicker))
    yield Frame(0.0, 60160, 0, rng.randbytes(8), 3)
    for _ in range(int(FRAMES_A_SECOND * TICK_S) - 120):
        pgn = rng.choice((*BY_PGN, rng.randrange(60_000)))
        yield Frame(0.0, pgn, rng.randrange(1, 254), rng.randbytes(8))


def send(port: int, hours: float, seconds: float) -> None:
    """The bus, as a process of its own; calm for the last seconds of each turn."""
    rng = random.Random(1)
    with can.Bus(interface="udp_multicast", channel=CHANNEL, port=port) as bus:
        begun = time.monotonic()
        for n in range(round(seconds / TICK_S)):
            frames = list(engine(n, hours))
            if n * TICK_S % TURN_S < TURN_S - CALM_S:
                frames += flood(rng, n)
            for k, frame in enumerate(frames):
                bus.send(message(frame))
                if k % 20 == 19:  # as a bus would, one after the other
                    time.sleep(0.002)
            time.sleep(max(0.0, begun + (n + 1) * TICK_S - time.monotonic()))


def memory(pid: int) -> float:
    """What a process holds [MB]."""
    status = Path(f"/proc/{pid}/status").read_text()
    return int(next(x for x in status.splitlines() if x.startswith("VmRSS")).split()[1]) / 1024


def taps(client: Client) -> list[float]:
    """How long each of some taps took [ms]."""
    hand, out = Hand(client, OTHER), []
    for _ in range(TAPS):
        begun = time.perf_counter()
        hand.tap()
        out.append((time.perf_counter() - begun) * 1000)
        time.sleep(0.2)
    return out[5:]


def main(minutes: int) -> None:
    """All of it, told line by line."""
    os.environ |= {"JUTREL_DEVICE_KEY": KEY, "JUTREL_DEMO_PIN": PIN}
    with cluster() as scratch, tempfile.TemporaryDirectory() as folder:
        url, owner = scratch.url_of("flood", owner=False), scratch.url_of("flood", owner=True)
        sql(scratch.url_of("postgres", owner=True), 'create database "flood"')
        bring_up(owner, catalog())
        load_demo(url, catalog())
        with served(url) as client:
            client.sign_in("Mira")
            yard = json.loads(client.get("/api/yard"))["machines"]
            unit = next(m["machine"] for m in yard if m["machine"]["id"] == MACHINE)
            port = 20000 + (client.connection.port or 0) % 20000
            file = Path(folder) / "buses.toml"
            line = f'[[machine]]\nid = "{MACHINE}"\ninterface = "udp_multicast"\nchannel = "{CHANNEL}"\nport = {port}\n'
            file.write_text(line)
            reads = [str(Path(sys.executable).with_name("jutrel")), "panel", "follow", str(file), "--key", KEY]
            here = f"http://127.0.0.1:{client.connection.port}"
            reader = subprocess.Popen([*reads, "--server", here], cwd=ROOT)
            hours = str(unit["hour_meter"] - unit["meter_offset"])
            command = [sys.executable, "-m", "bench.flood", "--send", str(port), hours, str(minutes * TURN_S)]
            bus = subprocess.Popen(command, cwd=ROOT)
            try:
                _watch(client, reader.pid, minutes)
            finally:
                for process in (bus, reader):
                    process.terminate()
                    process.wait(10)
            time.sleep(1)
            told = {
                word
                for (word,) in sql(
                    owner, f"select word from panel_told where machine_id = '{MACHINE}' and colour = 'red'"
                )
            }
            words = sql(owner, f"select count(*) from panel_told where machine_id = '{MACHINE}'")[0][0]
            have = sum(f"fault-{FIRST_CODE + n}-1" in told for n in range(minutes))
            print(f"reds of the engine that came to the server: {have} of {minutes}; words kept in all: {words}")


def _watch(client: Client, reader: int, minutes: int) -> None:
    beside, alone, held = list[float](), list[float](), list[float]()
    begun = time.monotonic()
    for turn in range(minutes):
        time.sleep(max(0.0, begun + turn * TURN_S + 12 - time.monotonic()))
        beside += taps(client)
        held.append(memory(reader))
        time.sleep(max(0.0, begun + turn * TURN_S + TURN_S - CALM_S + 5 - time.monotonic()))
        alone += taps(client)
        ratio = statistics.median(beside) / statistics.median(alone)
        print(f"minute {turn + 1}: reader {held[-1]:.0f} MB; a tap beside the flood {ratio:.2f}x", flush=True)
    time.sleep(max(0.0, begun + minutes * TURN_S - time.monotonic()))
    steady = held[min(2, len(held) - 1) :]
    print(
        f"reader: {steady[0]:.0f} MB in the third minute, {steady[-1]:.0f} MB in the last, {max(steady):.0f} MB at most"
    )
    middle = statistics.median(beside), statistics.median(alone)
    print(f"a tap: {middle[0]:.1f} ms beside the flood, {middle[1]:.1f} ms without, {middle[0] / middle[1]:.2f}x")


if __name__ == "__main__":
    if sys.argv[1] == "--send":
        send(int(sys.argv[2]), float(sys.argv[3]), float(sys.argv[4]))
    else:
        main(int(sys.argv[1]))
