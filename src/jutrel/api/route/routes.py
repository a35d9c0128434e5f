"""Routes: the yard, a machine's walk, readings and grades."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import replace

from fastapi import APIRouter, Request, Response

from jutrel.api.cookies import token_of
from jutrel.api.door import PROBLEMS, Who, Work, now, shop_of
from jutrel.api.inspection.wire import DefectOut
from jutrel.api.inspection.wire_verdict import (
    FindingOut,
    GradeIn,
    ItemOut,
)
from jutrel.api.language import Tongue
from jutrel.api.machine.figures import limit_out
from jutrel.api.machine.wire import (
    AttributeOut,
    BecauseOut,
    CheckpointOut,
    LegOut,
    LogEndOut,
    ModeOut,
    OccasionIn,
    QuestionOut,
    ReadingOut,
    RouteIn,
    RouteOut,
    RoutesOut,
    RuleOut,
    StationOut,
    TankOut,
    UnreachedOut,
    WalkFixedOut,
    WalkNowOut,
    WalkOut,
    good_out,
)
from jutrel.api.machine.yard import drawing_out, machine_out, sides_out
from jutrel.api.wire import KindOut, Slug
from jutrel.core.defect.authority import NEEDED, Clear
from jutrel.core.defect.defect import Defect
from jutrel.core.defect.settle import Court
from jutrel.core.errors import BadInput
from jutrel.core.glossary import others_for
from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.finding import Conditions, Finding
from jutrel.core.inspection.kinds import Opened
from jutrel.core.inspection.pace import show_me
from jutrel.core.log.codec import decode, encode
from jutrel.core.machine.drawing import plan_drawing, side_to_see
from jutrel.core.machine.drawing.part import PartKind
from jutrel.core.machine.family import Level, SystemClass
from jutrel.core.people import EDITORS
from jutrel.core.procedure.school import WAY_ROUND, as_words, told_at
from jutrel.core.reading.all import READINGS
from jutrel.core.reading.bound import machine_says
from jutrel.core.route.plan import Route, Wishes
from jutrel.core.wording import NOTHING, Wording, spoken
from jutrel.service.clearance.clearance import short_says
from jutrel.service.context import Here
from jutrel.service.grading.grade import grade_one
from jutrel.service.inspection.look import meter_now
from jutrel.service.machine.file import good_of
from jutrel.service.machine.find import unit_of
from jutrel.service.machine.models import unit_model
from jutrel.service.people.people import Actor, here_and_actor, names_of
from jutrel.service.route.walk import MachineWalk, Ways, direction_here, machine_walk, walk_again, way_of
from jutrel.service.site.schools import chosen_here

router = APIRouter(prefix="/api", responses=PROBLEMS)
MOST_KEPT = 64
MOST_TOLD = 200


def defect_out(d: Defect, grade: Grade, who: Actor, look: str, here: Here, wording: Wording) -> DefectOut:
    """Something open on a machine, with what clearing it takes of the person who asks."""
    court = Court((), d.reports)
    order = (Clear.FREE, Clear.REASON, Clear.PUT_RIGHT, Clear.SECOND, Clear.MECHANIC)
    takes = [court.clear_for(r, who.person.id, who.person.role, look, here.now) for r in d.reports]
    return DefectOut(
        id=d.id,
        checkpoint=d.key[0],
        finding=FindingOut.model_validate(encode(d.latest.finding)),
        grade=grade.word,  # type: ignore[arg-type]
        since=d.first.at,
        by=d.first.by,
        reports=d.looks,
        limits=[wording.say(t) for t in d.limits],
        due_hour=d.due_hour,
        entries=list(dict.fromkeys(r.entry for r in d.reports)),
        clear=max(takes, key=order.index),
        needs=wording.say(NEEDED[d.grade]),
        pending_by=d.pending_by,
    )


def _stations(w: MachineWalk, route: Route, wording: Wording) -> list[StationOut]:
    """Stations in the planned order; those that no way leads to stand last."""
    legs = {leg.station: leg for leg in route.legs}
    names = {s.id: s for s in w.walk.stations}
    out = []
    for id_ in [*legs, *(s for s in names if s not in legs)]:
        s, leg = names[id_], legs.get(id_)
        at = w.walk.model.station_places[id_]
        look = sum(c.seconds for c in w.walk.at(id_))
        out.append(
            StationOut(
                id=id_,
                name=wording.word("station", s.name),
                level=s.level,
                stance=wording.word("stance", s.stance),
                at=at,
                height=_floor(w, id_, s.level),
                line=list(leg.line) if leg else [at],
                metres=leg.metres if leg else 0.0,
                look_s=look,
                seconds=look + (leg.seconds if leg else 0.0),
            )
        )
    return out


def _floor(w: MachineWalk, station: str, level: Level) -> float:
    """How high one stands at a station [m]: the cab's floor, the deck one walks on, the ground."""
    if level is Level.CAB:
        return next((p.low[2] for p in w.walk.model.parts if p.kind is PartKind.CAB), 0.0)
    if level is not Level.DECK:
        return 0.0
    heights = {c.id: w.walk.model.places[c.id][2] for c in w.walk.at(station)}
    walked_on = [heights[c.id] for c in w.walk.at(station) if c.duty is not None and c.duty.id == "climb"]
    return min(walked_on or heights.values(), default=0.0)


