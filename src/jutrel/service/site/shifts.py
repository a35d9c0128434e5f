"""The site's shifts as the core wants them: in UTC, about a time, over midnight and both changes of summer time."""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

from jutrel.core.clearance.timetable import Shift, Timetable
from jutrel.core.machine.unit import SiteInfo

AROUND = 3
"""Days before and after that a table holds."""


def timetable_about(site: SiteInfo, at: datetime) -> Timetable:
    """The shifts of a site about a time."""
    day = at.astimezone(ZoneInfo(site.zone)).date()
    return _table(site.zone, site.shifts, site.shift_hours, day)


@lru_cache(maxsize=512)
def _table(zone: str, shifts: tuple[tuple[str, float], ...], usual: float, day: date) -> Timetable:
    """A shift begins by the clock on the wall and lasts its hours: a night of changing clocks is no longer, no shorter.

    >>> table = _table("CET", (("22:00", 8.0),), 8.0, date(2026, 3, 28))
    >>> [(s.begins.hour, s.ends.hour) for s in table.shifts if s.begins.day in (28, 29)]
    [(21, 5), (20, 4)]
    """
    local = ZoneInfo(zone)
    found = []
    for n in range(-AROUND, AROUND + 1):
        for begins, hours in shifts:
            wall = datetime.combine(day + timedelta(days=n), time.fromisoformat(begins), local)
            start = wall.astimezone(UTC)
            found.append(Shift(start, start + timedelta(hours=hours)))
    return Timetable(tuple(sorted(found, key=lambda s: s.begins)), timedelta(hours=usual))
