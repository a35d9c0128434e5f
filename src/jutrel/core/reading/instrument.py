"""Devices that can say a figure: what they say, how long it holds, and which inputs it can fill."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from jutrel.core.amounts import number
from jutrel.core.errors import BadInput
from jutrel.core.reading.registry import Given, Input, InputSource
from jutrel.core.wording import Said, say


@dataclass(frozen=True, slots=True)
class Instrument:
    """A device.

    Parameters
    ----------
    figures
        What it tells, by key.
    fills
        Which inputs its figures fill by themselves.
    holds
        How long its figures hold; None: until it is set anew.
    of_machine
        It speaks for one machine, and what it tells there counts beside a hand; else for the whole site.
    by_hand
        A person may set it for good: it is a fact of the site, not a measurement.
    """

    key: str
    title: Said
    figures: Mapping[str, Given]
    fills: Mapping[str, InputSource]
    holds: timedelta | None
    of_machine: bool = False
    by_hand: bool = False


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
            {"air_c": InputSource.AIR, "low_c": InputSource.LOW, "humidity": InputSource.HUMIDITY},
            timedelta(hours=6),
        ),
        Instrument(
            "slope-sensor",
            say("Slope sensor"),
            {"pitch": Given(say("Nose down"), "°", -45, 45), "roll": Given(say("Left side down"), "°", -45, 45)},
            {"pitch": InputSource.PITCH, "roll": InputSource.ROLL},
            timedelta(minutes=10),
            of_machine=True,
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
            of_machine=True,
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
            of_machine=True,
        ),
        Instrument(
            "position",
            say("Where the site is"),
            {
                "latitude": Given(say("Latitude"), "°", -90, 90),
                "longitude": Given(say("Longitude, east positive"), "°", -180, 180),
                "altitude": Given(say("Height above the sea"), "m", -400, 5000),
            },
            {"latitude": InputSource.LATITUDE, "longitude": InputSource.LONGITUDE, "altitude": InputSource.ALTITUDE},
            None,
            by_hand=True,
        ),
    )
}


@dataclass(frozen=True, slots=True)
class DeviceWord:
    """What a device said last: of which machine, whether it is switched on, its figures, when, and by whom.

    `machine` is empty where it speaks for the site; `simulated`: a person set a stand-in.
    """

    key: str
    machine: str
    on: bool
    says: Mapping[str, float]
    at: datetime
    by: str
    simulated: bool

    def now(self, at: datetime) -> Mapping[str, float]:
        """Its figures if it is on and they hold at that time; else none."""
        holds = INSTRUMENTS[self.key].holds
        return {} if not self.on or (holds is not None and abs(at - self.at) > holds) else self.says


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


def speaks_for(key: str, machine: str) -> str:
    """The machine that a device speaks for; empty: the site. Raises BadInput if a machine is lacking, or one too many.

    >>> speaks_for("slope-sensor", "ex-04"), speaks_for("weather-station", "")
    ('ex-04', '')
    """
    known = INSTRUMENTS.get(key)
    if known is not None and known.of_machine and not machine:
        raise BadInput("machine", "it speaks for one machine: name it")
    if known is not None and not known.of_machine and machine:
        raise BadInput("machine", "it speaks for the whole site: leave the machine out")
    return machine


def known_now(told: Mapping[str, DeviceWord], at: datetime) -> dict[InputSource, float]:
    """The inputs that devices fill by themselves at a time."""
    out = {}
    for key, one in told.items():
        for name, value in one.now(at).items():
            fills = INSTRUMENTS[key].fills.get(name)
            if fills is not None:
                out[fills] = value
    return out


AGREE = 1.0
"""How far [°] a hand and a slope sensor may be apart and mean the same ground: a spirit level in the hand, the sensor
on a rocking undercarriage (common practice)."""


def otherwise(
    inputs: Sequence[Input], given: Mapping[str, object], told: Mapping[str, DeviceWord], at: datetime
) -> dict[str, float]:
    """What a machine's own devices told of the inputs of a reading at a time, where a hand says otherwise.

    Only what a device fills by itself is known to speak of that input. A figure that was left out counts as its
    default. The result is by input, in its unit.
    """
    fills = known_now({k: one for k, one in told.items() if one.machine}, at)
    out = {}
    for i in inputs:
        if i.given.known not in fills or i.given.many:
            continue
        says = fills[i.given.known]
        says = abs(says) if i.given.low >= 0 else says
        by_hand = given.get(i.key, i.default)
        if not isinstance(by_hand, (int, float)) or abs(by_hand - says) > AGREE:
            out[i.key] = says
    return out


LEVEL_INPUTS = (
    Input("pitch_deg", Given(say("Nose down"), "°", -45, 45, known=InputSource.PITCH), None, True),
    Input("roll_deg", Given(say("Left side down"), "°", -45, 45, known=InputSource.ROLL), None, True),
)
"""What a slope sensor fills of the reading of the hydraulic glass."""
