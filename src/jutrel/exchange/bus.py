"""Frames to and from a CAN bus or a log file, by the ordinary library: any interface or format that it knows."""

from __future__ import annotations

import time
from collections.abc import Iterable, Iterator
from pathlib import Path

import can

from jutrel.core.panel.signals import frame_id, group_of


def message(pgn: int, data: bytes, at: float, source: int = 0) -> can.Message:
    """A frame as the library's message."""
    return can.Message(
        arbitration_id=frame_id(pgn, source), data=data, timestamp=at, is_extended_id=True, check=True
    )  # fmt: skip


def write_log(path: Path, found: Iterable[tuple[float, int, bytes]], source: int = 0) -> int:
    """Write frames (time [s], parameter group, data) to a log, in the open format of its ending; how many there are."""
    count = 0
    with can.Logger(str(path)) as log:
        for at, pgn, data in found:
            log(message(pgn, data, at, source))
            count += 1
    return count


def read_log(path: Path) -> Iterator[tuple[float, int, int, bytes]]:
    """Frames of a log: time [s], parameter group, source, data. Frames of eleven bits are no business of ours."""
    with can.LogReader(str(path)) as log:
        for m in log:
            if m.is_extended_id and not m.is_error_frame and not m.is_remote_frame:
                pgn, source = group_of(m.arbitration_id)
                yield float(m.timestamp), pgn, source, bytes(m.data)


def open_bus(interface: str, channel: str) -> can.BusABC:
    """A bus of any interface that the library knows, by configuration alone."""
    return can.Bus(interface=interface, channel=channel or None)


def send(bus: can.BusABC, pgn: int, data: bytes, source: int = 0) -> None:
    """Send a frame."""
    bus.send(message(pgn, data, 0.0, source))


def read_bus(interface: str, channel: str, seconds: float) -> Iterator[tuple[float, int, int, bytes]]:
    """Frames of a bus as they come; where nothing comes for half a second, a group of -1: time has gone by."""
    with open_bus(interface, channel) as bus:
        began = time.monotonic()
        while not seconds or time.monotonic() - began < seconds:
            m = bus.recv(0.5)
            now = time.monotonic()
            if m is None:
                yield now, -1, 0, b""
            elif m.is_extended_id and not m.is_error_frame and not m.is_remote_frame:
                pgn, source = group_of(m.arbitration_id)
                yield now, pgn, source, bytes(m.data)
