"""What a shift needs of a machine: enough or not, what to order, what the night asks for."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from jutrel.core.errors import BadInput
from jutrel.core.machine.model import Model
from jutrel.core.reading.all import listed, run
from jutrel.core.reading.bound import machine_says
from jutrel.core.reading.registry import InputSource, Reading
from jutrel.core.reading.series import Series
from jutrel.core.wording import NOTHING, Said, say

Y2000 = datetime(2000, 1, 1, tzinfo=UTC)
GRADE = re.compile(r"(\d+W)")
WANTED = ("fuel-shift", "exhaust-fluid", "spray-water", "engine-oil", "oil-grade", "coolant-freeze", "dark")


@dataclass(frozen=True, slots=True)
class Need:
    """One thing that a shift needs. `reading` is None where something is missing, which `lacks` says.

    `at`: when the level behind it was read, if one is.
    """

    key: str
    title: Said
    reading: Reading | None
    lacks: Said
    at: datetime | None
    checkpoint: str


def needs_of(
    model: Model,
    options: frozenset[str],
    series: Sequence[Series],
    known: Mapping[InputSource, float],
    shift_hours: float,
    work: str,
    now: datetime,
) -> tuple[Need, ...]:
    """What a shift needs, from the last readings, the machine's figures and what devices know now."""
    here = {**known, InputSource.SHIFT: shift_hours, InputSource.TIME: (now - Y2000).total_seconds() / 3600}
    out = []
    for key in WANTED:
        places = [
            (c.id, b)
            for c in model.family.checkpoints
            for b in c.readings
            if b.reading == key and (c.option is None or c.option in options)
        ]
        if not places:
            continue
        checkpoint, bound = places[0]
        one = listed(key)
        last = next((s.points[-1] for s in series if s.reading == key and s.checkpoint == checkpoint), None)
        given: dict[str, Any] = {}
        for i in one.inputs:
            if i.given.known in here and i.given.known is not None:
                given[i.key] = here[i.given.known]
            elif last is not None and (value := dict(last.given).get(i.key)) is not None:
                given[i.key] = value
        if key == "fuel-shift":
            given["work"] = work
        if key == "oil-grade":
            found = GRADE.match(str(model.limits.get("engine-oil-grade", "")))
            given |= {"grade": found.group(1)} if found else {}
        if key == "engine-oil" and last is not None:
            given |= {"minutes": 600.0, "slope": 0.0}
        given |= machine_says(bound, model)
        missing = [i for i in one.inputs if i.needed and i.key not in given]
        if key == "coolant-freeze" and not {"mass", "volume", "read_c"} & set(given):
            missing.append(next(i for i in one.inputs if i.key == "read_c"))
        reading, lacks = None, NOTHING
        if missing:
            lacks = say("Not known yet: {names}.", names=tuple(i.given.name for i in missing))
        else:
            try:
                reading = run(key, given)
            except BadInput as error:
                lacks = say("It cannot be computed: {why}", why=error.says)
        levels = key in ("fuel-shift", "exhaust-fluid", "spray-water", "engine-oil", "coolant-freeze")
        out.append(Need(key, one.title, reading, lacks, last.at if last and levels else None, checkpoint))
    return tuple(out)
