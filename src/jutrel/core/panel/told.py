"""What a machine tells over its bus that a run goes by: the engine, red and amber, a value that came to stand.

A run believes it one way only: what is told can stop an engine, keep a step waiting, or fill in a figure that was
measured. That the engine stands, that somebody wrote down what was found, that nobody is near: people say that.
"""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from jutrel.core.panel.signals import BY_KEY, Lack
from jutrel.core.panel.trend import TRENDS
from jutrel.core.panel.watch import OIL_STUCK, RULES, STANDS_FROM, WARNED, Panel, lost_said, stuck_said, warned_said
from jutrel.core.procedure.kinds import Colour, EngineNow
from jutrel.core.wording import Said, as_written, say


class PanelEventKind(StrEnum):
    """What is told. Silent: a signal that a run goes by has no value from now on; heard: it has one again."""

    ENGINE = "engine"
    ALERT = "alert"
    OVER = "over"
    STOOD = "stood"
    SILENT = "silent"
    HEARD = "heard"


@dataclass(frozen=True, slots=True)
class PanelWord:
    """Something that a machine told at a time.

    `word`: what the engine does, which alert, which signal; `colour` of an alert; `value` of the signal, in its unit.
    """

    id: str
    at: datetime
    what: PanelEventKind
    word: str
    colour: Colour = Colour.NONE
    value: float | None = None


@dataclass(frozen=True, slots=True)
class PanelEvent:
    """The same before it has a name and a date: at a time [s] on the reader's clock."""

    at: float
    what: PanelEventKind
    word: str
    colour: Colour = Colour.NONE
    value: float | None = None


def happened(before: Panel, after: Panel) -> list[PanelEvent]:
    """What became so between two states of a panel.

    >>> [(e.at, e.what.value, e.word) for e in happened(Panel(), Panel(at=3.0, engine=EngineNow.STOPPED))]
    [(3.0, 'engine', 'stopped')]
    """
    at, out = after.at, []
    if after.engine is not None and after.engine is not before.engine:
        out.append(PanelEvent(at, PanelEventKind.ENGINE, after.engine.value))
    started = after.engine is EngineNow.RUNNING and before.engine is not EngineNow.RUNNING
    for key in ("engine-speed", *STANDS_FROM):
        silent, was = isinstance(after.value(key), Lack), isinstance(before.value(key), Lack)
        if silent and (not was or started):
            out.append(PanelEvent(at, PanelEventKind.SILENT, key))
        elif was and not silent:
            out.append(PanelEvent(at, PanelEventKind.HEARD, key))
    for key in after.stands - before.stands:
        value = after.value(key)
        out.append(PanelEvent(at, PanelEventKind.STOOD, key, Colour.NONE, None if isinstance(value, Lack) else value))
    for key, alert in after.alerts.items():
        if key not in before.alerts or before.alerts[key].colour is not alert.colour:
            out.append(PanelEvent(at, PanelEventKind.ALERT, key, alert.colour))
    out += [PanelEvent(at, PanelEventKind.OVER, key) for key in before.alerts if key not in after.alerts]
    return out


def alert_said(key: str) -> Said:
    """An alert in words, from its id alone.

    >>> str(alert_said("fuel")), str(alert_said("fault-100-1"))
    ('Fuel is low.', 'Engine oil, pressure: below normal, severe (100/1)')
    """
    if key in RULE_SAYS:
        return RULE_SAYS[key]
    head, _, rest = key.partition("-")
    if head == "lost" and rest in BY_KEY:
        return lost_said(rest)
    if head in WARNED:
        with suppress(ValueError):
            return warned_said(key)
    return as_written(key)


WORDS_LOST = "words-lost"
"""The alert of a reader that had more to tell than it could keep."""
RULE_SAYS: Mapping[str, Said] = {
    **{r.id: r.says for r in RULES},
    **{t.id: t.says for t in TRENDS},
    OIL_STUCK: stuck_said(),
    WORDS_LOST: say("The reader could not keep all that the machine told. Look at the machine's own panel."),
}
