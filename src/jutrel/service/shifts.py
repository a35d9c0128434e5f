"""The site's shifts as the core wants them: in UTC, about a time, over midnight and both changes of summer time."""

from __future__ import annotations

from datetime import UTC, date, datetime, time, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

from jutrel.core.clearance.timetable import Shift, Timetable
from jutrel.core.errors import BadInput
from jutrel.core.machine.unit import SiteInfo
from jutrel.core.people import Role
from jutrel.service.context import Here
from jutrel.service.people import Actor, allow
from jutrel.store.queries import machines as machine_store

AROUND = 3
"""Days before and after that a table holds."""
MOST_SHIFTS, SHORTEST_H, LONGEST_H = 6, 1.0, 14.0


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


def check_shifts(shifts: tuple[tuple[str, float], ...]) -> None:
    """That shifts can be so; BadInput naming the field if not."""
    if not 1 <= len(shifts) <= MOST_SHIFTS:
        raise BadInput("shifts", "give one to {n} shifts", n=MOST_SHIFTS)
    for begins, hours in shifts:
        try:
            at = time.fromisoformat(begins)
        except ValueError:
            raise BadInput("begins", "write it as 06:00") from None
        if at.isoformat("minutes") != begins:
            raise BadInput("begins", "write it as 06:00")
        if not SHORTEST_H <= hours <= LONGEST_H:
            raise BadInput("hours", "a shift lasts {low} to {high} hours", low=SHORTEST_H, high=LONGEST_H)
    if len({begins for begins, _ in shifts}) < len(shifts):
        raise BadInput("begins", "two shifts begin at the same time")


async def choose_shifts(here: Here, actor: Actor, shifts: tuple[tuple[str, float], ...]) -> None:
    """Write down when the shifts of this site begin and how long they last.

    Raises
    ------
    NotAllowed
        For anyone but a supervisor or an administrator.
    BadInput
        For a shift that cannot be so.
    """
    allow(actor, Role.SUPERVISOR, Role.ADMINISTRATOR)
    check_shifts(shifts)
    await machine_store.set_shifts(here.db, here.site.id, sorted(shifts))
