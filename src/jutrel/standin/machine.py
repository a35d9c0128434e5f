"""A machine that is a stand-in, as a process: it hears its orders from the server and tells itself on a bus."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from dataclasses import replace

import can

from jutrel.core.panel.faults import sent_as
from jutrel.core.panel.identity import IDENTIFICATION
from jutrel.exchange.logs import Frame, frame_of, message
from jutrel.panel.bus_reader import REQUEST, BusLine, Clock, Server
from jutrel.standin.engine import Fault, Inputs, SimulatedEngine, Turns, stepped
from jutrel.standin.scenario import ENGINE, TICK_S, frames_at


class StandIn:
    """A machine that is none: does what it is ordered to and tells it on a bus, as a real one would."""

    def __init__(self, line: BusLine, server: Server, clock: Clock, engine: SimulatedEngine) -> None:
        self.line, self.server, self.clock, self.engine = line, server, clock, engine
        self.given = engine.given
        self.identification = ""
        self._met = threading.Event()
        if engine.hours > 0:
            self._met.set()
        self._stop = threading.Event()
        self._threads = [threading.Thread(target=f, daemon=True) for f in (self._drive, self._hear)]

    def start(self) -> None:
        """Begin."""
        for thread in self._threads:
            thread.start()

    def stop(self) -> None:
        """End: the bus falls silent."""
        self._stop.set()
        self._met.set()
        for thread in self._threads:
            thread.join(5)

    def _hear(self) -> None:
        known = self.engine.hours > 0
        while not self._stop.wait(0.2):
            status, answer = self.server.ask("GET", "stand-in")
            if status != 200:
                continue
            self.identification = answer["identification"] or ""
            if not known:
                self.engine, known = replace(self.engine, hours=answer["hours"]), True
            self._met.set()
            if orders := answer["orders"]:
                faults = frozenset(Fault(f) for f in orders["faults"] if f in list(Fault))
                self.given = Inputs(Turns(orders["turns"]), orders["throttle"], orders["load"], orders["air_c"], faults)

    def _answers(self, bus: can.BusABC) -> Iterator[Frame]:
        """What it says because it was asked since: whose machine it is, as many machines do on request alone."""
        asked = False
        while (heard := bus.recv(0.0)) is not None:
            frame = frame_of(heard, 0.0)
            asked |= (
                frame is not None and frame.pgn == REQUEST and frame.data[:3] == IDENTIFICATION.to_bytes(3, "little")
            )
        if asked and self.identification:
            for pgn, data in sent_as(IDENTIFICATION, f"{self.identification}*".encode("ascii", "replace")):
                yield Frame(0.0, pgn, ENGINE, data)

    def _drive(self) -> None:
        self._met.wait()  # a meter that shows nought would be another machine's
        tick = TICK_S * max(1.0, self.clock.speed / 10)
        at, n = self.clock(), 0
        with self.line.open() as bus:
            while not self._stop.is_set():
                self.engine = stepped(self.engine, self.given, tick)
                for frame in (*frames_at(self.engine, n, tick), *self._answers(bus)):
                    bus.send(message(frame))
                n += 1
                at += tick
                behind = self.clock() - at
                if behind > 10 * tick:
                    at = self.clock()
                else:
                    self._stop.wait(max(0.0, -behind / self.clock.speed))
