"""When a machine will have run so many hours: a date with its range, from how its meter went so far."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import combinations
from statistics import median, quantiles

LEAST_DAYS = 0.25
"""Two readings closer together [days] say nothing of a day's hours."""
MOST_READINGS = 40
FEWEST = 3
WIDEST = timedelta(days=14)
"""A range wider than this helps nobody to plan; common practice."""


@dataclass(frozen=True, slots=True)
class When:
    """A date, and between which dates it most likely falls."""

    likely: datetime
    earliest: datetime
    latest: datetime


def daily(readings: Sequence[tuple[datetime, float]]) -> tuple[float, float, float] | None:
    """Hours a day: the middle, and a low and a high that most days keep; None if too little is known.

    Parameters
    ----------
    readings
        Time and the machine's hours [h] then, in any order; the newest forty count.

    Notes
    -----
    The median of the slopes between all pairs (Theil 1950, Sen 1968), which one wrong reading hardly moves;
    low and high are the slopes' first and last deciles.

    >>> start = datetime(2026, 5, 4, 6)
    >>> daily([(start + timedelta(days=d), 8.0 * d) for d in range(5)])
    (8.0, 8.0, 8.0)
    """
    newest = sorted(readings)[-MOST_READINGS:]
    slopes = []
    for (t0, h0), (t1, h1) in combinations(newest, 2):
        days = (t1 - t0) / timedelta(days=1)
        if days >= LEAST_DAYS and h1 >= h0:
            slopes.append((h1 - h0) / days)
    if len(slopes) < FEWEST:
        return None
    deciles = quantiles(slopes, n=10, method="inclusive")
    return median(slopes), deciles[0], deciles[-1]


def when_at(hours: float, readings: Sequence[tuple[datetime, float]], now: datetime) -> When | None:
    """When a machine will stand at so many hours [h]; None if it hardly runs, or too little is known of it to say so
    within two weeks.

    >>> start = datetime(2026, 5, 4, 6)
    >>> run = [(start + timedelta(days=d), 8.0 * d) for d in range(5)]
    >>> when_at(48.0, run, start + timedelta(days=4)).likely.isoformat()
    '2026-05-10T06:00:00'
    """
    rate = daily(readings)
    if rate is None or rate[0] <= 0:
        return None
    last_at, last = max(readings)
    left = max(0.0, hours - last)
    likely, low, high = rate

    def after(per_day: float) -> datetime:
        days = min(left / per_day, 3650.0) if per_day > 0 else 3650.0
        return max(now, last_at + timedelta(days=days))

    found = When(after(likely), after(high), after(low))
    return found if found.latest - found.earliest <= WIDEST else None
