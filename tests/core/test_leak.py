"""Leaks against the trade's drop chart."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jutrel.core.errors import BadInput
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.leak import Coupling, LeakClass, drop_rate, leak_reading

US_GALLON_L = 3.785411784


@pytest.mark.parametrize(("drops", "seconds", "gallons_a_day"), [(1, 10, 0.1125), (1, 1, 1.125), (60, 60, 1.125)])
def test_drop_chart(drops: float, seconds: float, gallons_a_day: float) -> None:
    # Trade leak chart, from memory: a drop in ten seconds is 0.1125 US gal a day, a drop a second 1.125.
    assert drop_rate(drops, seconds) * 24 / US_GALLON_L == pytest.approx(gallons_a_day, rel=0.01)


@given(st.floats(1, 300), st.floats(5, 120), st.floats(0.1, 300), st.floats(0.5, 14))
def test_hours_are_reserve_over_rate(drops: float, seconds: float, reserve: float, shift: float) -> None:
    read = leak_reading(LeakClass.III, reserve, shift, drops, seconds)
    assert read.hours_to_add == pytest.approx(reserve / (drops / seconds * 3.6 * 0.049))
    assert read.hours_low is not None
    assert read.hours_high is not None
    assert read.hours_low < read.hours_to_add < read.hours_high
    assert (read.judgement.band is Band.STOP) == (read.hours_to_add < shift)


def test_twice_the_shift() -> None:
    tight = leak_reading(LeakClass.III, 2.0, 10, drops=48, seconds=60)  # 0.141 L/h: 14 h
    assert tight.judgement.band is Band.ACT
    assert "too little to spare" in str(tight.judgement.action)


def test_flat_face_is_never_tightened() -> None:
    for leak_class in (LeakClass.I, LeakClass.II, LeakClass.III):
        read = leak_reading(leak_class, 36, 10, coupling=Coupling.FLAT_FACE)
        assert "Tightening will not seal it" in str(read.judgement.action)


def test_without_a_count_there_is_no_rate() -> None:
    assert leak_reading(LeakClass.III, 36, 10).rate is None
    assert leak_reading(LeakClass.I, 36, 10, drops=3, seconds=60).rate is None
    assert leak_reading(LeakClass.III, None, 10, drops=3, seconds=60).hours_to_add is None


@pytest.mark.parametrize(
    ("field", "value"), [("drops", -1), ("drops", float("nan")), ("seconds", 0), ("shift_hours", 25), ("reserve", -1)]
)
def test_bad_input(field: str, value: float) -> None:
    good = {"reserve": 5.0, "shift_hours": 10.0, "drops": 6.0, "seconds": 60.0}
    with pytest.raises(BadInput, match=field):
        leak_reading(LeakClass.III, **{**good, field: value})
