"""Devices that can say a figure: what they say, how long it holds, and which inputs it can fill."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from jutrel.core.errors import BadInput
from jutrel.core.reading.registry import Given, Known
from jutrel.core.units import number
from jutrel.core.wording import Said, say


@dataclass(frozen=True, slots=True)
class Instrument:
    """A device: its figures by key, which inputs they fill by themselves, and how long they hold; None: for good."""

    key: str
    title: Said
    figures: Mapping[str, Given]
    fills: Mapping[str, Known]
    holds: timedelta | None


INSTRUMENTS: dict[str, Instrument] = {
    i.key: i
    for i in (
        Instrument(
            "weather-station",
            say("Weather station"),
            {
                "air_c": Given(say("Air temperature"), "°C", -60, 60),
                "low_c": Given(say("Lowest temperature expected"), "°C", -60, 60),
                "humidity": Given(say("Humidity"), "%", 0, 100),
            },
            {"air_c": Known.AIR, "low_c": Known.LOW, "humidity": Known.HUMIDITY},
            timedelta(hours=6),
        ),
        Instrument(
            "slope-sensor",
            say("Slope sensor"),
            {"pitch": Given(say("Nose down"), "°", -45, 45), "roll": Given(say("Left side down"), "°", -45, 45)},
            {"pitch": Known.PITCH, "roll": Known.ROLL},
            timedelta(minutes=10),
        ),
        Instrument(
            "tyre-gauge",
            say("Tyre gauge"),
            {
                "pressure": Given(say("Pressure on the gauge"), "kPa", 0, 1500),
                "tyre_c": Given(say("Temperature of the tyre"), "°C", -50, 120),
            },
            {},
            timedelta(minutes=10),
        ),
        Instrument(
            "sound-meter",
            say("Sound meter"),
            {
                "on": Given(say("Level with the alarm sounding"), "dB", 30, 140),
                "background": Given(say("Level without it, engine as in work"), "dB", 20, 130),
            },
            {},
            timedelta(minutes=10),
        ),
        Instrument(
            "position",
            say("Where the site is"),
            {
                "latitude": Given(say("Latitude"), "°", -90, 90),
                "longitude": Given(say("Longitude, east positive"), "°", -180, 180),
                "altitude": Given(say("Height above the sea"), "m", -400, 5000),
            },
            {"latitude": Known.LATITUDE, "longitude": Known.LONGITUDE, "altitude": Known.ALTITUDE},
            None,
        ),
    )
}


@dataclass(frozen=True, slots=True)
class Told:
    """What a device said last: whether it is switched on, its figures, when, and by whom it was set."""

    key: str
    on: bool
    says: Mapping[str, float]
    at: datetime
    by: str
    simulated: bool

    def now(self, at: datetime) -> Mapping[str, float]:
        """Its figures if it is on and they still hold; else none."""
        holds = INSTRUMENTS[self.key].holds
        return {} if not self.on or (holds is not None and at - self.at > holds) else self.says


def check_says(key: str, says: Mapping[str, object]) -> dict[str, float]:
    """What a device says, each figure within what it can be; raises BadInput naming the figure.

    >>> check_says("slope-sensor", {"pitch": 2})
    {'pitch': 2.0}
    """
    known = INSTRUMENTS.get(key)
    if known is None:
        raise BadInput("instrument", "'{it}' is no device; one of {those}", it=key[:40], those=", ".join(INSTRUMENTS))
    out = {}
    for name, value in says.items():
        given = known.figures.get(name)
        if given is None:
            raise BadInput(f"says.{name}", "it tells no such figure; one of {those}", those=", ".join(known.figures))
        if not isinstance(value, (int, float)):
            raise BadInput(f"says.{name}", "give a plain number, not {it}", it=repr(value)[:40])
        out[name] = number(f"says.{name}", value, given.low, given.high)
    return out


def known_now(told: Mapping[str, Told], at: datetime) -> dict[Known, float]:
    """The inputs that devices fill by themselves at a time."""
    out = {}
    for key, one in told.items():
        for name, value in one.now(at).items():
            fills = INSTRUMENTS[key].fills.get(name)
            if fills is not None:
                out[fills] = value
    return out
