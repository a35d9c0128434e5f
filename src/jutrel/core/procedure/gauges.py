"""Gauges that a person reads by eye at work: green, amber or red, where no bus tells the figure."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime

from jutrel.core.log.entry import Entry
from jutrel.core.panel.signals import BY_KEY
from jutrel.core.procedure.kinds import Colour, Remarked, Sense
from jutrel.core.wording import Said, say

GAUGES: Mapping[str, Said] = {
    **{
        key: BY_KEY[key].name
        for key in (
            "oil-pressure", "coolant", "hydraulic-oil", "transmission-oil", "volts", "fuel-level", "exhaust-fluid",
            "air-restriction",
        )
    },
    "brake-pressure": say("Brake pressure"),
}  # fmt: skip
"""What needles there are, in the order in which a red one hurts."""


@dataclass(frozen=True, slots=True)
class GaugeRead:
    """How a gauge stood when somebody last read it."""

    key: str
    name: Said
    colour: Colour
    at: datetime


def gauge_problem(what: Remarked) -> str:
    """What is wrong with a remark's gauge; empty if nothing is.

    >>> gauge_problem(Remarked(Sense.GAUGE, Colour.NONE, gauge="coolant"))
    ''
    """
    if (what.sense is Sense.GAUGE) != (what.gauge != ""):
        return "say which gauge was read, and only then"
    if what.gauge and what.gauge not in GAUGES:
        return "there is no such gauge; see the run's gauges"
    return ""


def gauges_read(entries: Iterable[Entry]) -> tuple[GaugeRead, ...]:
    """Every gauge that was read by eye as it stood last, in the order of the list.

    Of two words at one moment the worse counts.
    """
    worse = (Colour.NONE, Colour.AMBER, Colour.RED)
    last: dict[str, GaugeRead] = {}
    for e in sorted(entries, key=lambda e: (e.time, e.id)):
        if isinstance(e.what, Remarked) and e.what.gauge in GAUGES:
            before, key = last.get(e.what.gauge), e.what.gauge
            colour = e.what.colour
            if before is not None and before.at == e.time:
                colour = max(colour, before.colour, key=worse.index)
            last[key] = GaugeRead(key, GAUGES[key], colour, e.time)
    return tuple(last[k] for k in GAUGES if k in last)
