"""Frames to and from a CAN bus, by the ordinary library: any interface that it knows."""

from __future__ import annotations

import time
from collections.abc import Iterator

import can

from jutrel.exchange.logs import Frame, frame_of, message


def open_bus(interface: str, channel: str) -> can.BusABC:
    """A bus of any interface that the library knows, by configuration alone."""
    return can.Bus(interface=interface, channel=channel or None)


def send(bus: can.BusABC, pgn: int, data: bytes, source: int = 0) -> None:
    """Send a frame to everybody."""
    bus.send(message(Frame(0.0, pgn, source, data)))


def read_bus(interface: str, channel: str, seconds: float) -> Iterator[tuple[float, Frame | None]]:
    """Frames of a bus as they come, each at its time [s]; None where nothing came for half a second."""
    with open_bus(interface, channel) as bus:
        began = time.monotonic()
        while not seconds or time.monotonic() - began < seconds:
            m = bus.recv(0.5)
            now = time.monotonic()
            if m is None:
                yield now, None
            elif frame := frame_of(m, now):
                yield now, frame
