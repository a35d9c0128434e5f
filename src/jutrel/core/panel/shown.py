"""A panel as it is passed on and drawn: values, what holds, and the bands that a needle stands in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from jutrel.core.panel.figures import PanelFigures
from jutrel.core.panel.identity import as_compared
from jutrel.core.panel.signals import Lack, Signal, Value
from jutrel.core.panel.told import PanelEventKind, PanelWord
from jutrel.core.panel.watch import STANDS_FROM, Panel, rules_for
from jutrel.core.procedure.kinds import Colour, EngineNow
from jutrel.core.wording import NOTHING, Number, Said, as_written, say

HOURS_BACK, HOURS_AHEAD = 2.0, 300.0
"""How far the meter of a bus may differ from the machine's file, which was read some days ago [h]."""


@dataclass(frozen=True, slots=True)
class Holds:
    """An alert that holds, and since when."""

    id: str
    colour: Colour
    since: datetime


@dataclass(frozen=True, slots=True)
class ShownPanel:
    """What a machine's reader said at a time. `simulated`: the machine is a stand-in.

    `engine_from`: by which address its reader believes what is told of the engine; `engines`: which addresses tell of
    one; `clock_off`: how far its clock was from the server's, where that is too far [s]; `identities`: whose machine
    the units of the bus say that it is.
    """

    at: datetime
    engine: EngineNow | None
    values: Mapping[str, Value] = field(default_factory=dict)
    alerts: tuple[Holds, ...] = ()
    simulated: bool = False
    engine_from: int | None = None
    engines: tuple[int, ...] = ()
    clock_off: float = 0.0
    identities: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class DialBand:
    """A stretch of a dial that is red or amber, from and to, in the signal's unit."""

    colour: Colour
    low: float
    high: float


def bands_of(signal: Signal, figures: PanelFigures = PanelFigures()) -> tuple[DialBand, ...]:
    """Where a needle is red or amber on a machine with these figures; by speed: at low idle.

    >>> from jutrel.core.panel.signals import BY_KEY
    >>> [(b.colour.value, b.low, b.high) for b in bands_of(BY_KEY["coolant"])]
    [('amber', 99.0, 105.0), ('red', 105.0, 120)]
    """
    rules = sorted((r for r in rules_for(figures) if r.signal == signal.key), key=lambda r: r.limit)
    out = []
    for r in rules:
        worse = [x.limit for x in rules if x.above is r.above and (x.limit > r.limit if r.above else x.limit < r.limit)]
        end = min(worse, default=signal.high) if r.above else max(worse, default=signal.low)
        low, high = (r.limit, end) if r.above else (end, r.limit)
        out.append(DialBand(r.colour, max(low, signal.low), min(high, signal.high)))
    return tuple(out)


def plain(panel: Panel, epoch: datetime) -> dict[str, Any]:
    """A panel as JSON can carry it; its clock began at `epoch`."""
    held = [
        [a.id, a.colour.value, (epoch + timedelta(seconds=a.since)).isoformat()] for a in panel.alerts.values()
    ]  # fmt: skip
    return {
        "engine": panel.engine.value if panel.engine else None,
        "values": {k: v.value if isinstance(v, Lack) else round(v, 3) for k, v in panel.values.items()},
        "alerts": held,
    }


def doubt(shown: ShownPanel, hours: float, engine: int | None, plate: object = None) -> Said:
    """Why what the bus tells proves nothing; empty if it may.

    The reader's clock, the engine's address, or the meter does not fit the machine's file: `hours` [h], `engine`: the
    address that it names, `plate`: what the bus calls this machine; None: it names none.

    >>> from datetime import UTC
    >>> at = datetime(2026, 5, 4, tzinfo=UTC)
    >>> str(doubt(ShownPanel(at, None, {"hours": 812.0}, engine_from=0), 6200.0, 0))
    "The bus tells 812 h, this machine's file 6200 h: is the reader on another machine?"
    >>> str(doubt(ShownPanel(at, None, {"hours": 6204.5}, engine_from=0), 6200.0, 0))
    ''
    >>> str(doubt(ShownPanel(at, None, {"hours": 6204.5}, engine_from=0, identities=("JT1",)), 6200.0, 0, "JT2"))
    "The bus calls its machine JT1, and this machine's file says JT2: is the reader on another machine?"
    >>> str(doubt(ShownPanel(at, None, {"hours": 6204.5}, clock_off=3600.0), 6200.0, 0))
    "The reader's clock is wrong by 3600 s. What it tells proves nothing."
    """
    if shown.clock_off:
        off = Number(abs(shown.clock_off), 0, "s")
        return say("The reader's clock is wrong by {off}. What it tells proves nothing.", off=off)
    if engine is None:
        heard = ", ".join(map(str, shown.engines)) or "-"
        return say(
            "This machine's file leaves out which address on the bus is its engine: until it says so, the bus proves "
            "nothing. With the key on and the engine at rest these tell of one: {heard}. Write it in the file.",
            heard=as_written(heard),
        )
    if shown.engine_from != engine:
        return say("The reader does not go by address {n} for the engine yet. What it tells proves nothing.", n=engine)
    if plate is not None and (other := _other(shown, as_compared(plate))):
        return other
    told = shown.values.get("hours")
    if not isinstance(told, float):
        return say("The bus tells no hour meter, so whose machine it is stays unknown. What it tells proves nothing.")
    if hours - HOURS_BACK <= told <= hours + HOURS_AHEAD:
        return NOTHING
    return say(
        "The bus tells {told}, this machine's file {hours}: is the reader on another machine?",
        told=Number(told, 0, "h"),
        hours=Number(hours, 0, "h"),
    )


def _other(shown: ShownPanel, plate: str) -> Said:
    """Why the units of a bus do not say that it is this machine; empty if all that say anything do."""
    if not shown.identities:
        return say(
            "The bus has not told yet whose it is, and this machine's file says how it is called there: {plate}. "
            "What it tells proves nothing.",
            plate=as_written(plate),
        )
    if set(shown.identities) == {plate}:
        return NOTHING
    return say(
        "The bus calls its machine {told}, and this machine's file says {plate}: is the reader on another machine?",
        told=as_written(", ".join(shown.identities)),
        plate=as_written(plate),
    )


def gone_silent(shown: ShownPanel, now: datetime, stale: timedelta) -> list[PanelWord]:
    """What a reader that says nothing any more amounts to: from then on every signal is unknown."""
    if now - shown.at <= stale:
        return []
    at = shown.at + stale
    keys = ("engine-speed", *STANDS_FROM)
    return [PanelWord(f"~{key}", at, PanelEventKind.SILENT, key) for key in keys]
