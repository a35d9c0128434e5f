"""What changes slowly: a temperature that climbs though the load is the same, pressure that sags, a filter that plugs.

One look at the needles a minute, while the engine runs; the last minutes are set against those a quarter of an hour
before. Amber at most: a trend is told early and stops nobody. Limits are common practice, from memory.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import median

from jutrel.core.panel.signals import Value
from jutrel.core.wording import Said, say

KEPT, LATE, EARLY = 20, 3, 5
"""Looks that are kept; how many of the last are set against how many of the first."""
SAME_LOAD, SAME_SPEED = 12.0, 120.0
"""Load [%] and speed [rpm] that count as the same."""


@dataclass(frozen=True, slots=True)
class SlowTrend:
    """Something that changes slowly.

    `by`: from where on it is told, up or down, in the signal's unit, or as a share of what it was where `share`;
    `over`: only where `warm` showed at least this much all the time: an engine that warms up is no trend;
    `same`: the signal that has to be alike, and how alike.
    """

    id: str
    signal: str
    by: float
    share: bool
    warm: str
    over: float
    same: str
    alike: float
    says: Said


TRENDS: tuple[SlowTrend, ...] = (
    SlowTrend(
        "climbs",
        "coolant",
        4.0,
        False,
        "coolant",
        84.0,
        "load",
        SAME_LOAD,
        say("Coolant climbs though the load is the same: look at screens, fan and level at the next stop."),
    ),
    SlowTrend(
        "sags",
        "oil-pressure",
        -0.15,
        True,
        "oil-temperature",
        80.0,
        "engine-speed",
        SAME_SPEED,
        say("Oil pressure sags at the same speed: look at the oil level at the next stop."),
    ),
    SlowTrend(
        "plugs",
        "air-restriction",
        0.8,
        False,
        "air-restriction",
        2.0,
        "engine-speed",
        SAME_SPEED,
        say("The air filter plugs: look at it at the next stop."),
    ),
)
WATCHED = tuple({key: None for t in TRENDS for key in (t.signal, t.warm, t.same)})
Look = tuple[float | None, ...]
"""The needles of one minute, in the order of `WATCHED`; None: unknown."""


def looked(values: Mapping[str, Value]) -> Look:
    """One look at the needles."""
    found = (values.get(key) for key in WATCHED)
    return tuple(v if isinstance(v, float) else None for v in found)


def trends_in(looks: Sequence[Look]) -> tuple[SlowTrend, ...]:
    """What changes slowly in the looks of the last minutes, oldest first; nothing before there are enough.

    >>> steady = [(88.0, 60.0, 340.0, 95.0, 1800.0, 2.4)] * 20
    >>> trends_in(steady)
    ()
    >>> WATCHED[:2], [t.id for t in trends_in([*steady[:17], *[(93.0, 62.0, 340.0, 97.0, 1790.0, 2.4)] * 3])]
    (('coolant', 'load'), ['climbs'])
    """
    if len(looks) < KEPT:
        return ()
    early, late = looks[:EARLY], looks[-LATE:]
    out = []
    for t in TRENDS:
        signal, warm, same = (WATCHED.index(k) for k in (t.signal, t.warm, t.same))
        now, then = _middle(late, signal), _middle(early, signal)
        warm_now, warm_then = _middle(late, warm), _middle(early, warm)
        same_now, same_then = _middle(late, same), _middle(early, same)
        if None in (now, then, warm_now, warm_then, same_now, same_then):
            continue
        assert now is not None
        assert then is not None
        change = (now - then) / then if t.share and then else now - then
        alike = abs(_known(same_now) - _known(same_then)) <= t.alike
        over = min(_known(warm_now), _known(warm_then))
        worse = change >= t.by if t.by > 0 else change <= t.by
        if alike and worse and over >= t.over:
            out.append(t)
    return tuple(out)


def _known(value: float | None) -> float:
    assert value is not None
    return value


def _middle(looks: Sequence[Look], which: int) -> float | None:
    """The middle of some looks; None where one of them is unknown."""
    values = [v for look in looks if (v := look[which]) is not None]
    return median(values) if len(values) == len(looks) else None
