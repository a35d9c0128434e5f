"""The hour meter's time line: hours [h] over all meters a machine has had, at any time.

A reading belongs to the meter that was fitted at its time, however late it arrives. A wrong reading is
struck out, or given its right figure, by another entry.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime

from jutrel.core.inspection.kinds import Opened
from jutrel.core.log.entry import Entry
from jutrel.core.machine.file import Filed, MeterCorrected, MeterReplaced


@dataclass(frozen=True, slots=True)
class MeterReading:
    """A reading of the meter: the entry it stands in, when, by whom, the figure [h], hours over all meters [h]."""

    entry: str
    at: datetime
    by: str
    shown: float
    total: float
    seq: int = 0
    """Where it stands in the machine's log."""


@dataclass(frozen=True, slots=True)
class Meter:
    """The time line. `fitted`: from when which meter counts, and the hours of those before it [h]."""

    fitted: tuple[tuple[datetime, float], ...] = ()
    corrected: Mapping[str, float | None] | None = None
    readings: tuple[MeterReading, ...] = ()

    def offset_at(self, at: datetime) -> float:
        """What earlier meters had run up [h] at a time."""
        return max((offset for since, offset in self.fitted if since <= at), default=0.0)

    def total(self, shown: float, at: datetime) -> float:
        """Hours over all meters [h] for a figure that was read at a time."""
        return round(shown + self.offset_at(at), 4)

    def hours_of(self, entry: Entry) -> float | None:
        """Hours over all meters [h] that a look's opening stands for; None if its reading was struck out."""
        if not isinstance(entry.what, Opened):
            return None
        shown = (self.corrected or {}).get(entry.id, entry.what.hour_meter)
        return None if shown is None else self.total(shown, entry.time)

    def hours_at(self, at: datetime) -> float:
        """Hours over all meters [h] at a time: the furthest that was read until then."""
        return max((r.total for r in self.readings if r.at <= at), default=0.0)

    @property
    def hours(self) -> float:
        """Hours over all meters [h], as last known."""
        return max((r.total for r in self.readings), default=0.0)

    @property
    def furthest_seq(self) -> int:
        """Which entry of the log read these hours first."""
        return min((r.seq for r in self.readings if r.total == self.hours), default=0)

    @property
    def offset(self) -> float:
        """What earlier meters had run up before the one that is fitted now [h]."""
        return max((offset for _, offset in self.fitted), default=0.0)


@dataclass(frozen=True, slots=True)
class Lowered:
    """A correction that made a machine younger: who, when, hours over all meters before and after it [h], why."""

    by: str
    at: datetime
    before: float
    after: float
    reason: str


def lowered(entries: Iterable[Entry]) -> tuple[Lowered, ...]:
    """The corrections that made a machine younger than it was taken for, oldest first."""
    in_order = sorted({e.id: e for e in entries}.values(), key=lambda e: e.seq)
    out = []
    for n, e in enumerate(in_order):
        if isinstance(e.what, MeterCorrected):
            before, after = meter_of(in_order[:n]).hours, meter_of(in_order[: n + 1]).hours
            if after < before:
                out.append(Lowered(e.by, e.time, before, after, e.what.why))
    return tuple(out)


def meter_of(entries: Iterable[Entry]) -> Meter:
    """The time line that a machine's entries describe; only openings and its file matter."""
    once = sorted({e.id: e for e in entries}.values(), key=lambda e: (e.time, e.seq, e.id))
    corrected: dict[str, float | None] = {}
    for entry in sorted(once, key=lambda e: e.seq):
        if isinstance(entry.what, MeterCorrected):
            corrected[entry.what.reading] = entry.what.hours
    fitted: list[tuple[datetime, float]] = []
    offset = 0.0
    for entry in once:
        if isinstance(entry.what, MeterReplaced):
            offset = round(offset + entry.what.last - entry.what.first, 4)
            fitted.append((entry.time, offset))
    line = Meter(tuple(fitted), corrected)
    readings = []
    for entry in once:
        total: float | None = None
        shown: float | None = None
        match entry.what:
            case Opened(hour_meter=read):
                shown, total = corrected.get(entry.id, read), line.hours_of(entry)
            case Filed(hours=read) if read is not None:
                shown = corrected.get(entry.id, read)
                total = None if shown is None else line.total(shown, entry.time)
            case MeterReplaced(last=last):
                shown, total = last, round(line.offset_at(entry.time) + entry.what.first, 4)
        if shown is not None and total is not None:
            readings.append(MeterReading(entry.id, entry.time, entry.by, shown, total, entry.seq))
    return Meter(tuple(fitted), corrected, tuple(readings))
