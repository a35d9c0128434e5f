"""The reader of a machine's bus: what it hears, and what of it is to be told.

The reader keeps what it could not send, and sends it when the server is back: no red is lost with the connection.
The buses are set by configuration alone, for any interface of the CAN library.
"""

from __future__ import annotations

import http.client
import json
import threading
import time
import tomllib
from collections import deque
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import can

from jutrel.core.errors import BadInput
from jutrel.core.panel.figures import of_plain
from jutrel.core.panel.identity import IDENTIFICATION
from jutrel.core.panel.reader import Reader
from jutrel.core.panel.shown import plain
from jutrel.core.panel.signals import Lack
from jutrel.core.panel.told import WORDS_LOST, PanelEventKind
from jutrel.core.panel.watch import Panel
from jutrel.core.procedure.kinds import Colour
from jutrel.exchange.logs import Frame, frame_of, message
from jutrel.panel.waiting import Waiting
from jutrel.service.ids import uuid7

EPOCH = datetime.fromtimestamp(0, UTC)
SEND_EVERY_S, SAME_EVERY_S, SAMPLE_EVERY_S, LONGEST_PAUSE_S, TIMEOUT_S = 0.4, 1.0, 1.0, 4.0, 4.0
MOST_TOLD, MOST_SAMPLES, MOST_ALERTS = 100, 40, 60
"""In one message: it stays under what the server takes at once."""
FINAL = (400, 413, 422)
"""A no that later tries cannot change."""
BACKLOG_S = 0.02
KEPT_SAMPLES = 3600
"""While nobody takes them; the oldest go first."""
MOST_ENGINES = 8
"""Addresses that tell of an engine, in one message."""
REQUEST, HOURS, OUR_ADDRESS, ASK_EVERY_S = 59904, 65253, 249, 2.0
"""The group that asks for another, the engine's hours, the address of a service tool (from memory of SAE J1939-21 and
-81); how often it is asked for [s]: a frame every two seconds is no burden to a bus."""
WHOSE_EVERY_S, WHOSE_AGAIN_S = 10.0, 60.0
"""How often the bus is asked whose it is until it says so, and from then on [s]."""
FAST_PATIENCE = 20.0
"""Played faster, a breath of the computer is many seconds: signals are lost later."""


def _ticks() -> float:
    """Seconds that nobody can set, and that go on while the computer sleeps, where it can count them."""
    boot = getattr(time, "CLOCK_BOOTTIME", None)
    return time.monotonic() if boot is None else time.clock_gettime(boot)


class Clock:
    """The time [s since 1970], or one that runs `speed` times as fast from a moment on.

    It begins as the computer's and goes on by itself: who sets the computer's clock changes nothing here.
    """

    def __init__(self, speed: float = 1.0, since: float = 0.0) -> None:
        self.speed, self.since = speed, since
        self._ahead = time.time() - _ticks()

    def __call__(self) -> float:
        """Now."""
        now = _ticks() + self._ahead
        return now if self.speed == 1.0 else self.since + (now - self.since) * self.speed


@dataclass(frozen=True, slots=True)
class BusLine:
    """A machine's bus. `more`: what else the CAN library is to know, such as a bit rate.

    `asks`: whether the reader may ask on it for what is told on request alone; else it only listens.
    """

    machine: str
    interface: str
    channel: str
    simulated: bool = False
    asks: bool = True
    more: dict[str, Any] = field(default_factory=dict)

    def open(self) -> can.BusABC:
        """The bus, by the library."""
        return can.Bus(interface=self.interface, channel=self.channel or None, **self.more)


def read_lines(path: Path) -> list[BusLine]:
    """Buses from a file in TOML: `[[machine]]` with `id`, `interface`, `channel`, and what the library takes besides.

    Raises
    ------
    BadInput
        For a file that cannot be read or a machine without its bus, naming the field.
    """
    try:
        found = tomllib.loads(path.read_text()).get("machine", [])
    except (OSError, ValueError) as error:
        raise BadInput("file", "it cannot be read: {why}", why=str(error)) from None
    lines = []
    for n, doc in enumerate(found if isinstance(found, list) else [], 1):
        more = dict(doc) if isinstance(doc, dict) else {}
        machine, interface = str(more.pop("id", "")), str(more.pop("interface", ""))
        if not machine or not interface:
            raise BadInput(f"machine {n}", "say its `id` and its `interface`")
        channel, simulated = str(more.pop("channel", "")), bool(more.pop("simulated", False))
        lines.append(BusLine(machine, interface, channel, simulated, bool(more.pop("asks", True)), more))
    if not lines:
        raise BadInput("machine", "the file names no machine: begin each with [[machine]]")
    if len({x.machine for x in lines}) < len(lines):
        raise BadInput("id", "a machine is named twice: two buses cannot both be its own")
    return lines


