"""The machine's own figures that its alarms are judged by; common practice where nobody gave one."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields

from jutrel.core.log.entry import Limit

SYSTEMS_V = (12.0, 24.0)
IDLE_RPM, AMBER_BELOW_RED_K, OIL_STANDS_OVER_KPA = 900.0, 6.0, 20.0
"""At or under this speed the oil pressure of low idle is enough; how far under the red of the coolant its amber
begins; how far over its red the oil pressure counts as standing. Common practice."""


@dataclass(frozen=True, slots=True)
class PanelFigures:
    """What a machine's file says of its panel.

    Parameters
    ----------
    system_volts
        12 or 24 [V].
    oil_idle
        The least oil pressure, warm, at low idle [kPa].
    oil_rated, rated_speed
        The least one at rated speed [kPa], and that speed [1/min]; as at low idle, where nobody gave it.
    coolant_red
        From here on it overheats [°C].
    air_limit
        Restriction at which the air filter is changed [kPa].
    """

    system_volts: float = 24.0
    oil_idle: float = 100.0
    oil_rated: float = 100.0
    rated_speed: float = 1900.0
    coolant_red: float = 105.0
    air_limit: float = 6.2

    @property
    def oil_by_speed(self) -> tuple[tuple[float, float], ...]:
        """Least oil pressure [kPa] by speed [1/min], straight between."""
        return ((IDLE_RPM, self.oil_idle), (max(self.rated_speed, IDLE_RPM + 1), max(self.oil_rated, self.oil_idle)))


NAMED = {f.name: f.name.replace("_", "-") for f in fields(PanelFigures)}
"""By field: what the figure is called in a machine's file."""


def figures_of(limits: Mapping[str, Limit]) -> PanelFigures:
    """The figures among those of a machine.

    >>> [figures_of({"system-volts": v}).system_volts for v in (12, 13.8, 24)]
    [12.0, 12.0, 24.0]
    """
    given = {f: float(v) for f, key in NAMED.items() if isinstance(v := limits.get(key), (int, float))}
    if "system_volts" in given:
        given["system_volts"] = min(SYSTEMS_V, key=lambda v: abs(v - given["system_volts"]))
    if "oil_rated" not in given and "oil_idle" in given:
        given["oil_rated"] = given["oil_idle"]
    return PanelFigures(**given)


def as_plain(figures: PanelFigures) -> dict[str, float]:
    """For a reader, which goes by them too.

    >>> of_plain(as_plain(PanelFigures(coolant_red=110))).coolant_red
    110
    """
    return {name: getattr(figures, name) for name in NAMED}


def of_plain(data: Mapping[str, object]) -> PanelFigures:
    """As a server told them; what this release does not know is left out: a reader that ends tells nothing at all.

    >>> of_plain({"coolant_red": 110.0, "oil_colour": 3.0, "air_limit": "much"}).coolant_red
    110.0
    """
    known = {name: data[name] for name in NAMED if name in data}
    good = {k: v for k, v in known.items() if isinstance(v, (int, float)) and not isinstance(v, bool)}
    return PanelFigures(**good)


def at_speed(points: tuple[tuple[float, float], ...], speed: float) -> float:
    """A figure by speed, straight between its points and level beyond them.

    >>> [at_speed(((900, 100), (1900, 200)), rpm) for rpm in (700, 1400, 2100)]
    [100, 150.0, 200]
    """
    (s0, v0), (s1, v1) = points
    if speed <= s0:
        return v0
    return v1 if speed >= s1 else v0 + (v1 - v0) * (speed - s0) / (s1 - s0)