class ToldWays:
    """Ways as they were told, by everything that they follow from: the same question has the same answer."""

    def __init__(self) -> None:
        self.kept: OrderedDict[object, bytes] = OrderedDict()

    def keep(self, key: object, told: bytes) -> bytes:
        """Keep an answer; gives it back."""
        self.kept[key] = told
        if len(self.kept) > MOST_TOLD:
            self.kept.popitem(last=False)
        return told


async def way_told(here: Here, machine: str, asked: str) -> tuple[object, bytes | None]:
    """What names a question about a machine's way, and its answer if it was given before.

    The unit's row names the end of its log: what is open, fitted and pinned follows from that.
    """
    unit = await unit_of(here, machine)
    edition, _ = here.editions.of(await unit_model(here, unit, own=False))
    key = (here.site.id, unit.id, unit.seq, unit.head, edition, asked)
    return key, here.books.one(ToldWays).kept.get(key)


class Fixed:
    """What is the same in every walk of one `bound` with the same checkpoints, as bytes."""

    def __init__(self) -> None:
        self._kept: OrderedDict[object, bytes] = OrderedDict()

    def of(self, here: Here, w: MachineWalk, wording: Wording) -> bytes:
        """The fields of a `WalkFixedOut`, as the inside of a JSON object."""
        ids, done = tuple(c.id for c in w.walk.checkpoints), as_words(w.schools)
        key = (w.bound, ids, done, here.catalog.rulebook.version, wording.language)
        if key not in self._kept:
            self._kept[key] = walk_fixed(here, w, wording).model_dump_json()[1:-1].encode()
            if len(self._kept) > MOST_KEPT:
                self._kept.popitem(last=False)
        self._kept.move_to_end(key)
        return self._kept[key]


def others(name: str, here: Here, wording: Wording) -> tuple[str, ...]:
    """What else people say for what a place is called."""
    return others_for(name, here.catalog.glossary, wording.language)


