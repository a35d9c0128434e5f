"""What uncertain inputs leave of a result: first-order propagation of the gauges' errors."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

COVERAGE = 2.0
"""The range given is two standard deviations to either side, nineteen times in twenty (JCGM 100, from memory)."""


def spread(f: Callable[..., float], values: Sequence[float], sigmas: Sequence[float]) -> float:
    """Half the width of the range of f(values) when each value is off by its standard deviation.

    Parameters
    ----------
    f : the computation
    values : its inputs
    sigmas : one standard deviation of each, in its unit; 0 for what is exact

    Returns
    -------
    float
        Two standard deviations of the result, in its unit: sqrt(Σ (½(f(x+s) - f(x-s)))²)·2.

    >>> round(spread(lambda a, b: a + b, [1.0, 2.0], [0.3, 0.4]), 9)
    1.0
    """
    total = 0.0
    for n, sigma in enumerate(sigmas):
        if sigma == 0:
            continue
        up, down = list(values), list(values)
        up[n] += sigma
        down[n] -= sigma
        total += ((f(*up) - f(*down)) / 2) ** 2
    return COVERAGE * math.sqrt(total)
