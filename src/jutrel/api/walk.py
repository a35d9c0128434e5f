"""Routes: the yard, a machine's walk, readings and grades."""

from __future__ import annotations

from fastapi import APIRouter, Request

from jutrel.api.door import PROBLEMS, Db, Who, now, store_of
from jutrel.api.wire import (
    GradeIn,
    HydraulicLevelIn,
    HydraulicLevelOut,
    ItemOut,
    KindOut,
    LeakIn,
    LeakOut,
    MachineOut,
    Slug,
)
from jutrel.api.wire_machine import (
    AttributeOut,
    BecauseOut,
    CheckpointOut,
    DrawingOut,
    LegOut,
    LimitOut,
    ModeOut,
    OccasionIn,
    QuestionOut,
    RouteIn,
    RouteOut,
    RoutesOut,
    RuleOut,
    StationOut,
    TankOut,
    UnreachedOut,
    WalkOut,
    YardMachineOut,
    YardOut,
)
from jutrel.catalog import catalog
from jutrel.core.errors import BadInput
from jutrel.core.inspection.entry import Opened
from jutrel.core.inspection.pace import show_me
from jutrel.core.inspection.plan import Wishes
from jutrel.core.machine.drawing import Drawing, plan_drawing, side_drawing
from jutrel.core.machine.family import SystemClass
from jutrel.core.machine.model import Model
from jutrel.core.plain import conditions_of, to_plain
from jutrel.core.reading.leak import leak_reading
from jutrel.core.reading.tank import hydraulic_level
from jutrel.service.grade import grade_one, shipped_model
from jutrel.service.models import known_model, known_models
from jutrel.service.people import only_site, people
from jutrel.service.walk import MachineWalk, machine_walk, route_again
from jutrel.service.yard import yard
from jutrel.store.tables import MachineRow

router = APIRouter(prefix="/api", responses=PROBLEMS)


def machine_out(row: MachineRow, model: Model) -> MachineOut:
    """A unit as the client sees it."""
    return MachineOut(
        id=row.id,
        name=row.name,
        model=model.name,
        maker=model.maker,
        family=model.family.name,
        hour_meter=row.hour_meter,
        meter_offset=row.meter_offset,
        bay=row.bay,
    )


def drawing_out(drawing: Drawing) -> DrawingOut:
    """The plan drawing with its bounds."""
    return DrawingOut.model_validate({**to_plain(drawing), "bounds": drawing.bounds})


@router.get("/yard", tags=["yard"])
async def get_yard(db: Db, who: Who) -> YardOut:
    """Every machine of the site: can it go, and why not."""
    site, at = await only_site(db), now()
    models = await known_models(db, who.site)
    rows = [y for y in await yard(db, who.site, at) if y.machine.model_id in models]
    return YardOut(
        site=site.name,
        zone=site.zone,
        at=at,
        machines=[
            YardMachineOut(
                machine=machine_out(y.machine, models[y.machine.model_id].model),
                go=y.go,
                why=y.why,
                limits=(y.last.limits if y.last and y.go == "limited" else []),
                open_findings=len((y.current or y.last).open_findings) if (y.current or y.last) else 0,  # type: ignore[union-attr]
                signed_by=y.signed_by,
                signed_at=y.last.signed_at if y.last else None,
                valid_until=y.last.valid_until if y.last else None,
                walked_by=y.walked_by,
                answered=y.current.answered if y.current else 0,
                planned=y.current.planned if y.current else 0,
                last=y.last.id if y.last else None,
                current=y.current.id if y.current else None,
                drawing=drawing_out(plan_drawing(models[y.machine.model_id].model.shape)),
            )
            for y in rows
        ],
    )


def _stations(w: MachineWalk) -> list[StationOut]:
    """Stations in the planned order; those that no way leads to stand last."""
    legs = {leg.station: leg for leg in w.route.legs}
    names = {s.id: s for s in w.walk.stations}
    places = w.walk.model.places
    out = []
    for id_ in [*legs, *(s for s in names if s not in legs)]:
        s, leg = names[id_], legs.get(id_)
        at = w.walk.model.station_places[id_]
        look = sum(c.seconds for c in w.walk.at(id_))
        heights = [places[c.id][2] for c in w.walk.at(id_)]
        out.append(
            StationOut(
                id=id_,
                name=s.name,
                level=s.level,
                stance=s.stance,
                at=at,
                height=min(heights) if s.level in ("deck", "cab") else 0.0,
                line=list(leg.line) if leg else [at],
                metres=leg.metres if leg else 0.0,
                look_s=look,
                seconds=look + (leg.seconds if leg else 0.0),
            )
        )
    return out


