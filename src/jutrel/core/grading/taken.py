"""What was read in a look: what each reading came to, and the findings that it amounts to."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from jutrel.core.errors import BadInput
from jutrel.core.inspection.finding import Answer, Finding
from jutrel.core.inspection.kinds import Answered, Measured, Read
from jutrel.core.inspection.look import Look
from jutrel.core.log.entry import Entry
from jutrel.core.machine.model import Walk, checkpoint_of
from jutrel.core.reading.all import READINGS
from jutrel.core.reading.bound import read_at
from jutrel.core.reading.judgement import Band, Judgement
from jutrel.core.reading.registry import Reading, cannot
from jutrel.core.reading.tank import HydraulicLevel, hydraulic_level
from jutrel.core.wording import NOTHING, Said, Words, as_written, say


@dataclass(frozen=True, slots=True)
class Taken:
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
            if isinstance(entry.what, Measured):
                level = level_of(entry.what, walk)
                if key not in levels or level.seen < levels[key].seen:
                    levels[key] = level
    return levels


def level_of(m: Measured, walk: Walk) -> HydraulicLevel:
    """A reading of the hydraulic glass, corrected."""
    return hydraulic_level(walk.model.tank, m.seen, m.oil_c, m.pitch_deg, m.roll_deg, m.extensions)


def reading_of(r: Read, walk: Walk) -> Reading:
    """What a reading comes to on this machine; one that today's list cannot take is told as not to be judged."""
    try:
        return read_at(r.checkpoint, r.reading, r.given, walk.model)
    except BadInput as error:
        return cannot("", say("Take it again."), say("It cannot be computed: {why}", why=error.says))


def readings_of(look: Look, walk: Walk) -> tuple[Taken, ...]:
    """The readings in force, in the order of the walk."""
    order = {c.id: n for n, c in enumerate(walk.model.family.checkpoints)}
    rows = sorted(look.readings.items(), key=lambda pair: (order.get(pair[0][0], len(order)), pair[0][1]))
    out = []
    for (at, key), heads in rows:
        c = walk.checkpoint(at) or checkpoint_of(walk.model, at)
        title = READINGS[key].title if key in READINGS else as_written(key)
        for entry in heads:
            assert isinstance(entry.what, Read)
            r = reading_of(entry.what, walk)
            found = Finding(r.finding[0], dict(r.finding[1])) if r.finding else None
            taken = Taken(
                at, c.name, key, title, r.value, r.unit, r.low, r.high, r.judgement, found, entry.by, entry.id
            )
            out.append(taken)
    return tuple(out)


def action_of(entry: Entry, walk: Walk) -> Said:
    """What a reading says to do; nothing for an answer."""
    if isinstance(entry.what, Read):
        return reading_of(entry.what, walk).judgement.action
    return level_of(entry.what, walk).judgement.action if isinstance(entry.what, Measured) else NOTHING


def findings_of(entry: Entry, walk: Walk) -> tuple[Finding, ...]:
    """The findings that an answer or a reading amounts to; a level put right is told, too."""
    match entry.what:
        case Answered(answer=Answer.DEFECT, findings=findings):
            return findings
        case Read() as r:
            found = reading_of(r, walk)
            if found.finding is not None:
                return (Finding(found.finding[0], dict(found.finding[1])),)
            modes = READINGS[r.reading].modes if r.reading in READINGS else ()
            if r.put_right is not None and modes and found.judgement.band is not Band.REFUSED:
                return (Finding(modes[0], {}, put_right=r.put_right),)
            return ()
        case Measured() as m:
            level = level_of(m, walk)
            band = level.judgement.band
            if band is Band.REFUSED:
                return ()
            if band is Band.IN_BAND:
                return (Finding("level", {}, put_right=m.put_right),) if m.put_right else ()
            state = "very-low" if band is Band.STOP else "low" if (level.corrected or 0.0) < 0 else "over"
            key = "over_level" if state == "over" else "low_level"
            return (Finding("level", {key: state}),)
    return ()