class Server:
    """Talks to the server for one machine or many, over a connection that is kept."""

    def __init__(self, address: str, key: str, machine: str = "") -> None:
        parts = urlsplit(address)
        if parts.scheme not in ("http", "https") or not parts.hostname:
            raise BadInput("server", "an address such as http://127.0.0.1:8000")
        kind = http.client.HTTPSConnection if parts.scheme == "https" else http.client.HTTPConnection
        self._line = kind(parts.hostname, parts.port, timeout=TIMEOUT_S)
        self._key, self._machine = key, machine

    def ask(self, method: str, what: str, body: object = None) -> tuple[int, Any]:
        """A request about the machine: status and answer; status 0: it does not answer."""
        return self.request(method, f"/api/machines/{self._machine}/{what}", None if body is None else json.dumps(body))

    def request(self, method: str, path: str, body: str | None = None) -> tuple[int, Any]:
        """A request with a document: status and answer; status 0: it does not answer."""
        headers = {"x-device-key": self._key, "content-type": "application/json"}
        try:
            self._line.request(method, path, None if body is None else body.encode(), headers)
            reply = self._line.getresponse()
            text = reply.read()
            return reply.status, json.loads(text) if text else None
        except (OSError, http.client.HTTPException, ValueError):
            self._line.close()
            return 0, None


def _word(at: float, what: PanelEventKind, word: str, colour: Colour, value: float | None) -> dict[str, Any]:
    """Something that happened, as it waits to be told."""
    name = uuid7(datetime.fromtimestamp(at, UTC))
    return {"id": name, "at": at, "what": what.value, "word": word, "colour": colour.value, "value": value}


def _date(at: float) -> str:
    return datetime.fromtimestamp(at, UTC).isoformat()


class Difference:
    """How far the server's clock is ahead of this one [s], by its answers: the quickest says it best."""

    def __init__(self) -> None:
        self.seconds, self._error, self.known = 0.0, float("inf"), False

    def learn(self, sent: float, got: float, server: float) -> None:
        """Take an answer; one that fits what is known already changes nothing, so that times keep their order."""
        ahead, error = server - (sent + got) / 2, (got - sent) / 2
        if error < self._error / 4 or abs(ahead - self.seconds) > error + self._error:
            self.seconds, self._error = ahead, error
        self.known = True


