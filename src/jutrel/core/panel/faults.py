"""Active faults (DM1): lamps and trouble codes, in one frame or in several, put together again (from memory)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from jutrel.core.errors import BadInput
from jutrel.core.panel.signals import SIGNALS
from jutrel.core.wording import Said, as_written, say

DM1 = 65226
ANNOUNCE, PIECE = 60416, 60160
"""Transport protocol: connection management and data."""
BROADCAST = 32
PIECE_BYTES, MOST_BYTES = 7, 1785
PIECES_WITHIN_S = 0.75
LAMPS = ("protect", "amber", "red", "malfunction")

MODES: dict[int, Said] = {
    0: say("above normal, severe"),
    1: say("below normal, severe"),
    2: say("erratic or wrong"),
    3: say("voltage above normal"),
    4: say("voltage below normal"),
    5: say("current below normal, or circuit open"),
    6: say("current above normal, or grounded"),
    7: say("does not move as told"),
    8: say("frequency wrong"),
    9: say("comes too seldom"),
    10: say("changes too fast"),
    11: say("cause not known"),
    12: say("the device is broken"),
    13: say("out of calibration"),
    14: say("special instructions"),
    15: say("above normal, least severe"),
    16: say("above normal, moderate"),
    17: say("below normal, least severe"),
    18: say("below normal, moderate"),
    19: say("received in error"),
    31: say("condition exists"),
}
"""Failure mode identifiers in plain words; from memory."""


@dataclass(frozen=True, slots=True)
class Code:
    """A trouble code: which parameter, how it failed, how often it came."""

    spn: int
    mode: int
    count: int = 1


@dataclass(frozen=True, slots=True)
class Faults:
    """What DM1 says: the lamps that are lit, and the codes."""

    lamps: frozenset[str] = frozenset()
    codes: tuple[Code, ...] = ()


def fault_said(code: Code) -> Said:
    """A trouble code in plain words, with its numbers.

    >>> str(fault_said(Code(100, 1)))
    'Engine oil, pressure: below normal, severe (100/1)'
    """
    name = next((s.name for s in SIGNALS if s.spn == code.spn), say("Parameter {n}", n=as_written(str(code.spn))))
    mode = MODES.get(code.mode, say("cause not known"))
    numbers = as_written(f"{code.spn}/{code.mode}")
    return say("{name}: {mode} ({numbers})", name=name, mode=mode, numbers=numbers)


def read_faults(data: bytes) -> Faults:
    """What a DM1's data says.

    >>> read_faults(bytes([0x10, 0, 100, 0, 1, 3, 255, 255])).codes
    (Code(spn=100, mode=1, count=3),)

    Raises
    ------
    BadInput
        If it is too short to be one.
    """
    if len(data) < 2:
        raise BadInput("data", "a fault message has lamps and codes; this one has {n} bytes", n=len(data))
    lamps = frozenset(name for i, name in enumerate(LAMPS) if data[0] >> 2 * i & 3 == 1)
    codes = []
    for at in range(2, len(data) - 3, 4):
        a, b, c, d = data[at : at + 4]
        spn, mode, count = a | b << 8 | c >> 5 << 16, c & 0x1F, d & 0x7F
        if (a, b, c, d) == (255, 255, 255, 255) or (spn == 0 and mode == 0):
            continue
        codes.append(Code(spn, mode, count))
    return Faults(lamps, tuple(codes))


def write_faults(faults: Faults) -> bytes:
    """The data of a DM1: eight bytes for none or one, more for more."""
    lamps = sum(1 << 2 * i for i, name in enumerate(LAMPS) if name in faults.lamps)
    out = bytearray([lamps, 0xFF])
    for code in faults.codes or (Code(0, 0, 0),):
        if not (0 <= code.spn < 1 << 19 and 0 <= code.mode < 32 and 0 <= code.count < 128):
            raise BadInput("code", "a code has a parameter of 19 bits, a mode of 5 and a count of 7")
        out += bytes([code.spn & 255, code.spn >> 8 & 255, code.spn >> 16 << 5 | code.mode, code.count])
    while len(out) < 8:
        out.append(0xFF)
    return bytes(out)


def in_pieces(pgn: int, data: bytes) -> list[tuple[int, bytes]]:
    """Data longer than a frame as announced and sent in pieces: (parameter group, data of a frame) in order."""
    if len(data) > MOST_BYTES:
        raise BadInput("data", "at most {n} bytes can be sent in pieces", n=MOST_BYTES)
    pieces = [data[i : i + PIECE_BYTES] for i in range(0, len(data), PIECE_BYTES)]
    announce = bytes(
        [BROADCAST, len(data) & 255, len(data) >> 8, len(pieces), 255, pgn & 255, pgn >> 8 & 255, pgn >> 16]
    )
    padded = [bytes([n]) + p + bytes([255] * (PIECE_BYTES - len(p))) for n, p in enumerate(pieces, 1)]
    return [(ANNOUNCE, announce), *((PIECE, p) for p in padded)]


@dataclass
class Collector:
    """Puts messages in pieces together again, each source by itself; what misses a piece or comes late is dropped."""

    _open: dict[int, tuple[int, int, int, bytearray, int, float]] = field(default_factory=dict)

    def take(self, pgn: int, source: int, data: bytes, at: float) -> tuple[int, bytes] | None:
        """Take a frame at a time [s]; the parameter group and data of what it completes, if it does."""
        if pgn == ANNOUNCE and len(data) == 8 and data[0] == BROADCAST:
            size, pieces, of = data[1] | data[2] << 8, data[3], data[5] | data[6] << 8 | data[7] << 16
            if 8 < size <= MOST_BYTES and pieces == -(-size // PIECE_BYTES):
                self._open[source] = (of, size, pieces, bytearray(), 0, at)
            return None
        if pgn != PIECE or source not in self._open or len(data) != 8:
            return None
        of, size, pieces, have, last, when = self._open[source]
        if data[0] != last + 1 or at - when > PIECES_WITHIN_S:
            del self._open[source]
            return None
        have += data[1:]
        if data[0] == pieces:
            del self._open[source]
            return of, bytes(have[:size])
        self._open[source] = (of, size, pieces, have, data[0], at)
        return None


def frames_of(faults: Faults) -> Sequence[tuple[int, bytes]]:
    """A DM1 as the frames that carry it."""
    return sent_as(DM1, write_faults(faults))


def sent_as(pgn: int, data: bytes) -> Sequence[tuple[int, bytes]]:
    """A group's data as the frames that carry it: one, or announced and in pieces."""
    return [(pgn, data.ljust(8, b"\xff"))] if len(data) <= 8 else in_pieces(pgn, data)
