"""Places strung along a line are found, by a quick way that says what looking at every two of them says."""

from __future__ import annotations

import math
import random

from jutrel.catalog.misplaced import EVEN_M, SHORTEST_STEP_M, in_even_steps
from jutrel.core.machine.drawing.part import Spot


def by_looking(places: dict[str, Spot]) -> bool:
    for a in places.values():
        for b in places.values():
            step = [q - p for p, q in zip(a, b, strict=True)]
            if math.hypot(*step) < SHORTEST_STEP_M:
                continue
            wanted = [[q + n * s for q, s in zip(b, step, strict=True)] for n in (1, 2)]
            if all(any(math.dist(p, w) <= EVEN_M for p in places.values()) for w in wanted):
                return True
    return False


def test_the_quick_way_finds_what_looking_at_all_of_them_finds() -> None:
    rng = random.Random(4)
    found = 0
    for turn in range(160):
        places: dict[str, Spot] = {
            f"p{n}": (round(rng.random(), 2), round(rng.random(), 2), round(rng.random() / 3, 2)) for n in range(14)
        }
        if turn % 2:  # four of them in a row, not quite even
            (x, y, z), (dx, dy, dz) = (
                [rng.random() for _ in range(3)],
                [rng.uniform(0.05, 0.2) for _ in range(3)],
            )
            for n in range(4):
                near = rng.uniform(-0.002, 0.002)
                places[f"q{n}"] = (x + n * dx + near, y + n * dy, z + n * dz)
        row = in_even_steps(places)
        assert bool(row) == by_looking(places), places
        found += bool(row)
    assert 40 < found < 160
