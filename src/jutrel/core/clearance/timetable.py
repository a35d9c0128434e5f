"""The shifts of a site in UTC: for which of them an inspection is, and until when it holds at the longest."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

EARLY = timedelta(hours=1)
"""So long before a shift begins people already walk round for it; common practice."""
RUNNING_H = 10.0
"""Ten hours of running is a new inspection [h]."""


@dataclass(frozen=True, slots=True)
class Shift:
    """One shift: from when to when (UTC)."""

    begins: datetime
    ends: datetime


@dataclass(frozen=True, slots=True)
class Timetable:
    """The shifts about now, in order, and the usual length of one that stands in no table.

    Parameters
    ----------
    shifts
        In order of their beginning, UTC; whoever makes it knows the site's zone and its changes of summer time.
    usual
        How long work outside all shifts lasts at the most.
    """

    shifts: tuple[Shift, ...]
    usual: timedelta = timedelta(hours=10)

    def shift_of(self, at: datetime) -> Shift | None:
        """The shift that something begun at a time is for: the next one if it begins within the hour, else the one
        under way; None outside all.

        >>> day = datetime(2026, 5, 4)
        >>> early, late = (Shift(day.replace(hour=h), day.replace(hour=h + 8)) for h in (6, 14))
        >>> table = Timetable((early, late))
        >>> [table.shift_of(day.replace(hour=h, minute=m)) is late for h, m in ((12, 50), (13, 0), (14, 5), (22, 0))]
        [False, True, True, False]
        """
        coming = [s for s in self.shifts if timedelta() < s.begins - at <= EARLY]
        if coming:
            return coming[0]
        running = [s for s in self.shifts if s.begins <= at < s.ends]
        return running[-1] if running else None

    def until(self, begun: datetime) -> datetime:
        """Until when an inspection holds that was begun then: the end of its shift.

        Outside all shifts for a usual one, and never into the next: whoever works then walks round for it.

        >>> day = datetime(2026, 5, 4)
        >>> table = Timetable((Shift(day.replace(hour=6), day.replace(hour=14)),))
        >>> [table.until(day.replace(hour=h)).hour for h in (5, 9, 16)]
        [14, 14, 2]
        """
        if (shift := self.shift_of(begun)) is not None:
            return shift.ends
        nexts = [s.begins for s in self.shifts if s.begins > begun]
        return min([begun + self.usual, *nexts[:1]])


def life_until(table: Timetable, begun: datetime, shift_hours: float) -> datetime:
    """Until when an inspection holds by the clock: its shift, or the shorter one that its opening spoke of [h]."""
    return min(table.until(begun), begun + timedelta(hours=shift_hours))


NO_TABLE = Timetable(())
"""Of a site that wrote no shifts down."""
