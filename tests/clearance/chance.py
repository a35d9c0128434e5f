"""Histories that chance makes: people, tablets with and without signal, clocks, a unit and rules that change."""

from __future__ import annotations

import random

from tests.clearance.oracle import Act
from tests.clearance.world import Asked, made

OPERATORS = ("Mira", "Osk")
EVENTS = ("struck", "slid", "tipped")


def history(seed: int) -> tuple[list[Act], list[Asked]]:
    """A history of some eight acts between five and ten the next morning, and six questions."""
    rng = random.Random(seed)
    acts: list[Act] = []
    when, hours = 300 + rng.randrange(0, 90), 100.0
    # Seldom is everything wrong at once: most days know one or two kinds of trouble.
    trouble = rng.sample(list(TROUBLE), rng.choice((0, 1, 1, 2, 3)))
    for _ in range(rng.randint(3, 10)):
        kind = rng.choice(["walk", "walk", "walk", "short", *trouble, *trouble])
        acts += _acts(kind, rng, when, acts, hours)
        when += rng.choice((15, 20, 35, 60, 120, 240))
        hours += rng.choice((0, 0.5, 1, 3))
    asked = []
    for _ in range(6):
        t = rng.randrange(acts[0].when, when + 200) // 5 * 5 + 2
        asked.append(Asked(t, rng.choice(OPERATORS), False, False))
    return acts, asked


TROUBLE = ("hold", "limit", "unseen", "incident", "done", "file", "lock", "late", "clock", "leaves", "rules", "end",
           "meter", "out")  # fmt: skip


def _acts(kind: str, rng: random.Random, when: int, before: list[Act], hours: float) -> list[Act]:
    who = rng.choice(OPERATORS)

    def act(person: str, what: str, on: str = "", late: int = 0, after: int = 0, **more: object) -> Act:
        t = when + after
        return made(t, person, what, on, t + late, before, hours=hours, **more)  # type: ignore[arg-type]

    match kind:
        case "walk":
            return [act(who, "whole", signed=when + rng.choice((10, 10, 10, 700)))]
        case "short":
            return [act(who, "short")]
        case "hold":
            out = [act(who, "whole", hold="boom", unsigned=rng.random() < 0.4)]
            if rng.random() < 0.7:
                out.append(act("Dag", "releases", "boom", late=rng.choice((0, 0, 30)), after=12))
                if rng.random() < 0.3:
                    out.append(act("Dag", "signs-out", after=rng.choice((1, 13, 14))))
                out.append(act(rng.choice(("Osk", "Dag", "Mira")), "checks", "boom", after=rng.choice((13, 50))))
            return out
        case "limit":
            on = rng.choice(("links", "horn"))
            out = [act(who, "whole", limit=on)]
            if rng.random() < 0.7:
                out.append(act("Pell", "accepts", on, after=12))
            return out
        case "unseen":
            return [act(who, "whole", unseen=rng.choice(("lock", "boom")), unsigned=rng.random() < 0.5)]
        case "incident":
            out = [act(rng.choice(("Mira", "Osk", "Dag")), "incident", rng.choice(EVENTS), late=rng.choice((0, 0, 90)))]
            if rng.random() < 0.6:
                out.append(act(rng.choice(("Dag", "Pell")), "examines", after=100))
            return out
        case "done":
            return [act("Dag", "done", rng.choice(("hot-work", "serviced", "moved")), late=rng.choice((0, 60)))]
        case "file":
            return [act("Pell", "fits", "coupler")]
        case "leaves":
            return [act("Pell", "sends-off"), act("Pell", "takes-back", after=rng.choice((5, 200)))]
        case "lock":
            return [act("Dag", "locks"), act("Dag", "unlocks", after=rng.choice((5, 90)))]
        case "late":
            return [act(who, "whole", late=rng.choice((30, 120, 400)))]
        case "clock":
            return [act(who, "signs-in"), act(who, "whole", after=rng.choice((5, 60)), clock=False)]
        case "rules":
            return [act("Rolf", "rules", rng.choice(("strict", "house")))]
        case "end":
            return [act(who, "end")]
        case "meter":
            return [made(when, who, "stop", "", when, before, hours=hours + rng.choice((2, 12)))]
        case "out":
            return [act(who, "whole"), act(who, "signs-out", after=rng.choice((5, 15)))]
    raise AssertionError(kind)
