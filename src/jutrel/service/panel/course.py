"""How a machine's values went, from its samples; and values of a log that was read elsewhere."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from jutrel.core.errors import BadInput
from jutrel.core.panel.figures import PanelFigures
from jutrel.core.panel.signals import BY_KEY, Signal
from jutrel.core.panel.told import PanelEventKind, PanelWord
from jutrel.core.procedure.kinds import Colour
from jutrel.service.context import Here
from jutrel.service.machine.find import unit_of
from jutrel.service.panel.panel import on_bus_of
from jutrel.store.queries import panel as store
from jutrel.store.queries.panel import GONE_AFTER, KEPT, Stretch

STRETCHES = 240
USUAL = ("engine-speed", "oil-pressure", "coolant", "hydraulic-oil", "transmission-oil", "volts", "fuel-level")
"""What a mechanic looks at first."""


@dataclass(frozen=True, slots=True)
class Course:
    """How values went between two times: for each signal stretches of it, and what the machine warned of meanwhile.

    `simulated`: a stand-in tells them.
    """

    since: datetime
    until: datetime
    signals: tuple[tuple[Signal, tuple[Stretch, ...]], ...]
    warned: tuple[PanelWord, ...]
    simulated: bool = False
    figures: PanelFigures = field(default_factory=PanelFigures)


async def course(here: Here, machine: str, since: datetime, until: datetime, keys: Sequence[str] = USUAL) -> Course:
    """How a machine's values went.

    Raises
    ------
    BadInput
        For a signal that there is not, or times that are no stretch.
    """
    unit = await unit_of(here, machine)
    for key in keys:
        if key not in BY_KEY:
            raise BadInput("key", "no signal is called '{it}'", it=key)
    if not timedelta(0) < until - since <= GONE_AFTER:
        raise BadInput("until", "it comes after 'since', by 400 days at most")
    found = await store.course_of(here.db, here.site.id, unit.id, list(dict.fromkeys(keys)), since, until, STRETCHES)
    told = await store.told_of(here.db, here.site.id, unit.id, since, until)
    warned = tuple(t for t in told if t.what is PanelEventKind.ALERT and t.colour is not Colour.NONE)
    now = await store.now_of(here.db, here.site.id, unit.id)
    simulated = now is not None and now.simulated
    lines = tuple((BY_KEY[k], tuple(v)) for k, v in found.items())
    return Course(since, until, lines, warned, simulated, (await on_bus_of(here, unit)).figures)


def kept_at(at: datetime, now: datetime) -> bool:
    """Whether a sample that old stays: by the same rule by which the machine's own thin out."""
    every = max((every for after, _, every in KEPT if now - at > after), default=1)
    return int(at.timestamp()) % every == 0


async def import_samples(here: Here, machine: str, samples: Mapping[datetime, Mapping[str, Any]]) -> int:
    """Take values of a log that was read elsewhere; what is there already stays. How many were kept of them.

    They say nothing of the engine or of warnings: a run goes by what was heard while it ran.

    Raises
    ------
    BadInput
        For a time that lies ahead, or that nothing is kept from.
    """
    unit = await unit_of(here, machine)
    for at in samples:
        if at > here.now:
            raise BadInput("at", "it lies ahead: the log's times are not the site's")
        if at < here.now - GONE_AFTER:
            raise BadInput("at", "values are kept for 400 days; this is older")
    mine = {at.replace(microsecond=0): v for at, v in samples.items() if kept_at(at, here.now)}
    await store.add_samples(here.db, here.site.id, {unit.id: mine})
    return len(mine)
