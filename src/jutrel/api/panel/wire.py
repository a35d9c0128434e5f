"""What goes over the wire of a machine's panel."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from enum import StrEnum
from typing import Annotated, Any

from pydantic import AwareDatetime, Field, StringConstraints

from jutrel.api.wire import In, Out, Slug, Uuid7
from jutrel.core.log.codec import encode
from jutrel.core.panel.figures import PanelFigures
from jutrel.core.panel.identity import as_compared
from jutrel.core.panel.shown import DialBand, bands_of
from jutrel.core.panel.signals import SIGNALS, Lack, Signal, Value
from jutrel.core.panel.told import PanelEventKind, PanelWord, alert_said
from jutrel.core.panel.watch import Alert, stands_at
from jutrel.core.procedure.kinds import Colour, EngineNow
from jutrel.core.wording import Wording
from jutrel.service.panel.course import Course
from jutrel.service.panel.panel import PanelNow, ReaderMessage

Finite = Annotated[float, Field(allow_inf_nan=False, ge=-1e9, le=1e9)]
Word = Annotated[str, StringConstraints(max_length=60, pattern=r"^[a-z0-9-]+$")]
Address = Annotated[int, Field(ge=0, le=255)]
Plate = Annotated[str, StringConstraints(min_length=1, max_length=60, pattern=r"^[ -~]+$")]
Values = Annotated[dict[Slug, Finite | Lack], Field(max_length=80)]


class KeyPosition(StrEnum):
    """How the key of a stand-in stands."""

    STANDS = "stands"
    CRANKED = "cranked"
    RUNS = "runs"


class ToldIn(In):
    """Something that happened."""

    id: Uuid7
    at: AwareDatetime
    what: PanelEventKind
    word: Word
    colour: Colour = Colour.NONE
    value: Finite | None = None


class SampleIn(In):
    """Values of a moment."""

    at: AwareDatetime
    values: Values


class SamplesIn(In):
    """Values of a log that was read elsewhere, each at its time."""

    samples: Annotated[list[SampleIn], Field(min_length=1, max_length=120)]


class KeptOut(Out):
    """How many of them were kept: older ones are thinned as the machine's own."""

    kept: int


class BandOut(Out, of=DialBand):
    """A stretch of a dial that is red or amber."""


class StretchOut(Out):
    """The lowest and the highest value of a stretch of time; `at`: its middle."""

    at: datetime
    low: float
    high: float


class CourseLineOut(Out):
    """How one signal went; `low` and `high` are the ends of its scale, `bands` where it is amber or red."""

    key: str
    name: str
    unit: str
    low: float
    high: float
    bands: list[BandOut]
    stretches: list[StretchOut]


class WarnedOut(Out):
    """What the machine warned of, and when."""

    at: datetime
    colour: Colour
    says: str


class CourseOut(Out):
    """How a machine's values went."""

    since: datetime
    until: datetime
    lines: list[CourseLineOut]
    warned: list[WarnedOut]
    simulated: bool = Field(description="A stand-in tells them.")


class PanelIn(In):
    """What a machine's reader says. All times are the server's, by which it sets its clock with each answer."""

    since: AwareDatetime = Field(description="Since when this reader reads without a gap.")
    at: AwareDatetime
    engine: EngineNow | None = None
    values: Values
    alerts: Annotated[list[tuple[Word, Colour, AwareDatetime]], Field(max_length=60, default_factory=list)]
    simulated: bool = False
    engine_from: Address | None = Field(
        None, description="By which address the reader believes what is told of the engine."
    )
    engines: Annotated[list[Address], Field(max_length=8, default_factory=list)]
    identities: Annotated[
        list[Plate], Field(max_length=8, description="Whose machine the bus says that it is.", default_factory=list)
    ]
    told: Annotated[list[ToldIn], Field(max_length=300, default_factory=list)]
    samples: Annotated[list[SampleIn], Field(max_length=60, default_factory=list)]

    def heard(self) -> ReaderMessage:
        """The same for the service; what is told in words that mean nothing is left out."""
        says: dict[str, Any] = {
            "engine": self.engine,
            "values": self.values,
            "alerts": [[i, c.value, at.isoformat()] for i, c, at in self.alerts],
            "simulated": self.simulated,
            "engine_from": self.engine_from,
            "engines": self.engines,
            "identities": [as_compared(x) for x in self.identities],
        }
        told = [PanelWord(t.id, t.at, t.what, t.word, t.colour, t.value) for t in self.told if meant(t)]
        return ReaderMessage(self.since, self.at, says, told, {s.at: dict(s.values) for s in self.samples})


def meant(told: ToldIn) -> bool:
    """Whether an engine's word is one of those there are."""
    return told.what is not PanelEventKind.ENGINE or told.word in list(EngineNow)


