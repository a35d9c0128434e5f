"""What holds for every reading in the list: it refuses what cannot be, says why, and its range holds its value."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from jutrel.catalog import catalog
from jutrel.core.errors import BadInput
from jutrel.core.reading.all import READINGS, Listed, run
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.registry import Input
from jutrel.core.reading.spread import spread

ALL = sorted(READINGS)
BOOK = catalog().rulebook


def values(one: Input) -> st.SearchStrategy[Any]:
    """Anything that an input takes."""
    if one.choices:
        return st.sampled_from(one.choices)
    if one.flag:
        return st.booleans()
    low, high = one.given.low, one.given.high
    figure: st.SearchStrategy[Any] = st.floats(low, high, allow_nan=False)
    if one.given.whole:
        figure = st.integers(math.ceil(low), math.floor(high))
    if one.given.many:
        return st.lists(figure, min_size=one.given.many[0], max_size=min(12, one.given.many[1]))
    return figure


@st.composite
def inputs(draw: st.DrawFn, listed: Listed) -> dict[str, Any]:
    """Near the example: some inputs as there, others anything that can be."""
    out = dict(listed.example)
    for one in listed.inputs:
        if draw(st.booleans()):
            out[one.key] = draw(values(one))
    return out


@pytest.mark.parametrize("key", ALL)
def test_its_example_runs_and_says_what_to_do(key: str) -> None:
    listed = READINGS[key]
    reading = run(key, listed.example)
    assert reading.judgement.band is not Band.REFUSED
    assert str(reading.judgement.action)
    assert str(reading.judgement.why)
    assert listed.sources
    assert listed.summary.endswith((".", "?"))
    assert set(listed.example) <= {i.key for i in listed.inputs}
    assert {i.key for i in listed.inputs if i.needed} <= set(listed.example)


@pytest.mark.parametrize("key", ALL)
@given(data=st.data())
@settings(max_examples=60, deadline=None)
def test_whatever_can_be_given_comes_out_as_figures_and_a_judgement(key: str, data: st.DataObject) -> None:
    given_ = data.draw(inputs(READINGS[key]))
    try:
        reading = run(key, given_)
    except BadInput as error:
        named = error.field.split(".")[0]
        assert named in {i.key for i in READINGS[key].inputs}
        return
    figures = [x for x in (reading.value, reading.low, reading.high, *reading.more.values()) if x is not None]
    figures += [f.value for f in reading.judgement.figures]
    assert not any(math.isnan(x) for x in figures), reading
    if reading.value is not None and reading.low is not None and reading.high is not None:
        slack = 1e-9 * max(1.0, abs(reading.value))
        assert reading.low - slack <= reading.value <= reading.high + slack, reading
    if reading.judgement.band is Band.REFUSED:
        assert reading.finding is None
        assert reading.value is None
    if reading.finding:
        mode, attributes = reading.finding
        assert mode in BOOK.modes, mode
        assert mode in READINGS[key].modes, mode
        for name, value in attributes.items():
            attribute = BOOK.attributes[name]
            assert name in BOOK.modes[mode].attributes, name
            assert not attribute.choices or value in {c.id for c in attribute.choices}, value


@pytest.mark.parametrize("key", ALL)
def test_what_cannot_be_is_refused_with_its_field(key: str) -> None:
    listed = READINGS[key]
    for one in listed.inputs:
        wrong: list[Any] = [float("nan"), float("inf"), "a lot", None if one.needed else -math.inf]
        if not one.choices and not one.flag:
            wrong += [one.given.low - 1, one.given.high + 1, True]
            wrong += [one.given.low + 0.5] if one.given.whole else []
        if one.given.many:
            wrong = [[w] * one.given.many[0] for w in wrong if w is not None] + [[], 5.0]
            if one.given.many[0] == 0:
                wrong = [w for w in wrong if w != []]
                wrong = [[float("nan")], [one.given.high + 1], 5.0]
        for value in wrong:
            with pytest.raises(BadInput) as refused:
                run(key, {**listed.example, one.key: value})
            assert refused.value.field.split(".")[0] == one.key, (one.key, value)
    with pytest.raises(BadInput):
        run(key, {**listed.example, "unheard-of": 1})
    for one in listed.inputs:
        if one.needed:
            with pytest.raises(BadInput, match=one.key):
                run(key, {k: v for k, v in listed.example.items() if k != one.key})


# Physics that runs one way: reading, input, and whether the value rises with it.
ONE_WAY = [
    ("tyre-pressure", "pressure", True),
    ("tyre-pressure", "tyre_c", False),
    ("tyre-loss", "now", False),
    ("leak-drops", "drops", True),
    ("leak-drops", "seconds", False),
    ("leak-mark", "parked_h", False),
    ("tank-volume", "height", True),
    ("oil-viscosity", "oil_c", False),
    ("coolant-freeze", "mass", False),
    ("coolant-boil", "altitude", False),
    ("battery-volts", "volts", True),
    ("air-restriction", "altitude", True),
    ("fuel-shift", "shift_hours", False),
    ("fuel-water", "humidity", True),
    ("fuel-water", "empty", True),
    ("exhaust-fluid", "fuel_burn", False),
    ("service-brake", "distance", False),
    ("service-brake", "weight", True),
    ("travel-alarm", "listener", False),
    ("warm-up", "air_c", False),
    ("cool-down", "turbo_c", True),
    ("cylinder-drift", "minutes", False),
    ("belt-deflection", "deflection", True),
    ("wear", "left", False),
]


@pytest.mark.parametrize(("key", "name", "rises"), ONE_WAY)
@given(data=st.data())
@settings(max_examples=30, deadline=None)
def test_physics_runs_one_way(key: str, name: str, rises: bool, data: st.DataObject) -> None:
    listed = READINGS[key]
    one = listed.input(name)
    assert one is not None
    high = min(one.given.high, 60.0) if name == "mass" else one.given.high
    high = min(high, 0.8) if key == "tank-volume" else high
    high = listed.example["new"] if key == "wear" else high  # thicker than new is refused
    pick = (lambda x, y: st.integers(int(x), int(y))) if one.given.whole else st.floats
    a = data.draw(pick(one.given.low, high))
    b = data.draw(pick(a, high))
    first, second = run(key, {**listed.example, name: a}), run(key, {**listed.example, name: b})
    assume(first.value is not None and second.value is not None)
    assert first.value is not None
    assert second.value is not None
    low, more = (first.value, second.value) if rises else (second.value, first.value)
    assert low <= more + 1e-8 * max(1.0, abs(more))


@given(st.floats(0.1, 10), st.floats(0.1, 1))
def test_a_narrower_gauge_leaves_a_narrower_range(sigma: float, share: float) -> None:
    wide = spread(lambda a, b: a * b, [30.0, 4.0], [sigma, 0.5])
    narrow = spread(lambda a, b: a * b, [30.0, 4.0], [sigma * share, 0.5])
    assert narrow <= wide


def test_a_worse_figure_is_never_taken_more_lightly() -> None:
    """From good to bad in small steps: the band never goes back."""
    order = [Band.IN_BAND, Band.ACT, Band.STOP]
    rows: list[tuple[str, str, list[float]]] = [
        ("tyre-pressure", "pressure", [620 - 5 * n for n in range(100)]),
        ("engine-oil", "seen", [1 - 0.02 * n for n in range(120)]),
        ("coolant-level", "seen", [1 - 0.02 * n for n in range(120)]),
        ("leak-drops", "drops", [float(n) for n in range(1, 300)]),
        ("air-restriction", "restriction", [0.1 * n for n in range(150)]),
        ("service-brake", "distance", [5 + 0.2 * n for n in range(150)]),
        ("wear", "left", [60 - 0.5 * n for n in range(119)]),
        ("cylinder-drift", "moved", [float(n) for n in range(200)]),
        ("detection-stop", "stopped", [8 - 0.05 * n for n in range(140)]),
        ("coolant-freeze", "low_c", [10 - 0.5 * n for n in range(120)]),
        ("leak-parked", "lost", [0.5 * n for n in range(200)]),
        ("coolant-boil", "coolant_c", [50 + 0.5 * n for n in range(190)]),
        ("oil-grade", "low_c", [10 - 0.5 * n for n in range(120)]),
    ]
    for key, name, figures in rows:
        bands = [order.index(run(key, {**READINGS[key].example, name: x}).judgement.band) for x in figures]
        assert bands == sorted(bands), (key, bands)
        assert bands[-1] > bands[0], key
