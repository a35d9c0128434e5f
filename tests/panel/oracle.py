"""What must and must not be told of a bus, written plainly from what the engine alone said, tenth by tenth of a second.

Knows nothing of the product's reader: one list of what the engine at address 0 said, tenth by tenth, and three rules.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Tenth:
    """What the engine's own unit said in a tenth of a second; None: it said nothing of that.

    `oil` of -1: it said that it has no value. `red`: whether its fault message had the red lamp.
    """

    speed: float | None = None
    oil: float | None = None
    red: bool | None = None


def reds_that_stood(said: list[Tenth]) -> list[tuple[int, str]]:
    """Tenths at which a red has stood for its time: no oil pressure for 1.5 s, 11 s after the start; a lamp for 1 s."""
    out = []
    since_run: int | None = None
    low: int | None = None
    lamp: int | None = None
    last_speed = last_oil = -99
    for n, t in enumerate(said):
        if t.speed is not None:
            last_speed = n
            if t.speed >= 400:
                since_run = n if since_run is None else since_run
            elif t.speed < 50:
                since_run, low = None, None
        runs = since_run is not None and n - since_run >= 110 and n - last_speed < 15
        if t.oil is not None and t.oil >= 0:
            last_oil = n
            if t.oil >= 100 or not runs:
                low = None
            elif low is None:
                low = n
        if low is not None and n - low >= 15 and n == last_oil and runs:
            out.append((n, "oil"))
        if t.red is not None:
            lamp = (n if lamp is None else lamp) if t.red else None
        if lamp is not None and n - lamp >= 10:
            out.append((n, "lamp"))
    return out


def may_stand(said: list[Tenth], n: int) -> bool:
    """Whether oil pressure may be told to stand at that tenth: seen at nought at rest, and come up since it runs."""
    newest = next((t.oil for t in reversed(said[max(0, n - 30) : n + 1]) if t.oil is not None and t.oil >= 0), None)
    if newest is None or newest < 120:
        return False
    turns = [k for k in range(n + 1) if (s := said[k].speed) is not None and s < 50]
    if not turns:
        return False
    rest = [t.oil for t in said[: turns[-1] + 12] if t.oil is not None and t.oil >= 0]
    return any(oil < 50 for oil in rest)


def may_be_stopped(said: list[Tenth], n: int) -> bool:
    """Whether it may be told to stand at that tenth: the newest speed is nought, as were the two before."""
    newest = [t.speed for t in said[max(0, n - 60) : n + 1] if t.speed is not None]
    return bool(newest) and newest[-1] < 50 and all(s < 50 for s in newest[-3:])
