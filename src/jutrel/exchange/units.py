"""Units at the edge: "92 psi", "6.3 bar", "3/8 in" in, metric or US out. Conversion is pint's."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING, Any

from jutrel.core.errors import BadInput

if TYPE_CHECKING:
    from pint import UnitRegistry

PINT = {
    "": "",
    "%": "percent",
    "°C": "degC",
    "K": "delta_degC",
    "kPa": "kilopascal",
    "kPa/d": "kilopascal/day",
    "L": "liter",
    "L/h": "liter/hour",
    "m²": "meter**2",
    "mm²/s": "millimeter**2/second",
    "mm/min": "millimeter/minute",
    "mm/m": "millimeter/meter",
    "mm/100 h": "millimeter/(100*hour)",
    "1/min": "1/minute",
    "°": "degree",
    "km/h": "kilometer/hour",
    "cm²": "centimeter**2",
    "dB": "",
    "SG": "",
    "d": "day",
    "min": "minute",
}
"""Our units as pint writes them; others are the same."""
SPOKEN = {
    "inh2o": "inH2O",
    "psi": "psi",
    "gal": "gallon",
    '"': "inch",
    "''": "inch",
    "in.": "inch",
    "f": "degF",
    "°f": "degF",
    "c": "degC",
    "°c": "degC",
    "mph": "mile/hour",
    "lb": "pound",
    "lbs": "pound",
    "qt": "quart",
    "rpm": "1/minute",
    "gpm": "gallon/minute",
    "lpm": "liter/minute",
    "hrs": "hour",
    "hr": "hour",
    "°": "degree",
    "deg": "degree",
    "cst": "centistokes",
    "%": "percent",
    "l/h": "liter/hour",
    "l": "liter",
    "v": "volt",
    "t": "metric_ton",
}
"""What people write for a unit."""
US = {
    "kPa": "psi",
    "°C": "degF",
    "K": "delta_degF",
    "L": "gallon",
    "L/h": "gallon/hour",
    "mm": "inch",
    "m": "foot",
    "cm": "inch",
    "kg": "pound",
    "km/h": "mile/hour",
    "kPa/d": "psi/day",
    "mm/min": "inch/minute",
}
US_SIGN = {
    "psi": "psi",
    "degF": "°F",
    "delta_degF": "°F",
    "gallon": "gal",
    "gallon/hour": "gal/h",
    "inch": "in",
    "foot": "ft",
    "pound": "lb",
    "mile/hour": "mph",
    "psi/day": "psi/d",
    "inch/minute": "in/min",
}
_WRITTEN = re.compile(r"^\s*([-+\u2212]?)\s*(?:(\d+)\s+)?(?:(\d+)\s*/\s*(\d+)|(\d+(?:[.,]\d+)?|[.,]\d+))\s*(.*?)\s*$")


@cache
def _registry() -> UnitRegistry[Any]:
    # Half a second to load: only who converts pays for it.
    from pint import UnitRegistry

    registry: UnitRegistry[Any] = UnitRegistry(autoconvert_offset_to_baseunit=True)
    return registry


def measured(field: str, text: str, unit: str) -> float:
    """A figure as a person wrote it, in our unit.

    Raises
    ------
    BadInput
        If it is no figure, or its unit measures something else.

    >>> round(measured("p", "92 psi", "kPa"), 1), round(measured("e", "1 3/8 in", "mm"), 3), measured("t", "6,3", "kPa")
    (634.3, 34.925, 6.3)
    >>> round(measured("t", "14 °F", "°C"), 6)
    -10.0
    """
    own = text.rstrip()
    if unit and own.endswith(unit) and own[: -len(unit)][-1:].strip("0123456789 ") == "":
        text = own[: -len(unit)]  # "1500 1/min" is no fraction
    found = _WRITTEN.match(text) if len(text) <= 60 else None
    if found is None:
        raise BadInput(field, "'{it}' is no figure; write it as 6.3 bar, 92 psi or 3/8 in", it=text[:40])
    sign, whole, top, bottom, plain, written = found.groups()
    if bottom and int(bottom) == 0:
        raise BadInput(field, "'{it}' divides by zero", it=text[:40])
    if whole and not bottom:
        raise BadInput(field, "'{it}' is no figure; write it as 6.3 bar, 92 psi or 3/8 in", it=text[:40])
    value = int(whole or 0) + int(top) / int(bottom) if bottom else float(plain.replace(",", "."))
    value = -value if sign in ("-", "\u2212") else value
    if not written:
        return value
    return _converted(field, value, written, unit)


def _converted(field: str, value: float, written: str, unit: str) -> float:
    if written == unit:
        return value
    registry = _registry()
    name = SPOKEN.get(written.lower(), written)
    if not re.fullmatch(r"[A-Za-z0-9_/*]{1,30}", name):
        raise BadInput(field, "'{it}' is no unit known here; {unit} is expected", it=written[:20], unit=unit or "–")
    try:
        target = registry.Unit(PINT.get(unit, unit))
        given = registry.Unit(name)
        if unit == "K" and name in ("degF", "degC"):
            given = registry.Unit(f"delta_{name}")
        return float(registry.Quantity(value, given).to(target).magnitude)
    except Exception:
        raise BadInput(
            field, "'{it}' is no unit for this; {unit} is expected", it=written[:20], unit=unit or "–"
        ) from None


@dataclass(frozen=True, slots=True)
class Other:
    """Another unit for a figure: shown = figure * factor + offset."""

    unit: str
    factor: float
    offset: float


@cache
def in_us(unit: str) -> Other | None:
    """How people who measure in US units want to see a figure in our unit; None if the same.

    >>> psi = in_us("kPa")
    >>> psi.unit, round(634.3 * psi.factor)
    ('psi', 92)
    """
    name = US.get(unit)
    if name is None:
        return None
    registry = _registry()

    def shown(value: float) -> float:
        return float(registry.Quantity(value, registry.Unit(PINT.get(unit, unit))).to(name).magnitude)

    offset = shown(0.0)
    return Other(US_SIGN[name], shown(1.0) - offset, offset)
