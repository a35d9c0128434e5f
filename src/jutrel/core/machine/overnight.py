"""What changed while a machine was parked: the last look of the evening against the first one after it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from jutrel.core.grading.facts import is_worse
from jutrel.core.inspection.finding import Answer, Finding
from jutrel.core.inspection.hear import Heard
from jutrel.core.inspection.kinds import Answered
from jutrel.core.reading.tank import HydraulicLevel
from jutrel.core.wording import Number, Said, say

LITRES = 1000.0


class Change(StrEnum):
    """How a finding of the morning stands to the evening."""

    NEW = "new"
    SAME = "same"
    WORSE = "worse"
    GONE = "gone"
    NOT_LOOKED_AT = "not-looked-at"


@dataclass(frozen=True, slots=True)
class OvernightChange:
    """Something at a checkpoint that was found in the evening, in the morning, or both."""

    checkpoint: str
    failure_mode: str
    change: Change
    evening: Finding | None
    morning: Finding | None


@dataclass(frozen=True, slots=True)
class Lost:
    """A level that was read in the evening and in the morning, both corrected to cold, level and in posture.

    `litres` [L] is what is missing since, positive; `unsure` [L] what both readings leave open; `an_hour` [L/h].
    """

    checkpoint: str
    litres: float
    unsure: float
    an_hour: float
    says: Said


@dataclass(frozen=True, slots=True)
class Overnight:
    """The window in which it stood, who left it and who found it, what changed and what was lost."""

    parked_at: datetime
    parked_by: str
    found_at: datetime
    found_by: str
    changes: tuple[OvernightChange, ...]
    lost: tuple[Lost, ...]


def findings_at(heard: Heard, checkpoint: str) -> dict[str, Finding] | None:
    """What was found at a checkpoint by failure mode; None if nobody saw it."""
    heads = [e.what for e in heard.look.heads.get(checkpoint, ()) if isinstance(e.what, Answered)]
    seen = [what for what in heads if what.answer is not Answer.UNSEEN]
    if not seen:
        return None
    return {f.failure_mode: f for what in seen for f in what.findings}


def overnight(evening: Heard, morning: Heard) -> Overnight:
    """Compare two looks at the same machine, checkpoint by checkpoint.

    Parameters
    ----------
    evening
        How it was left.
    morning
        How it was found next. What one of them did not look at is told as such: nothing is made of it.

    Notes
    -----
    It says what is otherwise, not why, and not who: between the two anything can have happened.
    """
    changes = []
    book = morning.case.edition.rulebook
    for c in morning.walk.checkpoints:
        before, after = findings_at(evening, c.id), findings_at(morning, c.id)
        if after is None:
            continue
        for mode in dict.fromkeys([*(before or {}), *after]):
            was, now = (before or {}).get(mode), after.get(mode)
            if before is None:
                change = Change.NOT_LOOKED_AT
            elif was is None:
                change = Change.NEW
            elif now is None:
                change = Change.GONE
            else:
                worse = is_worse(now, was, book)
                change = Change.WORSE if worse else Change.SAME
            changes.append(OvernightChange(c.id, mode, change, was, now))
    parked, found = left_at(evening), _begun(morning)
    hours = max((found - parked) / timedelta(hours=1), 0.0)
    levels, earlier = dict(morning.verdict.levels), dict(evening.verdict.levels)
    tank = morning.walk.model.tank
    litres = tank.area * tank.band * LITRES
    lost = [x for key in levels if key in earlier and (x := _lost(key, earlier[key], levels[key], litres, hours))]
    return Overnight(parked, _last_by(evening), found, _first_by(morning), tuple(changes), tuple(lost))


def left_at(heard: Heard) -> datetime:
    """When a look left its machine."""
    return heard.look.signature.time if heard.look.signature else max(e.time for e in heard.case.entries)


def _begun(heard: Heard) -> datetime:
    return heard.look.opening.time if heard.look.opening else min(e.time for e in heard.case.entries)


def _last_by(heard: Heard) -> str:
    return heard.look.signature.by if heard.look.signature else heard.case.entries[-1].by


def _first_by(heard: Heard) -> str:
    return heard.look.opening.by if heard.look.opening else heard.case.entries[0].by


def _lost(key: str, was: HydraulicLevel, now: HydraulicLevel, litres: float, hours: float) -> Lost | None:
    """What a level lost; None if either could not be judged."""
    if was.corrected is None or now.corrected is None:
        return None

    def half(level: HydraulicLevel) -> float:
        return ((level.high or 0.0) - (level.low or 0.0)) / 2 * litres

    gone, unsure = (was.corrected - now.corrected) * litres, math.hypot(half(was), half(now))
    an_hour = gone / hours if hours > 0 else 0.0
    amount, margin = Number(abs(gone), 1, "L"), Number(unsure, 1, "L")
    if gone > unsure:
        says = say(
            "{litres} less than in the evening, give or take {unsure}: {rate} an hour. Look for where it went.",
            litres=amount,
            unsure=margin,
            rate=Number(an_hour, 2, "L"),
        )
    elif gone < -unsure:
        says = say(
            "{litres} more than in the evening, give or take {unsure}: somebody filled it.",
            litres=amount,
            unsure=margin,
        )
    else:
        says = say("No more changed than the two readings leave open ({unsure}).", unsure=margin)
    return Lost(key, gone, unsure, an_hour, says)
