"""Figures as people write them, and back: any unit of the right kind, nothing else, and never a silent number."""

from __future__ import annotations

import math
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jutrel.core.errors import BadInput
from jutrel.core.reading.all import READINGS
from jutrel.exchange.readings import take
from jutrel.exchange.units import PINT, US, in_us, measured


@pytest.mark.parametrize(
    ("text", "unit", "expected"),
    # NIST SP 811, conversion factors (from memory): 1 psi 6.894757 kPa, 1 in 25.4 mm, 1 US gal 3.785412 L.
    [
        ("92 psi", "kPa", 634.3177),
        ("6.3 bar", "kPa", 630),
        ("6,3 bar", "kPa", 630),
        ("25 inH2O", "kPa", 6.2270),
        ("3/8 in", "mm", 9.525),
        ("1 3/8 in", "mm", 34.925),
        ('2 "', "mm", 50.8),
        ("4 gal", "L", 15.141648),
        ("2 qt", "L", 1.892706),
        ("14 °F", "°C", -10),
        ("-40 F", "°C", -40),
        ("−7", "°C", -7),
        ("15 mph", "km/h", 24.14016),
        ("36000 lb", "kg", 16329.325),
        ("2 h", "min", 120),
        ("1500 rpm", "1/min", 1500),
        ("0.5 ft", "m", 0.1524),
        ("46 cSt", "mm²/s", 46),
        (" 12 ", "L", 12),
        (".5", "m", 0.5),
    ],
)
def test_what_people_write_is_understood(text: str, unit: str, expected: float) -> None:
    assert measured("x", text, unit) == pytest.approx(expected, rel=1e-4)


@pytest.mark.parametrize(
    ("text", "unit"),
    [
        ("92 gallons", "kPa"),
        ("12 °C", "kPa"),
        ("a lot", "L"),
        ("", "L"),
        ("1/0 in", "mm"),
        ("1 2", "mm"),
        ("1e400", "kPa"),
        ("nan", "L"),
        ("5 parsec**99999", "m"),
        ("5 __import__('os')", "m"),
        ("3 x", "L"),
        ("1" * 80, "L"),
    ],
)
def test_what_is_no_figure_is_refused_with_its_field(text: str, unit: str) -> None:
    with pytest.raises(BadInput) as refused:
        measured("inputs.x", text, unit)
    assert refused.value.field == "inputs.x"


@given(st.floats(-1e4, 1e4), st.sampled_from(sorted(US)))
@settings(max_examples=300, deadline=None)
def test_there_and_back_is_the_same(value: float, unit: str) -> None:
    other = in_us(unit)
    assert other is not None
    shown = value * other.factor + other.offset
    back = (shown - other.offset) / other.factor
    assert back == pytest.approx(value, abs=1e-9 * max(1, abs(value)))
    written = measured("x", f"{shown:.9f} {other.unit}", unit)
    if unit not in ("K", "kPa/d", "mm/min", "L/h"):  # differences and rates are not written with a unit by hand
        assert written == pytest.approx(value, abs=1e-6 * max(1, abs(value)))


@given(st.integers(0, 40), st.integers(0, 15), st.sampled_from([2, 4, 8, 16, 32, 64]))
@settings(deadline=None)  # the first one loads the library of units
def test_inches_in_fractions_are_exact(whole: int, top: int, bottom: int) -> None:
    text = f"{whole} {top}/{bottom} in" if whole else f"{top}/{bottom} in"
    exact = Fraction(whole) + Fraction(top, bottom)
    assert measured("x", text, "mm") == pytest.approx(float(exact * Fraction("25.4")), abs=1e-9)


def test_every_unit_of_the_list_is_one_that_can_be_converted() -> None:
    """An input whose unit pint does not know would refuse every figure that is written with a unit."""
    units = {i.given.unit for r in READINGS.values() for i in r.inputs}
    for unit in units - {"", "dB", "SG"}:
        assert measured("x", f"3 {unit}", unit) == 3.0
        assert unit in PINT or math.isfinite(measured("x", f"3 {unit}", unit))


@pytest.mark.parametrize("key", sorted(READINGS))
def test_a_reading_in_us_units_is_the_same_reading(key: str) -> None:
    """Every figure of the example written in the other units comes to the same."""
    listed = READINGS[key]
    written = {}
    for name, value in listed.example.items():
        one = listed.input(name)
        assert one is not None
        other = in_us(one.given.unit)
        number = isinstance(value, (int, float)) and not isinstance(value, bool)
        if other and number and one.given.unit not in ("K", "kPa/d", "mm/min", "L/h"):
            written[name] = f"{value * other.factor + other.offset:.10f} {other.unit}"  # type: ignore[operator]
        else:
            written[name] = value  # type: ignore[assignment]
    plain, us = take(key, listed.example).reading, take(key, written).reading
    if plain.value is None:
        assert us.value is None
    else:
        assert us.value == pytest.approx(plain.value, rel=1e-6, abs=1e-6)
    assert us.judgement.band is plain.judgement.band
