"""What is remembered of logs: right for whoever finds the log ending there, and bounded by what it weighs."""

from __future__ import annotations

import random
from dataclasses import dataclass

from jutrel.core.machine.unit import Unit
from jutrel.service.log.log_cache import MOST_BYTES, Shelf


@dataclass(frozen=True)
class Thing:
    """Something that knows of which log it was worked out."""

    machine: str
    head: str
    weight: int


def unit(n: int, seq: int) -> Unit:
    return Unit(id=f"m-{n}", name="", model_id="", options=(), hours=0.0, seq=seq, head=f"{n}/{seq}")


def test_random_logs_are_never_mixed_up_and_the_weight_is_kept() -> None:
    rng = random.Random(7)
    shelf, ends = Shelf(most_bytes=40_000), dict.fromkeys(range(60), 0)
    for _ in range(20_000):
        n = rng.randrange(60)
        if rng.random() < 0.3:
            ends[n] += 1
        # Now and then somebody still reads an earlier state, or another site has a machine of that name.
        seq = max(0, ends[n] - (rng.random() < 0.1))
        site, name = rng.choice(["a", "a", "b"]), rng.choice(["look 1", "look 2", "open"])
        found = shelf.at(site, unit(n, seq)).get(name)
        assert found is None or (found.machine, found.head) == (f"{site} m-{n}", f"{n}/{seq}")
        if found is not None:
            assert shelf.may_know(f"m-{n}", name)
        if rng.random() < 0.7:
            shelf.put(site, unit(n, seq), name, Thing(f"{site} m-{n}", f"{n}/{seq}", rng.choice([100, 900, 5_000])))
        held = sum(t.weight for kept in shelf._of.values() for t in kept.things.values())
        assert held == shelf._weight <= 40_000
    assert len(shelf) > 8


def test_a_thousand_machines_are_remembered_at_once() -> None:
    """Lost so: with the sixty-fifth machine a tap cost nine times as much, whoever came round to it."""
    shelf = Shelf()
    walk = MOST_BYTES // 1_000 - 30_000
    for n in range(1_000):
        shelf.put("a", unit(n, 3), "look 1", Thing(f"a m-{n}", f"{n}/3", walk))
    assert all(shelf.at("a", unit(n, 3)) for n in range(1_000))
