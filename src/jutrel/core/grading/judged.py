"""What one reading in the log comes to: by hand and by instrument, by the rules of its time and by today's."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from jutrel.core.errors import BadInput
from jutrel.core.inspection.finding import Finding
from jutrel.core.inspection.kinds import AnyRead
from jutrel.core.log.entry import Came, Entry
from jutrel.core.machine.model import Walk
from jutrel.core.reading.bound import inputs_at, read_at
from jutrel.core.reading.glass import level_told
from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.registry import Input, Reading, cannot
from jutrel.core.reading.tank import HydraulicLevel
from jutrel.core.wording import as_written, say

HARDER = (Band.IN_BAND, Band.REFUSED, Band.ACT, Band.STOP)
"""Which of two judgements of one thing counts, a hand's and an instrument's: the later here."""


def level_of(entry: Entry, walk: Walk) -> HydraulicLevel:
    """What a reading of the hydraulic glass comes to, and at least what it came to when it came in."""
    assert isinstance(entry.what, AnyRead)
    seen = entry.what.given["seen"]
    assert isinstance(seen, float)
    return level_told(seen, reading_of(entry, walk))


def reading_of(entry: Entry, walk: Walk) -> Reading:
    """What a reading comes to on this machine; one that today's list cannot take is told as not to be judged.

    Where an instrument told otherwise than the hand, both are judged and the worse counts. What it came to when it came
    in stays: another judgement makes it worse, never better.
    """
    now = _reading_now(entry, walk)
    if (came := harder(entry.came, now.judgement.band)) is None:
        return now
    finding = (came.mode, came.attributes) if came.mode else None
    return replace(now, judgement=_at_least(now.judgement, came), finding=finding)


def found_in(entry: Entry, walk: Walk) -> tuple[Finding, ...]:
    """All that a reading amounts to: when it came in, by hand and by instrument; none is chosen, all are graded.

    Two judgements can be as hard as each other and find different things, of which one holds the machine.
    """
    out = [Finding(entry.came.mode, dict(entry.came.attributes))] if entry.came is not None and entry.came.mode else []
    for reading in _readings(entry, walk):
        if reading.finding is not None:
            found = Finding(reading.finding[0], dict(reading.finding[1]))
            out += [found] if found not in out else []
    return tuple(out)


def _readings(entry: Entry, walk: Walk) -> tuple[Reading, ...]:
    """By hand, and by instrument where that told otherwise."""
    assert isinstance(entry.what, AnyRead)
    by_hand = _read(entry.what, entry.what.given, walk)
    told = {**entry.what.told, **entry.told}
    return (_read(entry.what, {**entry.what.given, **told}, walk), by_hand) if told else (by_hand,)


def _reading_now(entry: Entry, walk: Walk) -> Reading:
    assert isinstance(entry.what, AnyRead)
    readings = _readings(entry, walk)
    if len(readings) == 1:
        return readings[0]
    worse = max(readings, key=lambda r: (HARDER.index(r.judgement.band), r.finding is not None))
    told = {**entry.what.told, **entry.told}
    return replace(worse, judgement=_beside(worse.judgement, inputs_at(entry.what.reading), told))


def _read(r: AnyRead, given: Mapping[str, Any], walk: Walk) -> Reading:
    try:
        return read_at(r.checkpoint, r.reading, given, walk.model)
    except BadInput as error:
        return cannot("", say("Take it again."), say("It cannot be computed: {why}", why=error.says))


def _beside(judgement: Judgement, inputs: Sequence[Input], told: Mapping[str, float]) -> Judgement:
    """A judgement that says that an instrument and a hand differ, and what the instrument told."""
    figures = tuple(
        Figure(say("{figure}, by the instrument", figure=i.given.name), told[i.key], as_written(i.given.unit))
        for i in inputs
        if i.key in told
    )
    why = say("An instrument says otherwise than the hand: the worse of the two counts. {why}", why=judgement.why)
    return replace(judgement, why=why, figures=(*judgement.figures, *figures))


def harder(came: Came | None, now: Band) -> Came | None:
    """What a reading came to when it came in, if that was harder than what it comes to now."""
    return came if came is not None and HARDER.index(Band(came.band)) > HARDER.index(now) else None


def _at_least(now: Judgement, came: Came | None) -> Judgement:
    if (came := harder(came, now.band)) is None:
        return now
    why = say(
        "It was judged so when it was read. The rules have changed since, and would say now: {now}",
        now=now.action,
    )
    return Judgement(Band(came.band), came.action, why, now.figures)


def came_of(judgement: Judgement, findings: Sequence[Finding]) -> Came:
    """What is kept of a judgement: the band, what to do, and the finding that it amounts to."""
    found = next((f for f in findings if f.put_right is None), None)
    return Came(
        judgement.band.value,
        judgement.action,
        found.failure_mode if found else "",
        dict(found.attributes) if found else {},
    )
