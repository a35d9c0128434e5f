"""A unit's readings of one thing over time, and whether today's is unusual for it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from jutrel.core.errors import BadInput
from jutrel.core.inspection.kinds import Read, Undone
from jutrel.core.log.entry import Entry
from jutrel.core.machine.meter import Meter
from jutrel.core.machine.model import Model
from jutrel.core.reading.all import READINGS
from jutrel.core.reading.bound import read_at
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.level import median
from jutrel.core.reading.registry import Reading
from jutrel.core.reading.slope import trend

DAY_S, YEAR_DAYS = 86_400, 366
LEAST = 5
"""Earlier values without which nothing is called unusual."""
NEW_SHARE = 1 / 3
LEAST_SPREAD_K, FARTHEST_K = 8.0, 12.0
"""How far apart earlier temperatures have to be to say what the weather does; how far beyond them it is believed."""


@dataclass(frozen=True, slots=True)
class Point:
    """A reading in a series: when, at which hours of the machine [h], and the figure that joins the series."""

    at: datetime
    hours: float | None
    value: float
    band: Band
    entry: str
    by: str
    given: tuple[tuple[str, float], ...]


@dataclass(frozen=True, slots=True)
class Series:
    """A unit's readings of one thing, oldest first."""

    checkpoint: str
    reading: str
    unit: str
    points: tuple[Point, ...]
    limit: float | None = None
    """Where it is at its limit, in the same unit; None if there is none."""
    weather: tuple[float | None, ...] = ()
    """The temperature [°C] that each was read at, where the figure moves with it; empty: it does not."""

    @property
    def reaches(self) -> datetime | None:
        """When it is at its limit if it goes on as it did: by the Theil-Sen line of at least three readings since it
        was changed or filled last.

        None without a limit, where it moves away from it, where that is more than a year away, or where it is there.
        """
        if self.limit is None:
            return None
        points = self.points[anew([p.value for p in self.points], self.limit) :]
        start = points[0].at
        days = [(p.at - start).total_seconds() / DAY_S for p in points]
        row = trend(days, [p.value for p in points])
        if row is None or row.slope == 0:
            return None
        day = (self.limit - row.intercept) / row.slope
        return start + timedelta(days=day) if days[-1] < day <= days[-1] + YEAR_DAYS else None

    @property
    def usual(self) -> tuple[float, float] | None:
        """What was usual before the last one, at the temperature of the last one where the figure moves with it.

        None with fewer than five, or where nobody has read it in weather like today's.
        """
        values = [p.value for p in self.points[:-1]]
        if not self.weather:
            return usual(values)
        return usual_at(self.weather[:-1], values, self.weather[-1])

    @property
    def unusual(self) -> bool:
        """Whether the last one is outside of what was usual."""
        band = self.usual
        return band is not None and not band[0] <= self.points[-1].value <= band[1]


def anew(values: Sequence[float], limit: float) -> int:
    """The place from which on it is a new one, or was filled: after the last step away from its limit by a third of
    the way to it or more (common practice). A line over both would lie about the new one.

    >>> anew([2.0, 3.1, 4.4, 2.1, 2.4, 2.3], limit=6.2)
    3
    """
    away = [abs(limit - v) for v in values]
    step = max(away) * NEW_SHARE
    return next((n for n in range(len(away) - 1, 0, -1) if step and away[n] - away[n - 1] >= step), 0)


def usual(values: Sequence[float]) -> tuple[float, float] | None:
    """The robust band of earlier values: median and three times the scaled median absolute deviation to either side.

    Never narrower than 2 % of the median, so that a row of equal figures does not make the next one unusual.

    >>> usual([10, 11, 9, 10, 30])
    (5.5522, 14.4478)
    >>> usual([10, 11]) is None
    True
    """
    if len(values) < LEAST:
        return None
    middle = median(sorted(values))
    scale = 1.4826 * median(sorted(abs(v - middle) for v in values))
    reach = 3 * max(scale, 0.02 * abs(middle), 1e-9)
    return round(middle - reach, 6), round(middle + reach, 6)


