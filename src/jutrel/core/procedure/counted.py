"""What a run used up: how long the engine ran, how often it was started, and fuel where somebody or the bus says."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from jutrel.core.log.entry import Entry
from jutrel.core.procedure.engine import EngineLine
from jutrel.core.procedure.kinds import EngineNow, Filled, Stepped
from jutrel.core.wording import NOTHING, Number, Said, say

FUEL = "fuel"
LEVEL_GIVE = 1.0
"""How far a told fuel level may be off, by slosh, slope and the float [% of the tank]; common practice."""
METER = frozenset({"meter"})
DIFFERS_H, DIFFERS_SHARE = 0.5, 0.1
"""How far the meter and the clock may differ before somebody is told [h, of the time]; common practice."""


@dataclass(frozen=True, slots=True)
class Counted:
    """What a run used up.

    Parameters
    ----------
    ran_h, starts
        How long the engine ran [h], and how often it was started.
    meter_h
        What the hour meter moved by [h]; None: it was not read at the end.
    filled
        Fuel that was filled [L].
    used, give
        Fuel that was used [L], give or take; None: nobody knows the level at both ends.
    """

    ran_h: float
    starts: int
    meter_h: float | None
    filled: float
    used: float | None
    give: float | None

    @property
    def doubt(self) -> Said:
        """That meter and clock do not fit; empty where they do."""
        if self.meter_h is None or abs(self.meter_h - self.ran_h) <= max(DIFFERS_H, DIFFERS_SHARE * self.ran_h):
            return NOTHING
        meter, ran = Number(self.meter_h, 1, "h"), Number(self.ran_h, 1, "h")
        return say("The meter moved {meter}, the engine ran {ran}: have the meter looked at.", meter=meter, ran=ran)

    @property
    def says(self) -> tuple[Said, ...]:
        """In sentences."""
        if not self.starts:
            return ()
        out = [say("The engine ran {ran}, started {n} times.", ran=Number(self.ran_h, 1, "h"), n=self.starts)]
        if self.starts == 1:
            out = [say("The engine ran {ran}, started once.", ran=Number(self.ran_h, 1, "h"))]
        if self.used is not None and self.give is not None and self.used > 0:
            give, used = Number(self.give, 0, "L"), Number(self.used, 0, "L")
            out.append(say("{used} of fuel used, give or take {give}.", used=used, give=give))
            if self.ran_h >= 1 and self.give < self.used / 4:
                out.append(say("That is {rate} for an hour.", rate=Number(self.used / self.ran_h, 1, "L")))
        return (*out, self.doubt) if self.doubt else tuple(out)


def ran_s(line: EngineLine, since: datetime, until: datetime) -> tuple[float, int]:
    """For how long the engine ran between two times [s], and how often it began to.

    It counts as running as long as a person or the machine says so, as everywhere else.
    """
    times = sorted({since, until, *(t for t in line.turned(until) if since < t)})
    seconds, starts, before = 0.0, 0, False
    for a, b in zip(times, [*times[1:], until], strict=True):
        runs = line.at(a)[0] is EngineNow.RUNNING
        seconds += (b - a).total_seconds() if runs else 0.0
        starts += runs and not before
        before = runs
    return seconds, starts


def counted(
    entries: Iterable[Entry],
    line: EngineLine,
    since: datetime,
    now: datetime,
    meter: float | None = None,
    levels: tuple[float, float] | None = None,
    tank: float | None = None,
    reads: frozenset[str] = METER,
) -> Counted:
    """What a run used up until now.

    `meter`: as it was read at the beginning [h]; `levels`: how full the tank was then and is now [%]; `tank` [L];
    `reads`: the steps whose figure is the meter's.

    >>> from datetime import timedelta
    >>> t = datetime(2026, 5, 4, 6)
    >>> c = counted([], EngineLine([]), t, t + timedelta(hours=1), None, (80.0, 70.0), 400.0)
    >>> c.used, round(c.give, 1), c.says
    (40.0, 5.7, ())
    """
    entries = list(entries)
    seconds, starts = ran_s(line, since, now)
    filled = sum(e.what.litres for e in entries if isinstance(e.what, Filled) and e.what.fluid == FUEL)
    read = [e.what.value for e in entries if isinstance(e.what, Stepped) and e.what.step in reads]
    last = next((v for v in reversed(read) if v is not None), None)
    moved = last - meter if last is not None and meter is not None else None
    used = give = None
    if levels is not None and tank is not None:
        used = max(0.0, (levels[0] - levels[1]) / 100 * tank + filled)
        give = math.hypot(LEVEL_GIVE, LEVEL_GIVE) / 100 * tank  # two levels, added as independent
    return Counted(seconds / 3600, starts, moved, filled, used, give)
