"""How long a run waits: warm-up from the air and how long it stood, cool-down from the last ten minutes' work."""

from __future__ import annotations

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
TURBO_C = {"light": 320.0, "usual": 430.0, "heavy": 560.0}
"""Turbine housing after ten minutes of such work [°C]; from memory, to be replaced by the engine's own figure."""
LEAST_MIN, MOST_MIN, UNKNOWN_MIN = 3.0, 10.0, 5.0
"""The clip of the cool-down, and what is waited when nobody says how hard it worked; common practice."""
SAYS_WORK = "place"
"""The step whose word says how hard the last ten minutes were."""


def stopped_before(entries: Iterable[Entry], at: datetime) -> datetime | None:
    """When the engine was stopped last before a time, by all runs of the machine."""
    times = [e.time for e in entries if isinstance(e.what, Engine) and e.what.state is EngineNow.STOPPED]
    return max((t for t in times if t <= at), default=None)


def warm_up_for(air_c: float, stopped: datetime | None, started: datetime) -> Reading:
    """The warm-up of a start: from the air [°C] and the time since the engine stood; half a day where nobody knows."""
    soak = SOAK_UNKNOWN_H if stopped is None else max(0.0, (started - stopped).total_seconds() / 3600)
    return warm_up(air_c, min(soak, 10_000.0))


def cool_down_for(entries: Iterable[Entry], always: float | None = None) -> Reading | None:
    """The cool-down after what was said of the last ten minutes; None where nothing was said.

    `always` [min]: what the site waits whatever the work was.
    """
    if always is not None:
        why = say("This site always waits so long.")
        return Reading(
            always, "min", Judgement(Band.IN_BAND, say("Low idle until it is over."), why, ()), always, always
        )
    said = [e.what.word for e in entries if isinstance(e.what, Stepped) and e.what.step == SAYS_WORK]
    work = next((w for w in reversed(said) if w in TURBO_C), None)
    return None if work is None else cool_down(TURBO_C[work], least=LEAST_MIN, most=MOST_MIN)


def waits_of(warm: Reading, cool: Reading | None) -> dict[Wait, float]:
    """The computed waits [s]."""
    minutes = UNKNOWN_MIN if cool is None or cool.value is None else cool.value
    return {Wait.WARM_UP: 60 * (warm.value or UNKNOWN_MIN), Wait.COOL_DOWN: 60 * minutes}