class Follower:
    """Reads a machine's bus in a thread, until it is stopped, and knows what is to be told of it.

    `news`: is set when something happened that should be told at once.
    """

    def __init__(self, line: BusLine, server: Server, clock: Clock) -> None:
        self.line, self.server, self.clock = line, server, clock
        self.news = threading.Event()
        self.since = clock()
        patience = 1.0 if clock.speed == 1.0 else FAST_PATIENCE
        self.reader = Reader(Panel(at=self.since, patience=patience))
        self.refused = ""
        self.difference = Difference()
        self._told = Waiting()
        self._samples: deque[dict[str, Any]] = deque(maxlen=KEPT_SAMPLES)
        self._sent_told: list[dict[str, Any]] = []
        self._sent_samples: list[dict[str, Any]] = []
        self._lock, self._stop = threading.Lock(), threading.Event()
        self._sampled = self._asked = self._asked_whose = 0.0
        self._share = 1.0
        """How much of a full message is sent: less after a no, until what was refused is found."""
        self._last: tuple[float, object] = (0.0, None)
        """When the panel was told last, and as what."""
        self._thread = threading.Thread(target=self._read, daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self) -> None:
        """End; what is known can still be told."""
        self._stop.set()
        self._thread.join(5)

    def _read(self) -> None:
        while not self._stop.is_set():
            try:
                with self.line.open() as bus:
                    while not self._stop.is_set():
                        self._take(bus.recv(0.2 / max(1.0, self.clock.speed / 10)))
                        for group in self._lacks() if self.line.asks else ():
                            bus.send(message(Frame(0.0, REQUEST, OUR_ADDRESS, group.to_bytes(3, "little"))))
            except (can.CanError, OSError) as error:
                self.refused = str(error)  # unplugged: what was known grows old, and it is tried again
                with self._lock:
                    self.reader.tick(self.clock())
                self._stop.wait(1.0)

    def _lacks(self) -> list[int]:
        """The groups to be asked for now: many machines tell their hours and whose they are on request alone, and
        without them nobody knows which machine is read."""
        at = self.clock()
        if not self.reader.frames or at - self._asked < ASK_EVERY_S:
            return []
        self._asked, lacks = at, []
        if at - self.reader.panel.seen.get("hours", float("-inf")) >= ASK_EVERY_S:
            lacks.append(HOURS)
        every = WHOSE_AGAIN_S if self.reader.identities.holds(at) else WHOSE_EVERY_S
        if at - self._asked_whose >= every:
            self._asked_whose = at
            lacks.append(IDENTIFICATION)
        return lacks

    def _take(self, m: can.Message | None) -> None:
        at = self.clock()
        if m is None:
            self.take(at, None)
        elif frame := frame_of(m, at):
            self.take(at, frame)

    def take(self, at: float, frame: Frame | None) -> None:
        """Take a frame at a time [s since 1970]; None: time has gone by."""
        with self._lock:
            if frame is None:
                self.reader.tick(at)
            else:
                self.reader.take(at, frame.pgn, frame.source, frame.data, frame.to)
            for h in self.reader.happened:
                self._told.add(_word(h.at, h.what, h.word, h.colour, h.value))
            if self.reader.happened:
                self.news.set()  # values wait for their turn, what happened does not
            self.reader.happened.clear()
            if at - self._sampled >= SAMPLE_EVERY_S and self.reader.frames:
                self._sampled = at
                values = {k: v for k, v in self.reader.panel.values.items() if not isinstance(v, Lack)}
                self._samples.append({"at": at, "values": values})

    def has_news(self) -> bool:
        """Whether something happened that nobody was told of."""
        with self._lock:
            return bool(self._told)

    def is_due(self) -> bool:
        """Whether there is anything new to tell, or it is time to say that all is as it was."""
        with self._lock:
            if not self.reader.frames:
                return False
            at, last = self._last
            late = self.clock() - at >= SAME_EVERY_S or bool(self._told) or bool(self._samples)
            return late or self._shown() != last

    def _shown(self) -> tuple[object, ...]:
        return self.reader.panel.engine, self.reader.panel.values, self.reader.panel.alerts

    def message(self) -> dict[str, object] | None:
        """What is to be sent now; None before anything came over the bus."""
        with self._lock:
            if not self.reader.frames:
                return None
            self._last = self.clock(), self._shown()
            ahead = self.difference.seconds
            told, samples = max(1, int(MOST_TOLD * self._share)), int(MOST_SAMPLES * self._share)
            if self._told.lost:
                colour = Colour.RED if self._told.lost_red else Colour.AMBER
                lost, self._told.lost, self._told.lost_red = self._told.lost, 0, False
                self._told.add(_word(self.reader.panel.at, PanelEventKind.ALERT, WORDS_LOST, colour, float(lost)))
            self._sent_told, self._sent_samples = self._told.next(told), list(self._samples)[:samples]
            if not self.difference.known:  # what happened waits until it is known when that was
                self._sent_told, self._sent_samples = [], []
            found = self.reader.panel

            def dated(x: dict[str, Any]) -> dict[str, object]:
                return {**x, "at": _date(x["at"] + ahead)}

            shown = plain(found, EPOCH + timedelta(seconds=ahead))
            shown["alerts"] = sorted(shown["alerts"], key=lambda a: a[1] != "red")[:MOST_ALERTS]
            if self._alone:  # is it the values that are refused? What happened goes without them
                shown = {**shown, "values": {}, "alerts": []}
            return {
                "since": _date(self.since + ahead),
                "at": _date(found.at + ahead),
                **shown,
                "simulated": self.line.simulated,
                "engine_from": self.reader.senders.engine,
                "engines": self.reader.senders.engines(found.at)[:MOST_ENGINES],
                "identities": list(self.reader.identities.holds(found.at)),
                "told": [dated(x) for x in self._sent_told],
                "samples": [dated(x) for x in self._sent_samples],
            }

    @property
    def _alone(self) -> bool:
        """Whether one word is sent by itself, after all else was refused."""
        return self._share * MOST_TOLD < 1

    @property
    def every(self) -> float:
        """How often it is to be told [s]."""
        return SEND_EVERY_S / max(1.0, self.clock.speed / 6)

    def send(self, pause: float = SEND_EVERY_S) -> float:
        """Tell the server what there is to tell of this machine alone; how long to wait then [s].

        What it did not take is told again. What it will never take is found by halves and let go, so that it stops
        nothing else.
        """
        body = self.message()
        if body is None:
            return self.every
        sent = self.clock()
        status, answer = self.server.ask("PUT", "panel", body)
        if status == 200 and isinstance(answer, dict) and "now" in answer:
            return self.taken(sent, answer["now"], answer)
        return self.not_taken(0 if status == 200 else status, answer, pause)

    def taken(self, sent: float, now: str, bus: Mapping[str, Any]) -> float:
        """The server took it, and says what its clock shows and what the machine's file says of its bus."""
        self.difference.learn(sent, self.clock(), datetime.fromisoformat(now).timestamp())
        self.refused, self._share = "", min(1.0, self._share * 2)
        self._gone()
        with self._lock:
            told = bus.get("figures")
            self.reader.named(bus.get("engine"), of_plain(told) if isinstance(told, dict) else None)
        return BACKLOG_S if len(self._told) > MOST_TOLD else self.every  # what was kept is told at once

    def not_taken(self, status: int, answer: object, pause: float) -> float:
        """The server did not take it: it is due again."""
        self._last = 0.0, None
        says = answer.get("detail", "") if isinstance(answer, dict) else ""
        self.refused = f"the server says {status} {says}".rstrip() if status else "the server does not answer"
        if status not in FINAL:
            return min(LONGEST_PAUSE_S, pause * 2)
        if self._alone:
            self._gone()  # nobody will ever take this one
        else:
            self._share /= 2
        return self.every

    def _gone(self) -> None:
        """Sent, or never to be sent: not kept any longer."""
        with self._lock:
            self._told.gone(self._sent_told)
            for item in self._sent_samples:
                if self._samples and self._samples[0] is item:
                    self._samples.popleft()
