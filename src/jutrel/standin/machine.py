"""A machine that is a stand-in, as a process: it hears its orders from the server and tells itself on a bus."""

from __future__ import annotations

import threading
from dataclasses import replace

from jutrel.exchange.logs import message
from jutrel.follow import Clock, Line, Server
from jutrel.standin.engine import Engine, Fault, Inputs, Turns, stepped
from jutrel.standin.scenario import TICK_S, frames_at


class StandIn:
    """A machine that is none: does what it is ordered to and tells it on a bus, as a real one would."""

    def __init__(self, line: Line, server: Server, clock: Clock, engine: Engine) -> None:
        self.line, self.server, self.clock, self.engine = line, server, clock, engine
        self.given = engine.given
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
            if not known:
                self.engine, known = replace(self.engine, hours=answer["hours"]), True
            self._met.set()
            if orders := answer["orders"]:
                faults = frozenset(Fault(f) for f in orders["faults"] if f in list(Fault))
                self.given = Inputs(Turns(orders["turns"]), orders["throttle"], orders["load"], orders["air_c"], faults)

    def _drive(self) -> None:
        self._met.wait()  # a meter that shows nought would be another machine's
        tick = TICK_S * max(1.0, self.clock.speed / 10)
        at, n = self.clock(), 0
        with self.line.open() as bus:
            while not self._stop.is_set():
                self.engine = stepped(self.engine, self.given, tick)
                for frame in frames_at(self.engine, n, tick):
                    bus.send(message(frame))
                n += 1
                at += tick
                behind = self.clock() - at
                if behind > 10 * tick:
                    at = self.clock()
                else:
                    self._stop.wait(max(0.0, -behind / self.clock.speed))
