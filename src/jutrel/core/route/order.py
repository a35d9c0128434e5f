"""The cheapest order in which to visit places when some must come before others: proven, not guessed.

Dynamic programming over the sets of places already visited, layer by layer, which is
exact, and keeps only states that can still beat the best order known. What it still
costs from a state is bounded from below by a minimum spanning tree of the places left.

References: Held, Karp (1962), "A dynamic programming approach to sequencing problems";
Held, Karp (1970, 1971), "The traveling-salesman problem and minimum spanning trees" for
the bound and the prices that sharpen it; Escudero (1988) for the problem with precedence.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

from jutrel.core.errors import BadInput

MOST_PLACES = 26
BEAMS = (40, 200, 1 << 40)
LONGEST_RUN = 8
FEW, ROUNDS_FEW, ROUNDS_MANY = 16, 24, 60
"""Sharper prices cost more than the few states that they save while there are few places."""
SLACK = 1e-9

Matrix = Sequence[Sequence[float]]


@dataclass(frozen=True, slots=True)
class Order:
    """The places in the order of the visit, what it costs, and how many states were looked at."""

    places: tuple[int, ...]
    cost: float
    states: int


@dataclass(slots=True)
class _Field:
    """The problem, prepared: costs, who must come before whom (as bits), and what the bound needs.

    The order ends at `end`, a real place if all others must come before it, else a
    place beyond the last one that costs nothing to reach.
    """

    cost: list[list[float]]
    before: list[int]
    after: list[int]
    start: int
    end: int
    weight: list[list[float]]
    """Symmetric costs; once sharpened, the prices of both places are added."""
    price: list[float]
    tilt: list[float]
    trees: dict[int, float]

    @property
    def size(self) -> int:
        return len(self.cost)


def _closed(before: Sequence[int]) -> list[int]:
    """Everything that must come before each place, directly or through others."""
    out = list(before)
    for _ in range(len(out)):
        grown = list(out)
        for place, bits in enumerate(out):
            rest = bits
            while rest:
                low = rest & -rest
                grown[place] |= out[low.bit_length() - 1]
                rest ^= low
        if grown == out:
            break
        out = grown
    for place, bits in enumerate(out):
        if bits >> place & 1:
            raise BadInput("before", "place {it} would have to come before itself", it=place)
    return out


def _tree(nodes: list[int], weight: list[list[float]]) -> tuple[float, list[tuple[int, int]]]:
    """A minimum spanning tree by Prim's method: its weight and its edges."""
    if len(nodes) < 2:
        return 0.0, []
    row = weight[nodes[0]]
    rest = nodes[1:]
    near = [row[v] for v in rest]
    mother = [nodes[0]] * len(rest)
    total, edges = 0.0, []
    while rest:
        least = min(near)
        at = near.index(least)
        node = rest.pop(at)
        near.pop(at)
        edges.append((mother.pop(at), node))
        total += least
        row = weight[node]
        for i, v in enumerate(rest):
            if row[v] < near[i]:
                near[i], mother[i] = row[v], node
    return total, edges


def _tree_weight(nodes: list[int], weight: list[list[float]]) -> float:
    """The weight of a minimum spanning tree alone: asked for often, so without its edges."""
    if len(nodes) < 2:
        return 0.0
    row, rest, total = weight[nodes[0]], nodes[1:], 0.0
    near = [row[v] for v in rest]
    while len(near) > 1:
        least = min(near)
        total += least
        at = near.index(least)
        row = weight[rest.pop(at)]
        del near[at]
        near = [old if old < (new := row[v]) else new for old, v in zip(near, rest)]  # noqa: B905
    return total + near[0]


def _prepare(cost: Matrix, before: Sequence[int], start: int) -> _Field:
    n = len(cost)
    closed = _closed(before)
    plain = [[float(x) for x in row] for row in cost]
    others = ((1 << n) - 1) & ~(1 << start)
    end = next((j for j in range(n) if j != start and closed[j] | 1 << j | 1 << start == others | 1 << start), n)
    if end == n:
        plain = [[*row, 0.0] for row in plain] + [[math.inf] * n + [0.0]]
        closed.append(others)
        n += 1
    after = [sum(1 << j for j in range(n) if closed[j] >> i & 1) for i in range(n)]
    # A climb costs more up than down. What such differences add to an order depends on its two
    # ends only, so most of them can be taken out, and the rest is nearly symmetric, as the bound
    # wants it. Any tilt is right; a good one makes the two directions alike.
    tilt = [0.0] * n
    for j in range(n):
        if j in (start, end):
            continue
        gaps = [
            plain[i][j] - plain[j][i]
            for i in range(n)
            if i != end and i != j and math.isfinite(plain[i][j]) and math.isfinite(plain[j][i])
        ]
        tilt[j] = sum(gaps) / len(gaps) if gaps else 0.0
    weight = [[math.inf] * n for _ in range(n)]
    for i in range(n):
        for j in range(n):
            # i can be followed directly by j only if j need not come before i and nothing must come between.
            if i in (j, end) or j == start or closed[i] >> j & 1 or after[i] & closed[j]:
                continue
            step = plain[i][j] - (tilt[j] - tilt[i]) / 2
            weight[i][j] = min(weight[i][j], step)
            weight[j][i] = min(weight[j][i], step)
    return _Field(plain, closed, after, start, end, weight, [0.0] * n, tilt, {})


