"""How long a run waits: warm-up from the air and how long it stood, cool-down from the last ten minutes' work."""

from __future__ import annotations

import math
from collections.abc import Iterable
from datetime import datetime

from jutrel.core.log.entry import Entry
from jutrel.core.procedure.kinds import Engine, EngineNow, Stepped
from jutrel.core.procedure.step import Wait
from jutrel.core.reading.judgement import Band, Judgement
from jutrel.core.reading.registry import Reading
from jutrel.core.reading.thermal import cool_down, warm_up
from jutrel.core.wording import say

SOAK_UNKNOWN_H = 12.0
IDLE_RISE_K, IDLE_TAU_MIN, WARM_C = 75.0, 18.0, 80.0
"""How an engine warms at idle: over the air in the end [K], time constant [min], and when it counts as warm [°C]."""
TURBO_C = {"light": 320.0, "usual": 480.0, "heavy": 600.0}
"""Turbine housing after ten minutes of such work [°C]; from memory, to be replaced by the engine's own figure."""
LEAST_MIN, MOST_MIN, UNKNOWN_MIN = 3.0, 10.0, 5.0
"""The clip of the cool-down, and what is waited where nothing is known; common practice."""
TAU_MIN = 2.7
"""Time constant of a turbine housing at idle [min]; with it heavy work waits five minutes (common practice)."""
UNSAID = "heavy"
"""What nobody says of the last ten minutes counts as this."""
SAYS_WORK = frozenset({"place"})
"""The step whose word says how hard the last ten minutes were."""


def stopped_before(entries: Iterable[Entry], at: datetime) -> datetime | None:
    """When the engine was stopped last before a time, by all runs of the machine."""
    times = [e.time for e in entries if isinstance(e.what, Engine) and e.what.state is EngineNow.STOPPED]
    return max((t for t in times if t <= at), default=None)


def started_at(entries: Iterable[Entry], now: datetime) -> datetime:
    """When the engine was started that runs now, by the words of a run; now, where it stands and is started next."""
    began = None
    for e in sorted((e for e in entries if isinstance(e.what, Engine)), key=lambda e: e.time):
        state = e.what.state if isinstance(e.what, Engine) else None
        began = None if state is EngineNow.STOPPED else began or (e.time if state is EngineNow.RUNNING else None)
    return began or now


def ran_before(entries: Iterable[Entry], at: datetime) -> float:
    """For how long the engine had run before it was stopped last [min], by all runs of the machine; 0: nobody knows."""
    said = sorted(
        {e.id: e for e in entries if isinstance(e.what, Engine) and e.time <= at}.values(), key=lambda e: e.time
    )
    ran, began = 0.0, None
    for e in said:
        state = e.what.state if isinstance(e.what, Engine) else None
        if state is EngineNow.RUNNING:
            began = began or e.time
        elif state is EngineNow.STOPPED and began is not None:
            ran, began = (e.time - began).total_seconds() / 60, None
    return ran


def warm_up_for(air_c: float, stopped: datetime | None, started: datetime, ran_min: float = 0.0) -> Reading:
    """The warm-up of a start: from the air [°C], the time since the engine stood, and how long it had run before.

    Half a day where nobody knows; an engine that ran for minutes only was not warm when it was stopped.

    >>> t = datetime(2026, 5, 4, 9)
    >>> [round(warm_up_for(10, t, t.replace(minute=6), ran).value, 1) for ran in (180.0, 2.0)]
    [0.0, 7.3]
    """
    soak = SOAK_UNKNOWN_H if stopped is None else max(0.0, (started - stopped).total_seconds() / 3600)
    reached = air_c + IDLE_RISE_K * (1 - math.exp(-ran_min / IDLE_TAU_MIN))
    return warm_up(air_c, min(soak, 10_000.0), min(WARM_C, reached))


def cool_down_for(entries: Iterable[Entry], always: float | None = None, asks: frozenset[str] = SAYS_WORK) -> Reading:
    """The cool-down after what was said of the last ten minutes.

    `always` [min]: what the site waits at least. `asks`: the steps whose word says it. What nobody
    says counts as heavy work.

    >>> from jutrel.core.procedure.times import cool_down_for
    >>> [round(cool_down_for([], m).value, 1) for m in (None, 3.0, 10.0)]
    [5.0, 5.0, 10.0]
    """
    said = [e.what.word for e in entries if isinstance(e.what, Stepped) and e.what.step in asks]
    work = next((w for w in reversed(said) if w in TURBO_C), UNSAID)
    found = cool_down(TURBO_C[work], tau=TAU_MIN, least=LEAST_MIN, most=MOST_MIN)
    if always is None or (found.value or 0.0) >= always:
        return found
    why = say("This site waits so long at least.")
    return Reading(always, "min", Judgement(Band.IN_BAND, say("Low idle until it is over."), why, ()), always, always)


def waits_of(warm: Reading, cool: Reading | None) -> dict[Wait, float]:
    """The computed waits [s]."""
    minutes = UNKNOWN_MIN if cool is None or cool.value is None else cool.value
    warming = UNKNOWN_MIN if warm.value is None else warm.value
    return {Wait.WARM_UP: 60 * warming, Wait.COOL_DOWN: 60 * minutes}
