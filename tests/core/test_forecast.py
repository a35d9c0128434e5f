"""When a machine reaches so many hours, held against a general statistics library and against common sense."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import theilslopes

from jutrel.core.machine.forecast import daily, when_at

START = datetime(2026, 5, 4, 6, tzinfo=UTC)
runs = st.lists(st.floats(0, 20), min_size=4, max_size=25)


def readings(per_day: list[float]) -> list[tuple[datetime, float]]:
    out, total = [], 1000.0
    for day, hours in enumerate(per_day):
        out.append((START + timedelta(days=day), total))
        total += hours
    return out


@given(runs)
def test_the_middle_is_the_slope_of_theil_and_sen(per_day: list[float]) -> None:
    """SciPy, theilslopes: the median of the slopes between all pairs."""
    found = daily(readings(per_day))
    points = readings(per_day)
    slope = theilslopes([h for _, h in points], [(t - START) / timedelta(days=1) for t, _ in points]).slope
    assert found is not None
    assert found[0] == pytest.approx(slope, abs=1e-6)
    assert found[1] <= found[0] <= found[2]


@given(runs, st.floats(0, 300))
def test_the_date_lies_in_its_range_and_never_in_the_past(per_day: list[float], ahead: float) -> None:
    run = readings(per_day)
    now = run[-1][0] + timedelta(hours=5)
    found = when_at(run[-1][1] + ahead, run, now)
    if found is None:
        rate = daily(run)
        if rate is not None and rate[0] > 0:
            last, soonest = (ahead / rate[1] if rate[1] > 0 else 3650.0), ahead / rate[2]
            assert last - soonest > 13, "a range of two weeks or less is told"
        return
    assert now <= found.earliest <= found.likely <= found.latest


def test_one_wrong_reading_hardly_moves_it() -> None:
    run = readings([8.0] * 12)
    wrong = [*run[:5], (run[5][0], run[5][1] + 70.0), *run[6:]]
    right, moved = when_at(1150.0, run, run[-1][0]), when_at(1150.0, wrong, run[-1][0])
    assert right is not None
    assert moved is not None
    assert abs(right.likely - moved.likely) < timedelta(days=1)


def test_who_knows_too_little_says_nothing() -> None:
    assert when_at(1100.0, readings([8.0, 8.0]), START) is None
    same_day = [(START + timedelta(hours=h), 1000.0 + h) for h in range(4)]
    assert daily(same_day) is None
    assert when_at(1100.0, readings([0.0] * 9), START) is None  # it stands still
