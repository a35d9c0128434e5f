"""A reader's way to the server in tests: its messages, its clock, and the frames of several senders."""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any, cast

import httpx

from jutrel.core.panel.faults import Faults, frames_of
from jutrel.core.panel.signals import BY_KEY, Value, encode
from jutrel.core.panel.watch import Panel
from jutrel.exchange.logs import Frame
from jutrel.panel.bus_reader import BusLine, Follower
from jutrel.service.ids import uuid7
from jutrel.standin.scenario import EVERY_S
from tests.device import Device, whole_run
from tests.panel.processes import KEY

Plain = dict[str, Any]
HEADERS = {"x-device-key": KEY}


def hours_of(me: Device, machine: str) -> float:
    yard = me.http.get("/api/yard").raise_for_status().json()
    found = next(m["machine"] for m in yard["machines"] if m["machine"]["id"] == machine)
    return float(found["hour_meter"] - found["meter_offset"])


def told(what: str, word: str, at: datetime, colour: str = "none", value: float | None = None) -> Plain:
    return {"id": uuid7(at), "at": at.isoformat(), "what": what, "word": word, "colour": colour, "value": value}


def message(hours: float, *happened: Plain, **more: Any) -> Plain:
    now = datetime.now(UTC)
    values = {"engine-speed": 800.0, "oil-pressure": 340.0, "coolant": 40.0, "volts": 28.2, "hours": hours}
    document = {"since": (now - timedelta(hours=1)).isoformat(), "at": now.isoformat()}
    by = {"engine_from": 0, "engines": [0]}
    return {**document, "engine": "running", "values": values, "told": list(happened), **by, **more}


CALLED = {"ex-01": ["TE24-00417"]}
"""How the demo's file says that a machine is called on its bus."""


def tell(me: Device, machine: str, body: Plain, **headers: str) -> httpx.Response:
    body = {"identities": CALLED.get(machine, []), **body}
    return me.http.put(f"/api/machines/{machine}/panel", json=body, headers=headers or HEADERS)


class Wire:
    """The reader's way to the server, through the test's own client."""

    def __init__(self, me: Device, machine: str) -> None:
        self.me, self.machine = me, machine

    def ask(self, method: str, what: str, body: Plain) -> tuple[int, Any]:
        reply = self.me.http.request(method, f"/api/machines/{self.machine}/{what}", json=body, headers=HEADERS)
        return reply.status_code, reply.json()


class Then:
    """A clock that stands where a test puts it [s since 1970]."""

    speed = 1.0

    def __init__(self, at: float) -> None:
        self.at = at

    def __call__(self) -> float:
        return self.at


@dataclass
class Sender:
    """A control unit on a bus: its address, what it says, what it warns of; silent where it says nothing."""

    source: int
    values: dict[str, Value] = field(default_factory=dict)
    faults: Faults | None = None

    def frames(self, at: float, n: int) -> Iterator[Frame]:
        """Its frames of the n-th tenth of a second."""
        for pgn in sorted({BY_KEY[k].pgn for k in self.values}):
            if n % max(1, round(EVERY_S[pgn] / 0.1)) == 0:
                yield Frame(at, pgn, self.source, encode(pgn, self.values))
        if self.faults is not None and n % 10 == 0:
            yield from (Frame(at, pgn, self.source, data) for pgn, data in frames_of(self.faults))


class Fed:
    """A machine's reader that is fed by hand, on a clock that the test moves, with the server behind it."""

    def __init__(self, me: Device, machine: str) -> None:
        self.me, self.machine, self.hours = me, machine, hours_of(me, machine)
        self.clock = Then(time.time() - 1000)
        line = BusLine(machine, "virtual", "nobody")
        self.reader = Follower(line, cast(Any, Wire(me, machine)), cast(Any, self.clock))
        self.reader.reader.named(0)
        self.n = 0

    @property
    def panel(self) -> Panel:
        """What the reader itself knows."""
        return self.reader.reader.panel

    def engine(self, speed: float, oil: Value, **more: Value) -> Sender:
        """The machine's own engine, at address 0."""
        said: dict[str, Value] = {"engine-speed": speed, "oil-pressure": oil, "coolant": 60.0, "volts": 28.0}
        return Sender(0, {**said, "hours": self.hours, **{k.replace("_", "-"): v for k, v in more.items()}})

    def on(self, seconds: float, *senders: Sender) -> None:
        """So much time goes by with these on the bus."""
        for _ in range(round(seconds * 10)):
            for sender in senders:
                for frame in sender.frames(self.clock.at, self.n):
                    self.reader.take(self.clock.at, frame)
            self.n += 1
            self.clock.at += 0.1
            self.reader.take(self.clock.at, None)

    def send(self) -> None:
        """All that waits is told, as if it were now; once in a test, for its clock runs and the server's does not."""
        self.reader.difference.learn(self.clock.at, self.clock.at, time.time())
        for _ in range(200):
            self.reader.send()
            if not len(self.reader._told):
                break
        assert self.reader.refused == ""

    @property
    def run(self) -> Plain:
        """The run's page."""
        return whole_run(self.me.http.get(f"/api/machines/{self.machine}/run").raise_for_status().json())

    @property
    def alerts(self) -> dict[str, str]:
        """What the run's page says of the panel: the words of each alert, and how urgent."""
        return {a["says"]: a["colour"] for a in self.run["panel"]["alerts"]}

    def oil(self) -> str:
        """How the step "oil pressure" stands there."""
        return str(next(s["mark"] for s in self.run["steps"] if s["id"] == "oil-pressure"))
