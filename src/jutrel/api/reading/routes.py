"""Routes: the list of readings, and taking one. They store nothing and need no session."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import Field

from jutrel.api.door import PROBLEMS, Who, Work, now, shop_of
from jutrel.api.inspection.wire_verdict import JudgementOut, LeakIn, LeakOut
from jutrel.api.language import Tongue
from jutrel.api.wire import NO_NUL, In, Out, Slug
from jutrel.core.errors import BadInput
from jutrel.core.inspection.kinds import HYDRAULIC_LEVEL
from jutrel.core.machine.model import Model
from jutrel.core.reading.all import READINGS, Listed
from jutrel.core.reading.choices import choice_name
from jutrel.core.reading.glass import machine_level
from jutrel.core.reading.happened import Happened
from jutrel.core.reading.judgement import Band
from jutrel.core.reading.leak import leak_reading
from jutrel.core.reading.registry import Input, InputSource, Topic
from jutrel.core.wording import Wording, spoken
from jutrel.exchange.readings import TakenReading, input_schema, take, topic_name
from jutrel.exchange.units import in_us
from jutrel.service.context import here_of
from jutrel.service.machine.models import known_model, shipped_model
from jutrel.service.people.people import names_of
from jutrel.service.reading.over_time import unit_series
from jutrel.store.base import StoreAway, StoreBusy

router = APIRouter(prefix="/api/readings", tags=["readings"], responses=PROBLEMS)

Written = Annotated[str, Field(pattern=NO_NUL, max_length=80)]
Figure = Annotated[float, Field(allow_inf_nan=False)]
Value = bool | Figure | Written | list[Figure | Written]


class OtherUnitOut(Out):
    """A figure in another unit: figure * factor + offset."""

    unit: str
    factor: float
    offset: float


class ReadingInputOut(Out):
    """What goes into a reading."""

    key: str
    name: str
    help: str
    unit: str
    low: float
    high: float
    default: bool | float | str | list[float] | None
    needed: bool
    choices: list[str] = Field(description="If it is chosen: what from.")
    choice_names: list[str]
    flag: bool
    many: tuple[int, int] | None = Field(description="If it is a list: least and most figures.")
    known: InputSource | None = Field(description="Where its value can come from by itself.")
    without: str = Field(description="Not asked for where this other input is known.")
    start: float | None = Field(description="Where a control begins; nobody's reading until a hand has moved it.")
    us: OtherUnitOut | None


class ListedOut(Out):
    """A reading: what it is for, what goes in, where it is from."""

    key: str
    topic: Topic
    topic_name: str
    title: str
    summary: str = Field(description="In English, from its documentation.")
    inputs: list[ReadingInputOut]
    sources: list[str]
    example: dict[str, bool | float | str | list[float]]
    modes: list[str] = Field(description="The failure modes that a bad one is a finding of.")
    control: str
    input_schema: dict[str, Any] = Field(description="JSON Schema of its inputs.")


class ReadingFindingOut(Out):
    failure_mode: str
    attributes: dict[str, bool | float | str]


class ReadResultOut(Out):
    """What a reading came to. `inputs`: how what was given was understood, in the list's units."""

    key: str
    value: float | None
    unit: str
    low: float | None
    high: float | None
    judgement: JudgementOut
    finding: ReadingFindingOut | None
    more: dict[str, float]
    inputs: dict[str, bool | float | str | list[float]]
    us: OtherUnitOut | None


class ReadingIn(In):
    """Inputs by key: figures in the list's units, or as written with a unit ("92 psi")."""

    inputs: Annotated[dict[Slug, Value], Field(max_length=40)]
    model: Slug | None = Field(default=None, description="Of the hydraulic level: the model whose tank it is.")


def other_unit(unit: str) -> OtherUnitOut | None:
    """The US unit of one of ours, if it differs."""
    other = in_us(unit)
    return OtherUnitOut(unit=other.unit, factor=other.factor, offset=other.offset) if other else None


def input_out(one: Input, wording: Wording) -> ReadingInputOut:
    """An input in a person's language."""
    g = one.given
    return ReadingInputOut(
        key=one.key,
        name=wording.say(g.name),
        help=wording.say(g.help),
        unit=g.unit,
        low=g.low,
        high=g.high,
        default=list(one.default) if isinstance(one.default, tuple) else one.default,  # type: ignore[arg-type]
        needed=one.needed,
        choices=list(one.choices),
        choice_names=[wording.say(choice_name(c)) for c in one.choices],
        flag=one.flag,
        many=g.many,
        known=g.known,
        without=g.without,
        start=g.start,
        us=other_unit(g.unit),
    )


def listed_out(listed: Listed, wording: Wording) -> ListedOut:
    """A reading of the list in a person's language."""
    return ListedOut(
        key=listed.key,
        topic=listed.topic,
        topic_name=wording.say(topic_name(listed.topic)),
        title=wording.say(listed.title),
        summary=listed.summary,
        inputs=[input_out(one, wording) for one in listed.inputs],
        sources=[wording.say(s) for s in listed.sources],
        example=dict(listed.example),  # type: ignore[arg-type]
        modes=list(listed.modes),
        control=listed.control,
        input_schema=input_schema(listed),
    )


