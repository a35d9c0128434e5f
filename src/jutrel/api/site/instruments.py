"""Routes: devices that tell a figure, and what the shift needs."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from pydantic import Field

from jutrel.api.door import PROBLEMS, Open, Who, Work
from jutrel.api.inspection.wire_verdict import JudgementOut
from jutrel.api.language import Tongue
from jutrel.api.reading.routes import Figure, OtherUnitOut, other_unit
from jutrel.api.site.devices import KEY, is_demo, shown
from jutrel.api.wire import NO_NUL, In, Out, Slug
from jutrel.core.machine.unit import UnitSystem
from jutrel.core.reading.fuel import Work as Hardness
from jutrel.core.reading.instrument import INSTRUMENTS, DeviceWord
from jutrel.core.reading.registry import InputSource
from jutrel.core.wording import Wording, spoken
from jutrel.service.context import Here
from jutrel.service.machine.needs import shift_needs
from jutrel.service.people.people import names_of
from jutrel.service.site.instruments import (
    DEVICE,
    choose_numbers,
    choose_units,
    hear_instrument,
    set_instrument,
    told_now,
)

router = APIRouter(prefix="/api", tags=["readings"], responses=PROBLEMS)


class DeviceFigureOut(Out):
    key: str
    name: str
    unit: str
    low: float
    high: float
    fills: InputSource | None = Field(description="The inputs that it fills by itself.")
    us: OtherUnitOut | None


class InstrumentOut(Out):
    """A device and what it said last. `now`: what of it still holds; `simulated`: a person set it."""

    key: str
    machine: str = Field(description="The machine that it speaks for; empty: the site.")
    settable: bool = Field(
        description="Whether a person may set what it says: a stand-in in a demo, a fact of the site."
    )
    title: str
    figures: list[DeviceFigureOut]
    on: bool
    says: dict[str, float]
    now: dict[str, float]
    at: datetime | None
    by: str
    simulated: bool
    holds_min: float | None


class InstrumentIn(In):
    """What a stand-in says from now on."""

    on: bool
    machine: Annotated[Slug, Field(description="For a device that speaks for one machine.")] | Literal[""] = ""
    says: Annotated[dict[Slug, Figure], Field(max_length=12, default_factory=dict)]


class UnitsIn(In):
    """Which units the site's people usually read."""

    units: UnitSystem


Short = Annotated[str, Field(pattern=NO_NUL, min_length=1, max_length=60)]


class NumbersIn(In):
    """Whom the site's people call in an emergency, and under which number."""

    numbers: Annotated[list[tuple[Short, Short]], Field(max_length=8)]


class DeviceSaysIn(In):
    """What a real device says."""

    machine: (
        Annotated[Slug, Field(description="The machine of which it speaks, if it speaks for one.")] | Literal[""]
    ) = ""
    says: Annotated[dict[Slug, Figure], Field(max_length=12)]


class NeedOut(Out):
    """One thing that the shift needs; `lacks`: what is not known yet, where something is."""

    key: str
    title: str
    value: float | None
    unit: str
    us: OtherUnitOut | None
    judgement: JudgementOut | None
    lacks: str
    more: dict[str, float]
    at: datetime | None = Field(description="When the level behind it was read.")
    checkpoint: str


def _out(told: DeviceWord, here: Here, names: dict[str, str], wording: Wording, demo: bool) -> InstrumentOut:
    known = INSTRUMENTS[told.key]
    return InstrumentOut(
        key=told.key,
        machine=told.machine,
        settable=demo or known.by_hand,
        title=wording.say(known.title),
        figures=[
            DeviceFigureOut(
                key=key,
                name=wording.say(g.name),
                unit=g.unit,
                low=g.low,
                high=g.high,
                fills=known.fills.get(key),
                us=other_unit(g.unit),
            )
            for key, g in known.figures.items()
        ],
        on=told.on,
        says=dict(told.says),
        now=dict(told.now(here.now)),
        at=told.at if told.by else None,
        by=told.by if told.by == DEVICE else names.get(told.by, ""),
        simulated=told.simulated,
        holds_min=known.holds.total_seconds() / 60 if known.holds else None,
    )


@router.get("/instruments")
async def get_instruments(
    request: Request, here: Work, who: Who, wording: Tongue, machine: Slug | None = None
) -> list[InstrumentOut]:
    """Every device that tells for the site, or for the site and a machine, and what each said last."""
    names = await names_of(here)
    told = await told_now(here, machine or "")
    return [_out(one, here, names, wording, is_demo(request)) for one in told.values()]


@router.put("/instruments/{instrument}")
async def put_instrument(
    request: Request, here: Work, who: Who, wording: Tongue, instrument: Slug, body: InstrumentIn
) -> InstrumentOut:
    """Set what a stand-in says, or switch it off; where the site is, is set so on every site."""
    demo = is_demo(request)
    told = await set_instrument(here, who, instrument, body.machine, body.on, body.says, demo)
    return _out(told, here, await names_of(here), wording, demo)


@router.post("/instruments/{instrument}/says", status_code=204)
async def post_says(
    request: Request,
    here: Open,
    instrument: Slug,
    body: DeviceSaysIn,
    device_key: KEY = "",
) -> None:
    """What a real device says now. It shows its own key; see docs/instruments.md."""
    await hear_instrument(here, shown(request, device_key), instrument, body.machine, body.says)


@router.get("/machines/{machine}/needs")
async def get_needs(
    here: Work,
    who: Who,
    wording: Tongue,
    machine: Slug,
    shift_hours: Annotated[float, Query(ge=0.25, le=24)] = 10.0,
    work: Hardness = Hardness.MEDIUM,
) -> list[NeedOut]:
    """What a shift of that length and hardness needs of a machine."""
    out = []
    for need in await shift_needs(here, machine, shift_hours, work):
        r = need.reading
        out.append(
            NeedOut(
                key=need.key,
                title=wording.say(need.title),
                value=r.value if r else None,
                unit=r.unit if r else "",
                us=other_unit(r.unit) if r else None,
                judgement=JudgementOut.model_validate(spoken(r.judgement, wording)) if r else None,
                lacks=wording.say(need.lacks),
                more=dict(r.more) if r else {},
                at=need.at,
                checkpoint=need.checkpoint,
            )
        )
    return out


@router.put("/units", status_code=204)
async def put_units(here: Work, who: Who, body: UnitsIn) -> None:
    """Which units the people of the site usually read; each can choose otherwise on their device."""
    await choose_units(here, who, body.units)


@router.put("/numbers", status_code=204)
async def put_numbers(here: Work, who: Who, body: NumbersIn) -> None:
    """Whom the people of the site call in an emergency."""
    await choose_numbers(here, who, body.numbers)
