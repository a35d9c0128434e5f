"""A robust straight line through a machine's earlier readings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from math import sqrt


@dataclass(frozen=True, slots=True)
class Trend:
    """A slope per unit of x, its 95 % confidence band, and the line's value at x = 0."""

    slope: float
    low: float
    high: float
    intercept: float


def trend(x: Sequence[float], y: Sequence[float]) -> Trend | None:
    """The Theil-Sen slope and its band (Sen 1968, by Kendall's variance without ties in y).

    None for fewer than three points or no two different x. One wild value does not move it.

    >>> t = trend([0, 100, 200, 300], [10, 11, 12, 40])
    >>> round(t.slope, 3)
    0.055
    """
    slopes = sorted((y[b] - y[a]) / (x[b] - x[a]) for a, b in combinations(range(len(x)), 2) if x[a] != x[b])
    if len(x) < 3 or not slopes:
        return None
    n, total = len(x), len(slopes)
    middle = _median(slopes)
    sigma = sqrt(n * (n - 1) * (2 * n + 5) / 18)
    # The ranks of Sen's band, rounded outward so that it is never too narrow.
    reach = 1.959963984540054 * sigma
    low = slopes[max(0, int((total - reach) / 2))]
    high = slopes[min(total - 1, int((total + reach) / 2 + 1))]
    intercept = _median(sorted(b - middle * a for a, b in zip(x, y, strict=True)))
    return Trend(middle, low, high, intercept)


def _median(ordered: Sequence[float]) -> float:
    n = len(ordered)
    return ordered[n // 2] if n % 2 else (ordered[n // 2 - 1] + ordered[n // 2]) / 2