def walk_out(w: MachineWalk, names: dict[str, str], asks: tuple[str, ...] = ()) -> WalkOut:
    """A walk as the client sees it."""
    book, model = catalog().rulebook, w.walk.model
    stations = _stations(w)
    used = {m for c in w.walk.checkpoints for m in c.failure_modes}
    return WalkOut(
        machine=machine_out(w.machine, model),
        kind=KindOut.model_validate(w.walk.kind) if w.walk.kind else None,
        kinds=[KindOut.model_validate(k) for k in catalog().kinds.values()],
        questions=[QuestionOut.model_validate(q) for q in catalog().questions],
        because=[BecauseOut.model_validate(b) for b in w.walk.because],
        unreached=[UnreachedOut.model_validate(u) for u in w.route.unreached],
        rules=[RuleOut.model_validate(r) for r in w.route.rules],
        moving_s=w.route.moving_s,
        show_me=list(asks),
        limits=[
            LimitOut(id=x.id, name=x.name, unit=x.unit, value=model.limits[x.id], own=x.id in w.own_limits)
            for x in model.family.limits
            if x.id in model.limits
        ],
        model_id=model.id,
        options=sorted(w.walk.options),
        zone=w.site.zone,
        shift_hours=w.site.shift_hours,
        drawing=drawing_out(plan_drawing(model.shape)),
        side=drawing_out(side_drawing(model.shape)),
        stations=stations,
        checkpoints=[
            CheckpointOut.model_validate(
                {
                    **to_plain(c),
                    "system": c.system.name,
                    "life": c.system.kind is SystemClass.LIFE,
                    "at": model.places[c.id],
                }
            )
            for c in w.walk.checkpoints
        ],
        modes=[ModeOut.model_validate(to_plain(m)) for m in book.modes.values() if m.id in used],
        attributes=[AttributeOut.model_validate(to_plain(a)) for a in book.attributes.values() if a.ask],
        tank=TankOut.model_validate(to_plain(model.tank)),
        carried=to_plain(w.carried),
        open_inspection=w.open_inspection,
        planned_s=sum(s.seconds for s in stations),
        people=names,
    )


@router.get("/machines/{machine}/walk", tags=["walk-around"])
async def get_walk(db: Db, who: Who, machine: Slug) -> WalkOut:
    """Everything this unit has: drawings, stations, checkpoints, what is open from earlier."""
    w = await machine_walk(db, who.site, machine, now())
    return walk_out(w, {p.id: p.name for p in await people(db, who.site, with_inactive=True)})


@router.post("/machines/{machine}/walk", tags=["walk-around"])
async def post_walk(db: Db, who: Who, machine: Slug, body: OccasionIn) -> WalkOut:
    """The walk for one occasion: what its kind and the answers on the approach take, in the shortest order."""
    if body.purpose not in catalog().kinds:
        raise BadInput("purpose", f"'{body.purpose}' is no kind of inspection; one of {', '.join(catalog().kinds)}")
    opened = Opened(0.0, conditions_of(body.conditions.model_dump()), frozenset(), (), body.purpose)
    w = await machine_walk(db, who.site, machine, now(), opened, body.inspection or "")
    names = {p.id: p.name for p in await people(db, who.site, with_inactive=True)}
    return walk_out(w, names, show_me(body.inspection, w.walk) if body.inspection else ())


@router.post("/machines/{machine}/route", tags=["walk-around"])
async def post_route(db: Db, who: Who, machine: Slug, body: RouteIn) -> RoutesOut:
    """The shortest way on from where one stands, for one person or shared by two."""
    opened = Opened(0.0, conditions_of(body.conditions.model_dump()), frozenset(), (), body.purpose)
    wishes = Wishes(
        pin_start=body.pin_start,
        direction=body.direction,
        blocked=frozenset(body.blocked),
        done=frozenset(body.done),
        here=body.here,
    )
    _, routes = await route_again(db, who.site, machine, opened, frozenset(body.open_at), wishes, body.people)
    return RoutesOut(
        people=[
            RouteOut(
                legs=[LegOut.model_validate(leg) for leg in r.legs],
                moving_s=r.moving_s,
                looking_s=r.looking_s,
                unreached=[UnreachedOut.model_validate(u) for u in r.unreached],
            )
            for r in routes
        ]
    )


async def _model(request: Request, model_id: str) -> Model:
    """A model that ships, with no need of the store; else one that a site wrote itself."""
    model = catalog().models.get(model_id)
    if model is None:
        async with store_of(request).transaction() as db:
            site = await only_site(db)
            model = await known_model(db, site.id, model_id)
    return model or shipped_model(model_id)


@router.post("/readings/hydraulic-level", tags=["readings"])
async def post_hydraulic_level(request: Request, body: HydraulicLevelIn) -> HydraulicLevelOut:
    """The hydraulic level corrected for posture, temperature and slope. Pure: stores nothing, needs no session."""
    model = await _model(request, body.model)
    read = hydraulic_level(model.tank, body.seen, body.oil_c, body.pitch_deg, body.roll_deg, body.extensions)
    return HydraulicLevelOut.model_validate(to_plain(read))


@router.post("/readings/leak", tags=["readings"])
async def post_leak(request: Request, body: LeakIn) -> LeakOut:
    """A leak's rate and the hours to the ADD mark. Pure: stores nothing, needs no session."""
    reserve = (await _model(request, body.model)).reserves.get(body.fluid or "")
    read = leak_reading(body.leak_class, reserve, body.shift_hours, body.drops, body.seconds, body.coupling)
    return LeakOut.model_validate(to_plain(read))


@router.post("/grade", tags=["readings"])
async def post_grade(request: Request, body: GradeIn) -> ItemOut:
    """The grade of one finding with its trace, as a preview. Pure: stores nothing, needs no session."""
    item = grade_one(
        await _model(request, body.model),
        body.options,
        body.hour_meter,
        body.conditions.model_dump(),
        body.checkpoint,
        body.finding.model_dump(),
        [c.model_dump(mode="json") for c in body.carried],
    )
    return ItemOut.model_validate(to_plain(item))