class PanelsIn(In):
    """What the reader of many machines says, by machine."""

    machines: Annotated[dict[Slug, PanelIn], Field(min_length=1, max_length=60)]


class NeedleOut(Out):
    """A signal: its value, or why there is none."""

    key: str
    name: str
    unit: str
    value: float | None
    lack: Lack | None
    stands: bool = Field(description="It has come up to where work may begin with it.")
    low: float
    high: float
    bands: list[BandOut]


class AlertOut(Out, of=Alert):
    since: datetime


class PanelOut(Out):
    """A machine's panel as its reader said last. Not `live`: it says nothing any more, and nothing of this is known."""

    machine: str
    at: datetime
    live: bool
    simulated: bool = Field(description="The machine is a stand-in.")
    engine: EngineNow | None
    needles: list[NeedleOut]
    alerts: list[AlertOut]
    identities: list[str] = Field(description="Whose machine the bus says that it is.")
    doubt: str = Field(description="Why it may be another machine's; empty: nothing speaks for that.")


Share = Annotated[float, Field(ge=0, le=1)]


class OrdersIn(In):
    """What the stand-in of a machine is to do from now on; what is left out stays as it is."""

    turns: KeyPosition | None = None
    throttle: Share | None = None
    load: Share | None = None
    air_c: Annotated[float, Field(ge=-40, le=55)] | None = None
    faults: Annotated[list[Word], Field(max_length=8)] | None = None


class OrdersOut(Out):
    """Its key, its levers, the air, and what is wrong with it."""

    turns: KeyPosition
    throttle: float
    load: float
    air_c: float
    faults: list[str]


AS_DELIVERED = {"turns": "stands", "throttle": 0.0, "load": 0.0, "air_c": 15.0, "faults": []}


def orders_out(orders: Mapping[str, Any]) -> OrdersOut:
    """What a stand-in does, with what nobody ordered as it was delivered."""
    return OrdersOut.model_validate({**AS_DELIVERED, **orders})


class BusOut(Out):
    """What a machine's file says of its bus."""

    engine: int | None = Field(description="Which address on the bus is the engine, by the machine's file.")
    figures: dict[str, float] = Field(description="The machine's own figures that its alarms are judged by.")


class PanelTakenOut(BusOut):
    """What a reader told was taken; the time, for its clock."""

    now: datetime


class PanelsTakenOut(Out):
    """What the reader of many machines told was taken; the time, for its clock."""

    now: datetime
    machines: dict[str, BusOut]


class StandInOut(Out):
    """For the stand-in of a machine: what it is to do (null: nobody said), what the machine's meter shows [h], and how
    its file says that it is called on the bus."""

    orders: OrdersOut | None
    hours: float
    identification: str | None


def _needle(signal: Signal, value: Value, live: bool, figures: PanelFigures, wording: Wording) -> NeedleOut:
    known = None if isinstance(value, Lack) or not live else value
    lack = None if known is not None else value if isinstance(value, Lack) else Lack.LOST
    return NeedleOut(
        key=signal.key,
        name=wording.say(signal.name),
        unit=signal.unit,
        value=known,
        lack=lack,
        stands=stands_at(signal.key, known, figures),
        low=signal.low,
        high=signal.high,
        bands=[BandOut.model_validate(b) for b in bands_of(signal, figures)],
    )


def panel_out(machine: str, now: PanelNow, wording: Wording) -> PanelOut:
    """A panel as the client sees it; a value that is told no more is no value."""
    shown = now.shown
    return PanelOut(
        machine=machine,
        at=shown.at,
        live=now.live,
        simulated=shown.simulated,
        engine=shown.engine if now.live else None,
        needles=[
            _needle(s, shown.values[s.key], now.live, now.figures, wording) for s in SIGNALS if s.key in shown.values
        ],
        alerts=[AlertOut.model_validate({**encode(a), "says": wording.say(alert_said(a.id))}) for a in shown.alerts],
        identities=list(shown.identities),
        doubt=wording.say(now.doubt),
    )


def course_out(course: Course, wording: Wording) -> CourseOut:
    """How a machine's values went, as the client sees it."""
    return CourseOut(
        since=course.since,
        until=course.until,
        lines=[
            CourseLineOut(
                key=s.key,
                name=wording.say(s.name),
                unit=s.unit,
                low=s.low,
                high=s.high,
                bands=[BandOut.model_validate(b) for b in bands_of(s, course.figures)],
                stretches=[StretchOut.model_validate(x) for x in stretches],
            )
            for s, stretches in course.signals
            if stretches
        ],
        warned=[WarnedOut(at=t.at, colour=t.colour, says=wording.say(alert_said(t.word))) for t in course.warned],
        simulated=course.simulated,
    )
