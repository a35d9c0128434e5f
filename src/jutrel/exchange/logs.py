"""Frames to and from log files, in any open format of the ordinary library.

A log may be broken or made to do harm, in every format: it is read in a process of its own with little memory, so that
what is wrong with it ends that process and is told in a sentence.
"""

from __future__ import annotations

import math
import resource
import struct
import subprocess
import sys
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import NamedTuple

import can

from jutrel.core.errors import BadInput
from jutrel.core.panel.signals import EVERYBODY, frame_id, group_of

MOST_MEMORY = 512 << 20
"""What reading a log may take [bytes]."""
HEAD = struct.Struct("<dIB")
WORDS = 0xFFFFFFFF
"""In place of an identifier: the reason why it ends, in place of data."""
LONGEST_WHY = 200


class Frame(NamedTuple):
    """A frame as it was on a bus: time [s], parameter group, source, data, destination."""

    at: float
    pgn: int
    source: int
    data: bytes
    to: int = EVERYBODY


def frame_of(m: can.Message, at: float) -> Frame | None:
    """A message of the library as a frame; None: one of eleven bits, or of an error, is no business of ours."""
    if not m.is_extended_id or m.is_error_frame or m.is_remote_frame:
        return None
    pgn, source, to = group_of(m.arbitration_id)
    return Frame(at, pgn, source, bytes(m.data), to)


def message(frame: Frame) -> can.Message:
    """A frame as the library's message."""
    identifier = frame_id(frame.pgn, frame.source, to=frame.to)
    return can.Message(
        arbitration_id=identifier, data=frame.data, timestamp=frame.at, is_extended_id=True, check=True
    )  # fmt: skip


def write_log(path: Path, found: Iterable[Frame]) -> int:
    """Write frames to a log, in the open format of its ending; how many there are."""
    count = 0
    with can.Logger(str(path)) as log:
        for frame in found:
            log(message(frame))
            count += 1
    return count


def read_log(path: Path) -> Iterator[Frame]:
    """Frames of a log, in its own order.

    Raises
    ------
    BadInput
        If it cannot be read, or no further, with the number of frames before that and the reason.
    """
    if not path.is_file():
        raise BadInput("log", "there is no file {name}", name=path.name)
    command = [sys.executable, "-m", "jutrel.exchange.logs", str(path)]
    count = 0
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL) as child:
        assert child.stdout is not None
        try:
            while True:
                head = child.stdout.read(HEAD.size)
                if len(head) < HEAD.size:
                    raise _broken(count, f"reading it ended with {child.wait()}")
                at, identifier, length = HEAD.unpack(head)
                data = child.stdout.read(length)
                if identifier == WORDS:
                    if not data:
                        return
                    raise _broken(count, data.decode(errors="replace"))
                pgn, source, to = group_of(identifier)
                count += 1
                yield Frame(at, pgn, source, data, to)
        finally:
            child.kill()


def _broken(count: int, why: str) -> BadInput:
    return BadInput("log", "it is broken, or no log of this kind, after {n} frames: {why}", n=count, why=why)


def _told(path: str) -> None:
    """The other side of `read_log`: what is read goes to the standard output, and at last why it ends."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    out, why, last = sys.stdout.buffer, "", 0.0
    try:
        with can.LogReader(path) as log:
            for m in log:
                last = float(m.timestamp)
                if not math.isfinite(last):
                    raise ValueError("a time that is no number")
                frame = frame_of(m, last)
                if frame is not None:
                    out.write(HEAD.pack(last, m.arbitration_id, len(frame.data)) + frame.data)
    except MemoryError:
        why = "it would take too much memory"
    except Exception as error:  # whatever a reader of some format makes of a broken file
        why = f"{type(error).__name__} {error}"[:LONGEST_WHY]
    said = why.encode()[:255]
    out.write(HEAD.pack(last, WORDS, len(said)) + said)
    out.flush()


if __name__ == "__main__":
    _told(sys.argv[1])
