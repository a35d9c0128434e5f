"""Signals of SAE J1939 (from memory): where each stands in its frame, how it is scaled, and when it says nothing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from jutrel.core.errors import BadInput
from jutrel.core.wording import Said, say

FIRST_RESERVED = 0xFB
"""A top byte from here on is no value: reserved, 0xFE an error, 0xFF not available."""
ERROR_BYTE, NOTHING_BYTE = 0xFE, 0xFF
WHOLE = 8
"""Bytes of a whole frame."""
EVERYBODY = 255
"""The destination of what is sent to all."""


class Lack(StrEnum):
    """Why a signal has no value. Lost: nothing came for too long."""

    NOT_AVAILABLE = "not-available"
    ERROR = "error"
    LOST = "lost"


Value = float | Lack


@dataclass(frozen=True, slots=True)
class Signal:
    """A signal: its number, its parameter group, its bytes [from 1], its scale and offset, its unit.

    `every_s`: how often it is sent [s]; `low`, `high`: what the dial shows.
    """

    key: str
    spn: int
    name: Said
    pgn: int
    byte: int
    length: int
    scale: float
    offset: float
    unit: str
    every_s: float
    low: float
    high: float

    @property
    def top(self) -> float:
        """The largest value that it can carry."""
        return (((FIRST_RESERVED - 1) << 8 * (self.length - 1)) | ((1 << 8 * (self.length - 1)) - 1)) * self.scale + (
            self.offset
        )


SIGNALS: tuple[Signal, ...] = (
    Signal("engine-speed", 190, say("Engine speed"), 61444, 4, 2, 0.125, 0, "rpm", 0.1, 0, 2500),
    Signal("load", 92, say("Load"), 61443, 3, 1, 1, 0, "%", 0.1, 0, 100),
    Signal("coolant", 110, say("Coolant"), 65262, 1, 1, 1, -40, "°C", 1, 0, 120),
    Signal("oil-temperature", 175, say("Engine oil, temperature"), 65262, 3, 2, 0.03125, -273, "°C", 1, 0, 140),
    Signal("fuel-pressure", 94, say("Fuel pressure"), 65263, 1, 1, 4, 0, "kPa", 0.5, 0, 800),
    Signal("oil-level", 98, say("Engine oil, level"), 65263, 3, 1, 0.4, 0, "%", 0.5, 0, 100),
    Signal("oil-pressure", 100, say("Engine oil, pressure"), 65263, 4, 1, 4, 0, "kPa", 0.5, 0, 700),
    Signal("coolant-level", 111, say("Coolant, level"), 65263, 8, 1, 0.4, 0, "%", 0.5, 0, 100),
    Signal("volts", 168, say("Battery"), 65271, 5, 2, 0.05, 0, "V", 1, 16, 32),
    Signal("hours", 247, say("Engine hours"), 65253, 1, 4, 0.05, 0, "h", 1, 0, 50000),
    Signal("fuel-level", 96, say("Fuel"), 65276, 2, 1, 0.4, 0, "%", 1, 0, 100),
    Signal("fuel-rate", 183, say("Fuel, rate"), 65266, 1, 2, 0.05, 0, "L/h", 0.5, 0, 120),
    Signal("exhaust-fluid", 1761, say("DEF"), 65110, 1, 1, 0.4, 0, "%", 1, 0, 100),
    Signal("air-restriction", 107, say("Air filter"), 65270, 5, 1, 0.05, 0, "kPa", 0.5, 0, 12),
    Signal("boost", 102, say("Boost"), 65270, 2, 1, 2, 0, "kPa", 0.5, 0, 300),
    Signal("ambient", 171, say("Air outside"), 65269, 4, 2, 0.03125, -273, "°C", 1, -40, 50),
    Signal("barometer", 108, say("Pressure of the air"), 65269, 1, 1, 0.5, 0, "kPa", 1, 50, 110),
    Signal("hydraulic-oil", 1638, say("Hydraulic oil"), 65128, 1, 1, 1, -40, "°C", 1, 0, 110),
    Signal("transmission-oil", 177, say("Transmission oil"), 65272, 5, 2, 0.03125, -273, "°C", 1, 0, 140),
)
BY_KEY: Mapping[str, Signal] = {s.key: s for s in SIGNALS}
BY_PGN: Mapping[int, tuple[Signal, ...]] = {
    pgn: tuple(s for s in SIGNALS if s.pgn == pgn) for pgn in sorted({s.pgn for s in SIGNALS})
}


def decoded(signal: Signal, data: bytes) -> Value:
    """A signal's value in a frame's data; a frame too short says nothing of it.

    >>> decoded(BY_KEY["engine-speed"], bytes([255, 255, 255, 0x40, 0x1F, 255, 255, 255]))
    1000.0
    >>> decoded(BY_KEY["coolant"], bytes([0xFE] * 8)).value, decoded(BY_KEY["coolant"], bytes([0xFF] * 8)).value
    ('error', 'not-available')
    """
    end = signal.byte - 1 + signal.length
    if len(data) < end:
        return Lack.NOT_AVAILABLE
    top = data[end - 1]
    if top >= FIRST_RESERVED:
        return Lack.ERROR if top == ERROR_BYTE else Lack.NOT_AVAILABLE
    raw = top if signal.length == 1 else int.from_bytes(data[signal.byte - 1 : end], "little")
    return float(raw * signal.scale + signal.offset)


_PLACES = {
    pgn: tuple((s.key, s.byte - 1, s.byte - 2 + s.length, float(s.scale), float(s.offset), s) for s in found)
    for pgn, found in BY_PGN.items()
}


def decode_into(pgn: int, data: bytes, values: dict[str, Value]) -> bool:
    """Every signal that a parameter group carries, written over what is there; false if it carries none of ours.

    The same as `decoded` one by one; this is done for each frame of each machine.
    """
    places = _PLACES.get(pgn)
    if places is None:
        return False
    whole = len(data) == WHOLE
    for key, first, last, scale, offset, signal in places:
        if whole and (top := data[last]) < FIRST_RESERVED:
            if first == last:
                values[key] = top * scale + offset
            elif last - first == 1:
                values[key] = (data[first] + top * 256) * scale + offset
            else:
                values[key] = int.from_bytes(data[first : last + 1], "little") * scale + offset
        else:
            values[key] = decoded(signal, data)
    return True


def decode(pgn: int, data: bytes) -> dict[str, Value]:
    """Every signal that a parameter group carries, by key."""
    values: dict[str, Value] = {}
    decode_into(pgn, data, values)
    return values


def encode(pgn: int, values: Mapping[str, Value]) -> bytes:
    """A frame's data with these signals; what is not named is not available.

    Raises
    ------
    BadInput
        For a value that the signal cannot carry, naming it.
    """
    data = bytearray([NOTHING_BYTE] * 8)
    for s in BY_PGN[pgn]:
        value = values.get(s.key, Lack.NOT_AVAILABLE)
        at = slice(s.byte - 1, s.byte - 1 + s.length)
        if isinstance(value, Lack):
            last = ERROR_BYTE if value is Lack.ERROR else NOTHING_BYTE
            data[at] = bytes([NOTHING_BYTE] * (s.length - 1) + [last])
            continue
        if not s.offset <= value <= s.top:
            between = "lies between {low} and {high} {unit}"
            raise BadInput(s.key, between, low=s.offset, high=s.top, unit=s.unit)
        data[at] = round((value - s.offset) / s.scale).to_bytes(s.length, "little")
    return bytes(data)


def frame_id(pgn: int, source: int = 0, priority: int = 6, to: int = EVERYBODY) -> int:
    """The 29-bit identifier of a parameter group: priority, group, source; addressed ones carry where they go.

    >>> hex(frame_id(65262)), hex(frame_id(60416))
    ('0x18feee00', '0x18ecff00')
    """
    addressed = (pgn >> 8) & 0xFF < 240
    return priority << 26 | (pgn | (to if addressed else 0)) << 8 | source


def group_of(identifier: int) -> tuple[int, int, int]:
    """Parameter group, source and destination of a 29-bit identifier; 255 is everybody.

    >>> group_of(0x18FEEE00), group_of(0x18ECFF21), group_of(0x18EC0321)
    ((65262, 0, 255), (60416, 33, 255), (60416, 33, 3))
    """
    pgn = (identifier >> 8) & 0x3FFFF
    if (pgn >> 8) & 0xFF < 240:
        return pgn & 0x3FF00, identifier & 0xFF, pgn & 0xFF
    return pgn, identifier & 0xFF, EVERYBODY


def dbc(signals: Sequence[Signal] = SIGNALS) -> str:
    """The signals as a CAN database in its open text format, for other people's tools."""
    out = ['VERSION "jutrel"', "", "NS_ :", "", "BS_:", "", "BU_: Engine", ""]
    for pgn in sorted({s.pgn for s in signals}):
        out.append(f"BO_ {frame_id(pgn, 254) | 1 << 31} PGN{pgn}: 8 Engine")
        for s in (x for x in signals if x.pgn == pgn):
            name = s.key.replace("-", "_")
            start, bits = 8 * (s.byte - 1), 8 * s.length
            where, scale = f"{start}|{bits}@1+", f"({s.scale:g},{s.offset:g})"
            out.append(f' SG_ {name} : {where} {scale} [{s.offset:g}|{s.top:.10g}] "{s.unit}" Vector__XXX')
        out.append("")
    return "\n".join(out) + "\n"
