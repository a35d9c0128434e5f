"""How fast readings are: all of them per second and a walk's worth, as a ratio to a bare call with the same inputs."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

from bench.lines import Lines
from jutrel.core.machine.model import walk_of
from jutrel.core.reading.all import READINGS, run
from tests.walks import MODEL

ROUNDS = 9


def median_ms(work: Callable[[], object]) -> float:
    """The median of some rounds [ms]."""
    work()
    out = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        work()
        out.append((time.perf_counter() - start) * 1000)
    return statistics.median(out)


def bare(**given: object) -> int:
    """What any function must do with the same inputs: take them and look at each once."""
    return sum(value is not None for value in given.values())


def taken(lines: Lines) -> None:
    """All readings, and those of one machine's walk."""
    lines.head("Readings: multiples of a bare call with the same inputs")
    whole = [(key, dict(one.example)) for key, one in sorted(READINGS.items())]
    walk = walk_of(MODEL, frozenset(MODEL.options))
    mine = [(b.reading, dict(READINGS[b.reading].example)) for c in walk.checkpoints for b in c.readings]
    for name, rows in ((f"all {len(whole)}", whole), (f"a walk's worth, {len(mine)}", mine)):

        def floor(rows: object = rows) -> None:
            for _ in range(100):
                for _, given in rows:  # type: ignore[attr-defined]
                    bare(**given)

        def work(rows: object = rows) -> None:
            for key, given in rows:  # type: ignore[attr-defined]
                run(key, given)

        least, took = median_ms(floor) / 100, median_ms(work)
        lines.add(f"{name} ({took:.1f} ms, {len(rows) / took * 1000:.0f} a second)", took / least, None)


if __name__ == "__main__":
    taken(Lines())
