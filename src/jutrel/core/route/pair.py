"""Two people share a walk: each their own stations, done at the same time, by the same rules."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import lru_cache

from jutrel.core.machine.family import Level
from jutrel.core.machine.model import Walk
from jutrel.core.route.order import best_order
from jutrel.core.route.plan import Lap, Leg, Route, Wishes, all_rules, before_bits, plan_route
from jutrel.core.route.precedence import ComesBefore

Share = frozenset[int]


def _groups(stations: Sequence[str], rules: Sequence[ComesBefore], apart: set[str]) -> list[tuple[str, ...]]:
    """Stations that one person must do, because one of them waits for another: joined by the rules."""
    mother = {s: s for s in stations}

    def root(s: str) -> str:
        while mother[s] != s:
            s = mother[s]
        return s

    for rule in rules:
        if rule.first in mother and rule.then in mother and not {rule.first, rule.then} & apart:
            mother[root(rule.then)] = root(rule.first)
    joined: dict[str, list[str]] = {}
    for s in stations:
        joined.setdefault(root(s), []).append(s)
    return [tuple(group) for group in joined.values()]


def fairest(groups: int, start: Share, time_of: Callable[[Share], float]) -> tuple[Share, float]:
    """The first person's share, improved from `start` by moving and swapping groups until none helps.

    >>> weights = (5, 3, 2, 2)
    >>> share, longest = fairest(4, frozenset({0, 1, 2}), lambda s: sum(weights[i] for i in s))
    >>> longest
    7
    """
    whole = frozenset(range(groups))

    def longest(share: Share) -> tuple[float, float]:
        a, b = time_of(share), time_of(whole - share)
        return max(a, b), a + b

    best, score = start, longest(start)
    while True:
        near = [best ^ {i} for i in whole] + [best ^ {i, j} for i in best for j in whole - best]
        scored = min(((longest(s), sorted(s)) for s in near), default=(score, sorted(best)))
        if scored[0] >= (score[0] - 1e-9, -math.inf):
            return best, score[0]
        best, score = frozenset(scored[1]), scored[0]


def plan_pair(walk: Walk, wishes: Wishes) -> tuple[Route, Route]:
    """A fair split between two people, each walking the shortest way through their own share.

    Both see the approach. What the rules tie together one person does. The cab waits
    until both are done; whoever is there sooner climbs in. The split is the best that moving
    or swapping groups of stations can find; each person's order is the proven shortest.
    """
    wishes = replace(wishes, pin_start=None, direction=None)  # two go two ways round
    solo = plan_route(walk, wishes)
    lap = Lap(walk, wishes.beside)
    rules = all_rules(walk, wishes)
    start = wishes.here or lap.stations[0]
    level = {s.id: s.level for s in walk.stations}
    order = [leg.station for leg in solo.legs if leg.station != start]
    last = [s for s in order if level[s] is Level.CAB]
    shared = [s for s in order if s not in last]
    # That something is blocked puts it last in somebody's way; it ties it to nobody.
    binding = all_rules(walk, replace(wishes, blocked=frozenset()))
    groups = _groups(shared, binding, {start, *last})

    @lru_cache(maxsize=4096)
    def route(share: Share) -> tuple[tuple[str, ...], float]:
        stations = [start, *(s for g in sorted(share) for s in groups[g])]
        kept = [r for r in rules if r.then != start and r.first != start and r.first not in wishes.done]
        found = best_order(lap.matrix(stations), before_bits(stations, kept))
        way = tuple(stations[i] for i in found.places)
        return way, found.cost + sum(lap.look[s] for s in way if s != start)

    # Begin with the lap cut where both halves take about as long, then let groups change hands.
    cut, half, sofar = set[int](), sum(lap.look[s] for s in shared) / 2, 0
    at = {s: i for i, g in enumerate(groups) for s in g}
    for s in shared:
        if at[s] not in cut and sofar < half:
            cut.add(at[s])
            sofar += sum(lap.look[x] for x in groups[at[s]])
    share, _ = fairest(len(groups), frozenset(cut), lambda s: route(s)[1])
    ways = [route(share), route(frozenset(range(len(groups))) - share)]
    ends = [w[0][-1] for w in ways]
    first = 0 if ways[0][1] <= ways[1][1] else 1  # done sooner: is there to climb in
    closer = min((0, 1), key=lambda p: (sum(lap.leg(ends[p], s).seconds for s in last[:1]), p != first))
    return (
        _route(lap, solo, ways[0][0], last if closer == 0 else [], start, wishes),
        _route(lap, solo, ways[1][0], last if closer == 1 else [], start, wishes),
    )


def _route(lap: Lap, solo: Route, way: Sequence[str], last: Sequence[str], start: str, wishes: Wishes) -> Route:
    legs: list[Leg] = []
    before = start
    for station in (*way, *last):
        if station == start and start in wishes.done:
            continue
        legs.append(replace(lap.leg(before, station), blocked=station in wishes.blocked))
        before = station
    return Route(
        tuple(legs), sum(x.seconds for x in legs), sum(x.look_s for x in legs), solo.rules, solo.unreached, solo.states
    )