def walk_fixed(here: Here, w: MachineWalk, wording: Wording) -> WalkFixedOut:
    """What a walk shows of the machine and the rules it goes by."""
    model = w.walk.model
    edition = w.look.heard.case.edition if w.look else None
    book = edition.rulebook if edition else here.catalog.rulebook
    used = {m for c in w.walk.checkpoints for m in c.failure_modes}
    return WalkFixedOut(
        kinds=[KindOut.model_validate(spoken(k, wording)) for k in here.catalog.kinds.values() if k.walked],
        questions=[QuestionOut.model_validate(spoken(q, wording)) for q in here.catalog.questions],
        limits=[
            limit_out(x, model.limits[x.id], x.id in w.own_limits, wording)
            for x in model.family.limits
            if x.id in model.limits
        ],
        model_id=model.id,
        options=sorted(w.walk.options),
        drawing=drawing_out(plan_drawing(model)),
        sides=sides_out(model),
        checkpoints=[
            CheckpointOut.model_validate(
                {
                    **spoken(c, wording),
                    "system": wording.word("system", c.system.name),
                    "system_id": c.system.id,
                    "duty": wording.word("duty", c.duty.name) if c.duty else "",
                    "duty_id": c.duty.id if c.duty else "",
                    "put_right": [m for m in c.failure_modes if book.may_put_right(Finding(m), c)],
                    "life": c.kind is SystemClass.LIFE,
                    "at": model.places[c.id],
                    "part": model.on_part.get(c.id, ""),
                    "side": side_to_see(model.station_places[c.station][1], model.places[c.id][1]),
                    "here": [wording.word("school", x) for x in told_at(c.id, here.catalog.schools, w.schools)],
                    "also": [*(wording.word("also called", a) for a in c.also), *others(c.name, here, wording)],
                    "readings": [
                        {
                            "reading": b.reading,
                            "title": wording.say(READINGS[b.reading].title),
                            "control": READINGS[b.reading].control,
                            "known": {
                                k: list(v) if isinstance(v, tuple) else v for k, v in machine_says(b, model).items()
                            },
                        }
                        for b in c.readings
                        if b.reading in READINGS
                    ],
                }
            )
            for c in w.walk.checkpoints
        ],
        modes=[
            ModeOut.model_validate(
                {
                    **spoken(m, wording),
                    "put_right": wording.word("put right", m.put_right.says) if m.put_right else "",
                }
            )
            for m in book.modes.values()
            if m.id in used
        ],
        attributes=[AttributeOut.model_validate(spoken(a, wording)) for a in book.attributes.values() if a.ask],
        tank=TankOut.model_validate(spoken(model.tank, wording)),
    )


async def walk_now(
    here: Here, who: Actor, w: MachineWalk, look: str, wording: Wording
) -> Callable[[Route], WalkNowOut]:
    """What a walk shows beside: the occasion, what is open; to be made as soon as the way is planned."""
    model = w.walk.model
    here.books.last_known[model.id] = model
    kind = w.walk.kind
    short = await short_says(here, w.unit.id, kind.id) if kind and not look else NOTHING
    names = await names_of(here)
    meter = await meter_now(here, w.unit)
    furthest = max(meter.readings, key=lambda r: (r.total, r.at), default=None)
    good = await good_of(here, w.unit)

    def make(route: Route) -> WalkNowOut:
        stations = _stations(w, route, wording)
        return WalkNowOut(
            machine=machine_out(w.unit, model, wording),
            log=LogEndOut(seq=w.unit.seq, head=w.unit.head),
            kind=KindOut.model_validate(spoken(w.walk.kind, wording)) if w.walk.kind else None,
            clears_not=wording.say(short),
            because=[BecauseOut.model_validate(spoken(b, wording)) for b in w.walk.because],
            unreached=[UnreachedOut.model_validate(spoken(u, wording)) for u in route.unreached],
            rules=[RuleOut.model_validate(spoken(r, wording)) for r in route.rules],
            moving_s=route.moving_s,
            show_me=list(show_me(look, w.walk)) if look else [],
            good=good_out(good, names),
            may_show_good=who.person.role in EDITORS,
            zone=here.site.zone,
            shift_hours=here.site.shift_hours,
            stations=stations,
            carried=[
                defect_out(d, w.grades[d.id], who, look, here, wording)
                for d in sorted(w.defects, key=lambda d: (-w.grades[d.id], d.first.at))
                if any(r.look != look for r in d.reports)
            ],
            open_inspection=w.current.id if w.current else None,
            open_by=names.get(w.current.last_by, "") if w.current else "",
            last_reading=ReadingOut.model_validate(furthest) if furthest else None,
            planned_s=sum(s.seconds for s in stations),
            people=names,
        )

    return make


async def _walk(request: Request, wording: Wording, machine: str, occasion: OccasionIn | None) -> Response:
    """A walk as the client sees it: by the rules it is bound to once it has begun."""
    shop = shop_of(request)
    look = (occasion.inspection or "") if occasion else ""
    async with shop.store.transaction() as db:
        here, who = await here_and_actor(db, shop.books, token_of(request), now())
        opened = opened_of(occasion.purpose, occasion.conditions.model_dump(), here) if occasion else None
        w = await machine_walk(here, machine, opened, look)
        make = await walk_now(here, who, w, look, wording)
        fixed = here.books.one(Fixed).of(here, w, wording)
    made = make(await way_of(shop, w)).model_dump_json()
    return Response(b"{" + fixed + b"," + made[1:].encode(), media_type="application/json")


