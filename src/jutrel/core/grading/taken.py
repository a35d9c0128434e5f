"""What was read in a look: what each reading came to, and the findings that it amounts to."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any

from jutrel.core.errors import BadInput
from jutrel.core.inspection.finding import Answer, Finding
from jutrel.core.inspection.kinds import Answered, Measured, Read
from jutrel.core.inspection.look import Look
from jutrel.core.log.entry import Entry
from jutrel.core.machine.model import Walk, checkpoint_of
from jutrel.core.reading.all import READINGS, listed
from jutrel.core.reading.bound import read_at
from jutrel.core.reading.instrument import LEVEL_INPUTS
from jutrel.core.reading.judgement import Band, Figure, Judgement
from jutrel.core.reading.registry import Input, Reading, cannot
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
                level = level_of(entry, walk)
                if key not in levels or level.seen < levels[key].seen:
                    levels[key] = level
    return levels


HARDER = (Band.IN_BAND, Band.REFUSED, Band.ACT, Band.STOP)
"""Which of two judgements of one thing counts, a hand's and an instrument's: the later here."""


def level_by_hand(m: Measured, walk: Walk) -> HydraulicLevel:
    """A reading of the hydraulic glass, corrected; raises BadInput for figures that cannot be."""
    return hydraulic_level(walk.model.tank, m.seen, m.oil_c, m.pitch_deg, m.roll_deg, m.extensions)


def level_of(entry: Entry, walk: Walk) -> HydraulicLevel:
    """What a reading of the hydraulic glass comes to: of the hand's slope and the sensor's, the worse counts."""
    assert isinstance(entry.what, Measured)
    by_hand = level_by_hand(entry.what, walk)
    if not entry.told:
        return by_hand
    pitch, roll = (entry.told.get(k, getattr(entry.what, k)) for k in ("pitch_deg", "roll_deg"))
    by_device = level_by_hand(replace(entry.what, pitch_deg=pitch, roll_deg=roll), walk)
    worse = max(by_hand, by_device, key=lambda level: HARDER.index(level.judgement.band))
    return replace(worse, judgement=_beside(worse.judgement, LEVEL_INPUTS, entry.told))


def reading_of(entry: Entry, walk: Walk) -> Reading:
    """What a reading comes to on this machine; one that today's list cannot take is told as not to be judged.

    Where an instrument told otherwise than the hand, both are judged and the worse counts.
    """
    assert isinstance(entry.what, Read)
    by_hand = _read(entry.what, entry.what.given, walk)
    told = {**entry.what.told, **entry.told}
    if not told:
        return by_hand
    by_device = _read(entry.what, {**entry.what.given, **told}, walk)
    worse = max(by_device, by_hand, key=lambda r: (HARDER.index(r.judgement.band), r.finding is not None))
    return replace(worse, judgement=_beside(worse.judgement, listed(entry.what.reading).inputs, told))


def _read(r: Read, given: Mapping[str, Any], walk: Walk) -> Reading:
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
            r = reading_of(entry, walk)
            found = Finding(r.finding[0], dict(r.finding[1])) if r.finding else None
            taken = Taken(
                at, c.name, key, title, r.value, r.unit, r.low, r.high, r.judgement, found, entry.by, entry.id
            )
            out.append(taken)
    return tuple(out)


def action_of(entry: Entry, walk: Walk) -> Said:
    """What a reading says to do; nothing for an answer."""
    if isinstance(entry.what, Read):
        return reading_of(entry, walk).judgement.action
    return level_of(entry, walk).judgement.action if isinstance(entry.what, Measured) else NOTHING


def findings_of(entry: Entry, walk: Walk) -> tuple[Finding, ...]:
    """The findings that an answer or a reading amounts to; a level put right is told, too."""
    match entry.what:
        case Answered(answer=Answer.DEFECT, findings=findings):
            return findings
        case Read() as r:
            found = reading_of(entry, walk)
            if found.finding is not None:
                return (Finding(found.finding[0], dict(found.finding[1])),)
            modes = READINGS[r.reading].modes if r.reading in READINGS else ()
            if r.put_right is not None and modes and found.judgement.band is not Band.REFUSED:
                return (Finding(modes[0], {}, put_right=r.put_right),)
            return ()
        case Measured() as m:
            level = level_of(entry, walk)
            band = level.judgement.band
            if band is Band.REFUSED:
                return ()
            if band is Band.IN_BAND:
                return (Finding("level", {}, put_right=m.put_right),) if m.put_right else ()
            state = "very-low" if band is Band.STOP else "low" if (level.corrected or 0.0) < 0 else "over"
            key = "over_level" if state == "over" else "low_level"
            return (Finding("level", {key: state}),)
    return ()
