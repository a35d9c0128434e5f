"""What was read in a look: what each reading came to, and the findings that it amounts to."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

from jutrel.core.grading.judged import came_of, found_in, level_of, reading_of
from jutrel.core.inspection.finding import Answer, Finding
from jutrel.core.inspection.kinds import Answered, AnyRead
from jutrel.core.inspection.look import Look
from jutrel.core.log.entry import Entry
from jutrel.core.machine.model import Walk, checkpoint_of
from jutrel.core.reading.all import READINGS
from jutrel.core.reading.bound import modes_of
from jutrel.core.reading.judgement import Band, Judgement
from jutrel.core.reading.tank import HydraulicLevel
from jutrel.core.wording import NOTHING, Said, Words, as_written


@dataclass(frozen=True, slots=True)
class ReadingInForce:
    """A reading in force: where, which, what it came to, by whom, and its entry."""

    checkpoint: str
    name: Annotated[str, Words("checkpoint")]
    key: str
    title: Said
    value: float | None
    unit: str
    low: float | None
    high: float | None
    judgement: Judgement
    finding: Finding | None
    by: str
    entry: str


def levels_of(look: Look, walk: Walk) -> dict[str, HydraulicLevel]:
    """The level at each checkpoint that was measured; of several readings in force the lowest."""
    levels: dict[str, HydraulicLevel] = {}
    for key, heads in look.heads.items():
        for entry in heads:
            if isinstance(entry.what, AnyRead):
                level = level_of(entry, walk)
                if key not in levels or level.seen < levels[key].seen:
                    levels[key] = level
    return levels


def readings_of(look: Look, walk: Walk) -> tuple[ReadingInForce, ...]:
    """The readings in force, in the order of the walk."""
    order = {c.id: n for n, c in enumerate(walk.model.family.checkpoints)}
    rows = sorted(look.readings.items(), key=lambda pair: (order.get(pair[0][0], len(order)), pair[0][1]))
    out = []
    for (at, key), heads in rows:
        c = walk.checkpoint(at) or checkpoint_of(walk.model, at)
        title = READINGS[key].title if key in READINGS else as_written(key)
        for entry in heads:
            assert isinstance(entry.what, AnyRead)
            r = reading_of(entry, walk)
            found = Finding(r.finding[0], dict(r.finding[1])) if r.finding else None
            taken = ReadingInForce(
                at, c.name, key, title, r.value, r.unit, r.low, r.high, r.judgement, found, entry.by, entry.id
            )
            out.append(taken)
    return tuple(out)


def action_of(entry: Entry, walk: Walk) -> Said:
    """What a reading says to do; nothing for an answer."""
    return reading_of(entry, walk).judgement.action if isinstance(entry.what, AnyRead) else NOTHING


def findings_of(entry: Entry, walk: Walk) -> tuple[Finding, ...]:
    """The findings that an answer or a reading amounts to; a level put right is told, too."""
    match entry.what:
        case Answered(answer=Answer.DEFECT, findings=findings):
            return findings
        case AnyRead() as r:
            if found := found_in(entry, walk):
                return found
            modes = modes_of(r.reading)
            if r.put_right is not None and modes and reading_of(entry, walk).judgement.band is not Band.REFUSED:
                return (Finding(modes[0], {}, put_right=r.put_right),)
            return ()
    return ()


def judged(entry: Entry, walk: Walk) -> Entry:
    """A reading with what it comes to now, which it keeps; anything else as it is."""
    if not isinstance(entry.what, AnyRead):
        return entry
    return replace(entry, came=came_of(reading_of(entry, walk).judgement, findings_of(entry, walk)))