def _sharpen(field: _Field, target: float) -> None:
    """Prices that push the spanning tree towards a path: dear where it branches, cheap where it ends.

    The tree spans the places between first and last; these two hang on by one step each.
    """
    n, start, end, base = field.size, field.start, field.end, field.weight
    inner = [i for i in range(n) if i not in (start, end)]
    if not inner:
        return
    price = [0.0] * n
    best, kept = -math.inf, price
    step, stale = 2.0, 0
    for _ in range(ROUNDS_FEW if n <= FEW else ROUNDS_MANY):
        weight = [[w + price[i] + p for w, p in zip(row, price, strict=True)] for i, row in enumerate(base)]
        total, edges = _tree(inner, weight)
        first = min(inner, key=weight[start].__getitem__)
        final = min(inner, key=weight[end].__getitem__)
        bound = total + weight[start][first] + weight[end][final] - 2 * sum(price)
        bound -= (field.tilt[start] - field.tilt[end]) / 2
        if bound > best + 1e-9:
            best, kept, stale = bound, price, 0
        else:
            stale += 1
            if stale >= 4:
                step, stale = step * 0.6, 0
        miss = [0] * n
        for i in inner:
            miss[i] = -2
        for i, j in [*edges, (first, start), (final, end)]:
            miss[i] += 1
            miss[j] += 1
        miss[start] = miss[end] = 0
        size = sum(m * m for m in miss)
        if size == 0 or best >= target - SLACK:
            break
        length = step * max(target - bound, target * 0.01, 1e-9) / size
        price = [p + length * m for p, m in zip(price, miss, strict=True)]
    field.price = kept
    field.weight = [[w + kept[i] + p for w, p in zip(row, kept, strict=True)] for i, row in enumerate(base)]


def _rest(field: _Field, left: int) -> float:
    """A lower bound on visiting all of `left` and then the end, without the way to its first place."""
    known = field.trees.get(left)
    if known is None:
        nodes = [i for i in range(field.size) if left >> i & 1 and i != field.end]
        total = _tree_weight(nodes, field.weight)
        row = field.weight[field.end]
        final = min([row[i] for i in nodes if not field.after[i] & left & ~(1 << field.end)], default=0.0)
        known = total + final - 2 * sum([field.price[i] for i in nodes]) + field.tilt[field.end] / 2
        field.trees[left] = known
    return known


def _bound(field: _Field, last: int, left: int) -> float:
    """A lower bound on what it costs from `last` through all of `left`."""
    if not left:
        return 0.0
    row, least, bits = field.weight[last], math.inf, left
    before = field.before
    while bits:
        low = bits & -bits
        j = low.bit_length() - 1
        if row[j] < least and not before[j] & left:
            least = row[j]
        bits ^= low
    return least - field.price[last] - field.tilt[last] / 2 + _rest(field, left)


Layer = dict[tuple[int, int], tuple[float, int]]


@dataclass(slots=True)
class _Found:
    way: list[int] | None
    cost: float
    states: int
    complete: bool
    """Whether no state was left out that could have been cheaper: then nothing cheaper exists."""


def _search(field: _Field, limit: float, beam: int) -> _Found:
    """The cheapest order below `limit`, layer by layer, keeping the `beam` most promising states of each."""
    n, cost, before = field.size, field.cost, field.before
    whole = (1 << n) - 1
    layers: list[Layer] = [{(1 << field.start, field.start): (0.0, -1)}]
    trees = field.trees
    floor = [min(row) - p - t / 2 for row, p, t in zip(field.weight, field.price, field.tilt, strict=True)]
    states, complete = 1, True
    for _ in range(n - 1):
        fresh: Layer = {}
        for (seen, last), (so_far, _) in layers[-1].items():
            row, bits = cost[last], whole & ~seen
            while bits:
                low = bits & -bits
                bits ^= low
                j = low.bit_length() - 1
                if before[j] & ~seen:
                    continue
                total = so_far + row[j]
                if total >= limit:
                    continue
                key = (seen | low, j)
                known = fresh.get(key)
                if known is None or total < known[0]:
                    fresh[key] = (total, last)
        ranked = []
        for key, value in fresh.items():
            left = whole & ~key[0]
            # With the cheapest step of all instead of the cheapest that is allowed: often enough to let it go.
            rest = trees.get(left)
            if rest is not None and value[0] + floor[key[1]] + rest >= limit - SLACK:
                continue
            least = value[0] + _bound(field, key[1], left)
            if least < limit - SLACK:
                ranked.append((least, key))
        if len(ranked) > beam:
            ranked.sort()
            del ranked[beam:]
            complete = False
        if not ranked:
            return _Found(None, limit, states, complete)
        states += len(ranked)
        layers.append({key: fresh[key] for _, key in ranked})
    (seen, last), (total, _) = min(layers[-1].items(), key=lambda kv: kv[1][0])
    way = [last]
    for layer in reversed(layers[1:]):
        _, came = layer[seen, last]
        seen, last = seen ^ (1 << last), came
        way.append(last)
    return _Found(way[::-1], total, states, complete)