def usual_at(
    temperatures: Sequence[float | None], values: Sequence[float], now: float | None
) -> tuple[float, float] | None:
    """The band of earlier values as they would have read at today's temperature [°C], by their Theil-Sen line.

    Earlier temperatures that lie within 8 K say nothing of the weather: then the plain band counts near them. None
    more than 12 K beyond all of them, or where today's temperature was not said.

    >>> cold_and_warm = [0.0, 5.0, 10.0, 15.0, 20.0, 25.0]
    >>> usual_at(cold_and_warm, [0.30, 0.35, 0.40, 0.45, 0.50, 0.55], 2.0)
    (0.3008, 0.3392)
    >>> usual_at(cold_and_warm, [0.30, 0.35, 0.40, 0.45, 0.50, 0.55], 45.0) is None
    True
    """
    pairs = [(t, v) for t, v in zip(temperatures, values, strict=True) if t is not None]
    if now is None or len(pairs) < LEAST:
        return None
    warm = [t for t, _ in pairs]
    if not min(warm) - FARTHEST_K <= now <= max(warm) + FARTHEST_K:
        return None
    row = trend(warm, [v for _, v in pairs]) if max(warm) - min(warm) >= LEAST_SPREAD_K else None
    slope = row.slope if row else 0.0
    return usual([v + slope * (now - t) for t, v in pairs])


def figure_of(reading: Reading, trend: str) -> float | None:
    """The figure of a reading that joins its series."""
    return reading.value if trend == "value" else reading.more.get(trend)


def series_of(entries: Iterable[Entry], model: Model, meter: Meter) -> tuple[Series, ...]:
    """The series of a unit from its readings; of several in one look the last, without what was taken back."""
    every = sorted(entries, key=lambda e: (e.time, e.id))
    gone = {e.what.target for e in every if isinstance(e.what, Undone)}
    last: dict[tuple[str, str, str], Entry] = {}
    for e in every:
        if isinstance(e.what, Read) and not e.what.answers and e.id not in gone:
            last[e.what.checkpoint, e.what.reading, e.stream] = e
    out: dict[tuple[str, str], list[Point]] = {}
    units: dict[tuple[str, str], str] = {}
    limits: dict[tuple[str, str], float | None] = {}
    moved: dict[str, str] = {}
    for (checkpoint, key, _), e in last.items():
        assert isinstance(e.what, Read)
        listed = READINGS.get(key)
        if listed is None or not listed.trend:
            continue
        try:
            reading = read_at(checkpoint, key, e.what.given, model)
        except BadInput:
            continue  # what this model no longer measures stays in the log and in its records
        value = figure_of(reading, listed.trend)
        if value is None:
            continue
        units[checkpoint, key] = reading.unit if listed.trend == "value" else listed.trend_unit
        moved[key] = listed.weather
        limits[checkpoint, key] = reading.more.get("limit")
        numbers = tuple(
            (k, float(v)) for k, v in e.what.given.items() if isinstance(v, (int, float)) and not isinstance(v, bool)
        )
        point = Point(e.time, meter.hours_at(e.time), value, reading.judgement.band, e.id, e.by, numbers)
        out.setdefault((checkpoint, key), []).append(point)
    made = [
        _series(c, k, units[c, k], sorted(ps, key=lambda p: (p.at, p.entry)), limits[c, k], moved[k])
        for (c, k), ps in out.items()
    ]
    return tuple(sorted(made, key=lambda s: (s.checkpoint, s.reading)))


def _series(checkpoint: str, key: str, unit: str, points: list[Point], limit: float | None, weather: str) -> Series:
    warm = tuple(dict(p.given).get(weather) for p in points) if weather else ()
    return Series(checkpoint, key, unit, tuple(points), limit, warm)
