"""How honestly a walk was walked: time taken against plan, and what was asked to be shown."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from jutrel.core.inspection.kinds import Answered, AnyRead, Arrived
from jutrel.core.inspection.look import Look
from jutrel.core.log.entry import Entry
from jutrel.core.machine.family import How
from jutrel.core.machine.model import Walk
from jutrel.core.wording import Words

HURRIED = 0.25
"""Under a quarter of the time a practised person takes, nothing was looked at; common practice."""
LONGEST_PAUSE_S = 600.0
ASKS = 2


@dataclass(frozen=True, slots=True)
class StationPace:
    """Looking at one station: planned [s], taken [s] (None: not known), and whether that is too fast to be true."""

    station: str
    name: Annotated[str, Words("station")]
    planned_s: int
    taken_s: float | None
    hurried: bool


@dataclass(frozen=True, slots=True)
class ShowMe:
    """A checkpoint the walk asked to be shown, and whether a photo shows it."""

    checkpoint: str
    name: Annotated[str, Words("checkpoint")]
    shown: bool


@dataclass(frozen=True, slots=True)
class Pace:
    """The whole walk: planned and taken looking time [s], station by station, and what was shown."""

    planned_s: int
    taken_s: float
    stations: tuple[StationPace, ...]
    asks: tuple[ShowMe, ...]
    together: int = 0
    """How many checkpoints were answered by one tap with others."""

    @property
    def hurried(self) -> tuple[str, ...]:
        """Names of stations that were answered faster than they can be looked at."""
        return tuple(s.name for s in self.stations if s.hurried)


def show_me(inspection: str, walk: Walk) -> tuple[str, ...]:
    """The checkpoints that this walk asks to be shown with a photo: others each time, the same on every device."""
    fit = [
        c.id
        for c in walk.checkpoints
        if c.mandatory and c.reading is None and c.how_kind in (How.LOOK, How.READ) and c.station != walk.stations[0].id
    ]
    fit.sort(key=lambda c: hashlib.sha256(f"{inspection}/{c}".encode()).digest())
    return tuple(fit[: ASKS if walk.clears else 1])


def pace_of(inspection: str, state: Look, entries: Sequence[Entry], walk: Walk) -> Pace:
    """The pace of a walk from the times of its entries.

    The time at a station is counted from arriving there, or from the answer before, to its
    own answers; a pause of more than ten minutes is a break, not a look.
    """
    station_of = {c.id: c.station for c in walk.checkpoints}
    taken: dict[str, float] = {}
    before = state.opening.time if state.opening else None
    for entry in sorted(entries, key=lambda e: (e.time, e.id)):
        match entry.what:
            case Answered(checkpoint=c) | AnyRead(checkpoint=c) if c in station_of:
                if before is not None:
                    passed = (entry.time - before).total_seconds()
                    if 0 <= passed <= LONGEST_PAUSE_S:
                        taken[station_of[c]] = taken.get(station_of[c], 0.0) + passed
                before = entry.time
            case Arrived():
                before = entry.time
            case _:
                pass
    stations = []
    for s in walk.stations:
        here = walk.at(s.id)
        answered = [c for c in here if c.id in state.heads]
        planned = sum(c.seconds for c in here)
        time = taken.get(s.id)
        enough = HURRIED * sum(c.seconds for c in answered)
        stations.append(StationPace(s.id, s.name, planned, time, time is not None and bool(answered) and time < enough))
    names = {c.id: c.name for c in walk.checkpoints}
    together = {e.what.checkpoint for e in entries if isinstance(e.what, Answered) and e.what.together}
    return Pace(
        sum(s.planned_s for s in stations),
        sum(taken.values()),
        tuple(stations),
        tuple(ShowMe(c, names[c], bool(state.photos.get(c))) for c in show_me(inspection, walk)),
        len(together & set(state.heads)),
    )
