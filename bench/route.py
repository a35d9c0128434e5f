"""The route planner against OR-Tools on the same instances, against going to the nearest, and as stations grow."""

from __future__ import annotations

import random
import statistics
import time
from collections.abc import Callable, Sequence

from jutrel.catalog import catalog
from jutrel.core.machine.model import walk_for, walk_of
from jutrel.core.route.ground import Ground
from jutrel.core.route.order import best_order
from jutrel.core.route.plan import Lap, Wishes, all_rules, before_bits, plan_route
from tests.core.reference import layout, nearest_neighbour, proven_optimum, step_costs

ROUNDS = 21


def timed(work: Callable[[], object], rounds: int = 1) -> float:
    """The median time [ms]."""
    took = []
    for _ in range(rounds):
        start = time.perf_counter()
        work()
        took.append((time.perf_counter() - start) * 1000)
    return statistics.median(took)


def milliseconds(seconds: Sequence[Sequence[float]]) -> list[list[int]]:
    return [[round(1000 * x) for x in row] for row in seconds]


def models() -> None:
    print("\nEvery model with all its options, before the shift; the same matrix for both.")
    print(f"Times in ms, least of {ROUNDS} rounds; the ratio is the median of the rounds, one after the other in each.")
    print(
        f"{'':14}{'stations':>9}{'plan all':>10}{'order':>8}{'OR-Tools':>10}{'ratio':>7}{'equal':>7}"
        f"{'walking s':>11}{'nearest s':>11}{'costs s':>9}"
    )
    ratios, whole, extra = [], [], []
    for model in catalog().models.values():
        walk = walk_for(walk_of(model, frozenset(model.options)), catalog().kinds["pre-start"], {})
        lap = Lap(walk)
        stations = [s.id for s in walk.stations]
        cost = milliseconds(lap.matrix(stations))
        before = before_bits(stations, all_rules(walk, Wishes()))
        # The whole plan: ways round the machine, matrix, rules, order; nothing kept from before.
        # Round about, and the least of each: what else the machine does only ever adds.
        took: list[list[float]] = [[], [], []]
        for _ in range(ROUNDS):
            took[0].append(timed(lambda walk=walk: plan_route(walk, lap=_fresh(walk)), 1))  # type: ignore[misc]
            took[1].append(timed(lambda cost=cost, before=before: best_order(cost, before), 1))  # type: ignore[misc]
            took[2].append(timed(lambda cost=cost, before=before: proven_optimum(cost, before), 1))  # type: ignore[misc]
        planned, ours, theirs = (min(t) for t in took)
        ratio = statistics.median(b / a for a, b in zip(took[1], took[2], strict=True))
        best = best_order(cost, before).cost
        equal = best == proven_optimum(cost, before)
        nearest = nearest_neighbour(cost, before) / 1000
        ratios.append(ratio)
        whole.append(planned)
        extra.append(nearest - best / 1000)
        print(
            f"{model.id:14}{len(stations):9}{planned:10.1f}{ours:8.2f}{theirs:10.1f}{ratio:7.1f}"
            f"{'yes' if equal else 'NO':>7}{best / 1000:11.1f}{nearest:11.1f}{extra[-1]:9.1f}"
        )
    print(
        f"slowest plan {max(whole):.1f} ms (target 150); least ratio {min(ratios):.1f} (target 5); "
        f"nearest-neighbour costs up to {max(extra):.0f} s more, {statistics.mean(extra):.0f} s on average"
    )


def _fresh(walk: object) -> Lap:
    """A lap measured anew, past the cache of grounds."""
    from jutrel.core.route import plan

    plan._ground.cache_clear()
    return Lap(walk)  # type: ignore[arg-type]


def growth(per_size: int = 8) -> None:
    print(
        f"\nRandom layouts, {per_size} of each size. Order alone, ms; OR-Tools on the same figures up to 20 stations."
    )
    print(f"{'stations':>9}{'least':>9}{'median':>9}{'most':>9}{'OR-Tools':>10}{'nearest costs s':>17}")
    for stations in (8, 10, 12, 14, 16, 18, 20, 22, 25):
        took, theirs, extra = [], [], []
        for seed in range(per_size):
            obstacles, places, climb, before = layout(stations, random.Random(5000 + 100 * stations + seed))
            ways = Ground([tuple(o) for o in obstacles]).ways(places)
            cost = milliseconds(step_costs(ways, climb))
            took.append(timed(lambda cost=cost, before=before: best_order(cost, before), 1))  # type: ignore[misc]
            best = best_order(cost, before).cost
            extra.append((nearest_neighbour(cost, before) - best) / 1000)
            if stations <= 20 and seed < 4:
                theirs.append(timed(lambda cost=cost, before=before: proven_optimum(cost, before), 1))  # type: ignore[misc]
        other = f"{statistics.median(theirs):10.0f}" if theirs else f"{'-':>10}"
        print(
            f"{stations:9}{min(took):9.1f}{statistics.median(took):9.1f}{max(took):9.1f}{other}{statistics.mean(extra):17.1f}"
        )