def _nearest(field: _Field) -> list[int] | None:
    """Always on to the nearest place that may come next."""
    way, seen = [field.start], 1 << field.start
    while len(way) < field.size:
        row = field.cost[way[-1]]
        free = [j for j in range(field.size) if not seen >> j & 1 and not field.before[j] & ~seen]
        nearest = min(free, key=row.__getitem__, default=-1)
        if nearest < 0 or not math.isfinite(row[nearest]):
            return None
        way.append(nearest)
        seen |= 1 << nearest
    return way


def _allowed(field: _Field, way: list[int]) -> bool:
    seen = 0
    for place in way:
        if field.before[place] & ~seen:
            return False
        seen |= 1 << place
    return True


def _first(field: _Field) -> list[int] | None:
    """An order to begin with: as the places were given, if that may be, else on to the nearest.

    Somebody's own lap is often nearly right, and the better the first order, the fewer states are looked at.
    """
    given = [field.start, *(i for i in range(field.size) if i not in (field.start, field.end)), field.end]
    if _allowed(field, given) and all(math.isfinite(field.cost[a][b]) for a, b in itertools.pairwise(given)):
        return given
    return _nearest(field)


def _moved(field: _Field, way: list[int]) -> list[int] | None:
    """The order with one run of places moved, as it is or turned round, if that makes it cheaper."""
    cost, n = field.cost, len(way)
    for i in range(1, n):
        for j in range(i + 1, min(n, i + LONGEST_RUN) + 1):
            run, rest = way[i:j], way[:i] + way[j:]
            forth = sum(cost[a][b] for a, b in itertools.pairwise(run))
            back = sum(cost[b][a] for a, b in itertools.pairwise(run))
            saved = cost[way[i - 1]][way[i]] + forth
            if j < n:
                saved += cost[way[j - 1]][way[j]] - cost[way[i - 1]][way[j]]
            if saved - min(forth, back) <= 1e-6:
                continue  # it lies on the way: nothing is saved by moving it
            for head, tail, inner, turned in ((run[0], run[-1], forth, run), (run[-1], run[0], back, run[::-1])):
                for k in range(1, len(rest) + 1):
                    added = cost[rest[k - 1]][head] + inner
                    if k < len(rest):
                        added += cost[tail][rest[k]] - cost[rest[k - 1]][rest[k]]
                    if added < saved - 1e-6:
                        new = rest[:k] + turned + rest[k:]
                        if _allowed(field, new):
                            return new
    return None


def _improved(field: _Field, way: list[int]) -> tuple[list[int], float]:
    """Moves runs of places as long as that makes the order cheaper."""
    while (new := _moved(field, way)) is not None:
        way = new
    return way, sum(field.cost[a][b] for a, b in itertools.pairwise(way))


def best_order(cost: Matrix, before: Sequence[int], start: int = 0) -> Order:
    """The cheapest order that visits every place once, beginning at `start`.

    Parameters
    ----------
    cost
        Square matrix: what it costs to go from one place directly to another; infinite if there is no way.
    before
        For each place the set of places that must be visited before it, as bits.
    start
        The place that is visited first.

    Returns
    -------
    Order
        Of least cost among all orders that keep to `before`; no other is cheaper.

    Raises
    ------
    BadInput
        If there are too many places, or no order keeps to `before`.

    >>> best_order([[0, 1, 5], [1, 0, 1], [5, 1, 0]], [0, 0b100, 0]).places
    (0, 2, 1)
    """
    n = len(cost)
    if not 1 <= n <= MOST_PLACES:
        raise BadInput("cost", "{n} places; between 1 and {most} can be ordered", n=n, most=MOST_PLACES)
    if n == 1:
        return Order((start,), 0.0, 1)
    field = _prepare(cost, [bits & ~(1 << start) if i != start else bits for i, bits in enumerate(before)], start)
    if field.before[start]:
        raise BadInput("start", "another place must come before the one to start at")
    way, best, looked = None, math.inf, 0
    if (first := _first(field)) is not None:
        way, best = _improved(field, first)
        _sharpen(field, best)
    for beam in BEAMS:
        found = _search(field, best, beam)
        looked += found.states
        if found.way is not None:
            way, best = (found.way, found.cost) if found.complete else _improved(field, found.way)
        if found.complete:
            break
    if way is None:
        raise BadInput("cost", "no order reaches every place")
    return Order(tuple(p for p in way if p < n), best, looked)