def opened_of(purpose: str, conditions: object, here: Here) -> Opened:
    """What an approach says, before there is an entry of it; raises BadInput for a kind there is not."""
    if purpose not in here.catalog.kinds or not here.catalog.kinds[purpose].walked:
        raise BadInput(
            "purpose",
            "'{purpose}' is no kind of inspection; one of {those}",
            purpose=purpose,
            those=", ".join(k.id for k in here.catalog.kinds.values() if k.walked),
        )
    return Opened(0.0, decode(Conditions, conditions, "conditions"), frozenset(), purpose)


@router.get("/machines/{machine}/walk", tags=["walk-around"], response_model=WalkOut)
async def get_walk(request: Request, wording: Tongue, machine: Slug) -> Response:
    """Everything this unit has: drawings, stations, checkpoints, what is open."""
    return await _walk(request, wording, machine, None)


@router.post("/machines/{machine}/walk", tags=["walk-around"], response_model=WalkOut)
async def post_walk(request: Request, wording: Tongue, machine: Slug, body: OccasionIn) -> Response:
    """The walk for one occasion: what its kind and the answers on the approach take, in the shortest order."""
    return await _walk(request, wording, machine, body)


@router.post("/machines/{machine}/route", tags=["walk-around"], response_model=RoutesOut)
async def post_route(request: Request, wording: Tongue, machine: Slug, body: RouteIn) -> Response:
    """The shortest way on from where one stands, for one person or shared by two."""
    shop = shop_of(request)
    asked = Wishes(
        pin_start=body.pin_start,
        direction=body.direction,
        blocked=frozenset(body.blocked),
        done=frozenset(body.done),
        here=body.here,
    )
    async with shop.store.transaction() as db:
        here, _ = await here_and_actor(db, shop.books, token_of(request), now())
        opened = opened_of(body.purpose, body.conditions.model_dump(), here)
        # What the site chose is asked alone: a model's own way changes with the machine's log. What is looked at every
        # so many days changes with the day.
        chosen = (await chosen_here(here)).get(WAY_ROUND) if body.direction is None else None
        way = chosen.choice if chosen else ""
        key, told = await way_told(here, machine, f"{wording.language} {way} {here.now:%F} {await request.body()!r}")
        if told is None:
            asked = replace(asked, direction=body.direction or await direction_here(here, machine))
            walk, bound, wishes = await walk_again(here, machine, opened, frozenset(body.open_at), asked)
    if told is None:
        routes = await shop.books.one(Ways).planned(shop, walk, bound, wishes, body.people)
        told = shop.books.one(ToldWays).keep(key, routes_out(routes, wording).model_dump_json().encode())
    return Response(told, media_type="application/json")


def routes_out(routes: Sequence[Route], wording: Wording) -> RoutesOut:
    """Ways as the client sees them."""
    return RoutesOut(
        people=[
            RouteOut(
                legs=[LegOut.model_validate(leg) for leg in r.legs],
                moving_s=r.moving_s,
                looking_s=r.looking_s,
                unreached=[UnreachedOut.model_validate(spoken(u, wording)) for u in r.unreached],
            )
            for r in routes
        ]
    )


@router.post("/grade", tags=["readings"])
async def post_grade(here: Work, who: Who, wording: Tongue, body: GradeIn) -> ItemOut:
    """The grade of one finding with its trace, as a preview on the look as it stands. Stores nothing."""
    opened = Opened(
        body.opened.hour_meter,
        decode(Conditions, body.opened.conditions.model_dump(), "conditions"),
        frozenset(body.opened.options),
        body.opened.purpose,
    )
    finding = decode(Finding, body.finding.model_dump(), "finding")
    item = await grade_one(here, who, body.machine, body.inspection or "", opened, body.checkpoint, finding)
    return ItemOut.model_validate(spoken(item, wording))