@router.get("")
def get_readings(wording: Tongue) -> list[ListedOut]:
    """Every reading there is, by topic."""
    order = list(Topic)
    found = sorted(READINGS.values(), key=lambda r: (order.index(r.topic), r.key))
    return [listed_out(r, wording) for r in found]


async def model_known(request: Request, model_id: str) -> Model:
    """The model as this site knows it: its own edition before the one that ships.

    While the store is away, as it was last known; never the shipped one in place of an edition not looked up.
    """
    shop = shop_of(request)
    try:
        async with shop.store.transaction() as db:
            here = await here_of(db, shop.books, now())
            model = await known_model(here, model_id) or shipped_model(here.catalog, model_id)
    except (StoreAway, StoreBusy):
        last = shop.books.last_known.get(model_id)
        if last is None:
            raise
        return last
    shop.books.last_known[model_id] = model
    return model


@router.post("/leak")
async def post_leak(request: Request, wording: Tongue, body: LeakIn) -> LeakOut:
    """A leak's rate and the hours to the ADD mark. Stores nothing, needs no session."""
    reserve = (await model_known(request, body.model)).reserves.get(body.fluid or "")
    read = leak_reading(body.leak_class, reserve, body.shift_hours, body.drops, body.seconds, body.coupling)
    return LeakOut.model_validate(spoken(read, wording))


@router.post("/{key}")
async def post_reading(request: Request, key: Slug, wording: Tongue, body: ReadingIn) -> ReadResultOut:
    """Take one reading. Stores nothing, needs no session."""
    if key == HYDRAULIC_LEVEL:
        if not body.model:
            raise BadInput("model", "say of which model: its tank decides what the glass means")
        tank = (await model_known(request, body.model)).tank
        taken = TakenReading(machine_level(tank, body.inputs), body.inputs)
    else:
        taken = await run_in_threadpool(take, key, body.inputs)
    told = spoken(taken.reading, wording)
    return ReadResultOut(
        key=key,
        value=taken.reading.value,
        unit=taken.reading.unit,
        low=taken.reading.low,
        high=taken.reading.high,
        judgement=JudgementOut.model_validate(told["judgement"]),
        finding=ReadingFindingOut(failure_mode=taken.reading.finding[0], attributes=dict(taken.reading.finding[1]))
        if taken.reading.finding
        else None,
        more=dict(taken.reading.more),
        inputs=taken.inputs,
        us=other_unit(taken.reading.unit),
    )


class SeriesPointOut(Out):
    at: datetime
    hours: float | None
    value: float
    band: Band
    entry: str
    by: str = Field(description="Name of who took it.")
    given: dict[str, float]


class HappenedOut(Out, of=Happened, without=("checkpoint",)):
    by: str = Field(description="Name of who did it.")


class SeriesOut(Out):
    """A unit's readings of one thing, oldest first; `low`, `high`: what was usual before the last one.

    `limit`: where it is at its limit; `reaches`: when, if it goes on as it did.
    """

    checkpoint: str
    place: str
    key: str
    title: str
    control: str
    unit: str
    us: OtherUnitOut | None
    points: list[SeriesPointOut]
    low: float | None
    high: float | None
    unusual: bool
    limit: float | None
    reaches: datetime | None
    happened: list[HappenedOut] = Field(description="What was done at its place since the first reading.")


series = APIRouter(prefix="/api/machines", tags=["readings"], responses=PROBLEMS)


@series.get("/{machine}/readings")
async def get_series(here: Work, who: Who, wording: Tongue, machine: Slug) -> list[SeriesOut]:
    """What was read on a unit, each thing as a row over time."""
    found = await unit_series(here, machine)
    names = await names_of(here)
    places = {c.id: wording.word("checkpoint", c.name) for c in found.model.family.checkpoints}
    out = []
    for s in found.series:
        band = s.usual
        out.append(
            SeriesOut(
                checkpoint=s.checkpoint,
                place=places.get(s.checkpoint, s.checkpoint),
                key=s.reading,
                title=wording.say(READINGS[s.reading].title),
                control=READINGS[s.reading].control,
                unit=s.unit,
                us=other_unit(s.unit),
                points=[
                    SeriesPointOut(
                        at=p.at,
                        hours=p.hours,
                        value=p.value,
                        band=p.band,
                        entry=p.entry,
                        by=names.get(p.by, "?"),
                        given=dict(p.given),
                    )
                    for p in s.points
                ],
                low=band[0] if band else None,
                high=band[1] if band else None,
                unusual=s.unusual,
                limit=s.limit,
                reaches=s.reaches,
                happened=[
                    HappenedOut.model_validate({**spoken(h, wording), "by": names.get(h.by, "?")})
                    for h in found.happened
                    if h.checkpoint in ("", s.checkpoint) and h.at >= s.points[0].at
                ],
            )
        )
    return out
