"""Checked numbers and the few conversions that the readings share. SI inside."""

from __future__ import annotations

import math

from jutrel.core.errors import BadInput

ABSOLUTE_ZERO_C = -273.15
LITRES_PER_M3 = 1000.0


def number(field: str, value: float, low: float = -math.inf, high: float = math.inf) -> float:
    """Return `value` as a float if it is a real number inside [low, high].

    Raises
    ------
    BadInput
        If the value is NaN, infinite, not a number, or outside the range.

    >>> number("pitch_deg", 2)
    2.0
    >>> number("pitch_deg", float("nan"))
    Traceback (most recent call last):
    ...
    jutrel.core.errors.BadInput: pitch_deg: give a plain number; this one is not a number
    """
    if isinstance(value, bool) or not isinstance(value, (int, float)):
        raise BadInput(field, "give a plain number, not {it}", it=repr(value))
    if not math.isfinite(value):
        raise BadInput(field, "give a plain number; this one is not a number")
    if value < low or value > high:
        raise BadInput(
            field, "{it} is outside {low} to {high}; check the figure and its unit", it=value, low=low, high=high
        )
    return float(value)


def celsius(field: str, value: float) -> float:
    """A temperature [°C], refused at or below absolute zero.

    >>> celsius("oil_c", -300)
    Traceback (most recent call last):
    ...
    jutrel.core.errors.BadInput: oil_c: -300 °C is below absolute zero; check the figure and its unit
    """
    checked = number(field, value)
    if checked <= ABSOLUTE_ZERO_C:
        raise BadInput(field, "{it} °C is below absolute zero; check the figure and its unit", it=value)
    return checked


def plain(value: float, digits: int = 1) -> str:
    """A figure for a sentence, without a negative zero or a false digit.

    >>> plain(-0.04), plain(12.345), plain(0.58, 2)
    ('0.0', '12.3', '0.58')
    """
    rounded = round(value, digits)
    return f"{rounded + 0.0:.{digits}f}"
