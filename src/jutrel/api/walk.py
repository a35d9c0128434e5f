"""Routes: the yard, a machine's walk, readings and grades."""

from __future__ import annotations

from fastapi import APIRouter

from jutrel.api.door import PROBLEMS, Db, Who, now
from jutrel.api.wire import (
    AttributeOut,
    CheckpointOut,
    DrawingOut,
    GradeIn,
    HydraulicLevelIn,
    HydraulicLevelOut,
    ItemOut,
    LeakIn,
    LeakOut,
    MachineOut,
    ModeOut,
    Slug,
    StationOut,
    TankOut,
    WalkOut,
    YardMachineOut,
    YardOut,
)
from jutrel.catalog import catalog
from jutrel.core.errors import BadInput
from jutrel.core.machine.drawing import Drawing, plan_drawing
from jutrel.core.machine.family import SystemClass
from jutrel.core.machine.model import Model
from jutrel.core.plain import to_plain
from jutrel.core.reading.leak import leak_reading
from jutrel.core.reading.tank import hydraulic_level
from jutrel.service.grade import grade_one
from jutrel.service.people import only_site, people
from jutrel.service.walk import MachineWalk, machine_walk, model_of
from jutrel.service.yard import yard
from jutrel.store.tables import MachineRow

router = APIRouter(prefix="/api", responses=PROBLEMS)


def machine_out(row: MachineRow) -> MachineOut:
    """A unit as the client sees it."""
    model = model_of(row)
    return MachineOut(
        id=row.id,
        name=row.name,
        model=model.name,
        maker=model.maker,
        family=model.family.name,
        hour_meter=row.hour_meter,
        bay=row.bay,
    )


def drawing_out(drawing: Drawing) -> DrawingOut:
    """The plan drawing with its bounds."""
    return DrawingOut.model_validate({**to_plain(drawing), "bounds": drawing.bounds})


@router.get("/yard", tags=["yard"])
async def get_yard(db: Db, who: Who) -> YardOut:
    """Every machine of the site: can it go, and why not."""
    site, at = await only_site(db), now()
    rows = await yard(db, who.site, at)
    return YardOut(
        site=site.name,
        zone=site.zone,
        at=at,
        machines=[
            YardMachineOut(
                machine=machine_out(y.machine),
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
                drawing=drawing_out(plan_drawing(model_of(y.machine).shape)),
            )
            for y in rows
        ],
    )


def _stations(w: MachineWalk) -> list[StationOut]:
    looking = {s.id: 0 for s in w.walk.stations}
    for c in w.walk.checkpoints:
        looking[c.station] += c.seconds
    legs = {leg.station: leg for leg in w.legs}
    return [
        StationOut(
            id=s.id,
            name=s.name,
            level=s.level,
            stance=s.stance,
            at=w.walk.model.station_places[s.id],
            line=list(legs[s.id].line),
            metres=legs[s.id].metres,
            seconds=looking[s.id] + legs[s.id].seconds,
        )
        for s in w.walk.stations
    ]


@router.get("/machines/{machine}/walk", tags=["walk-around"])
async def get_walk(db: Db, who: Who, machine: Slug) -> WalkOut:
    """All that a walk round this unit needs: drawing, stations, checkpoints, what is open from earlier."""
    w = await machine_walk(db, who.site, machine, now())
    book = catalog().rulebook
    stations = _stations(w)
    used = {m for c in w.walk.checkpoints for m in c.failure_modes}
    names = {p.id: p.name for p in await people(db, who.site, with_inactive=True)}
    return WalkOut(
        machine=machine_out(w.machine),
        model_id=w.walk.model.id,
        options=sorted(w.walk.options),
        zone=w.site.zone,
        shift_hours=w.site.shift_hours,
        drawing=drawing_out(w.drawing),
        stations=stations,
        checkpoints=[
            CheckpointOut.model_validate(
                {
                    **to_plain(c),
                    "system": c.system.name,
                    "life": c.system.kind is SystemClass.LIFE,
                    "at": w.walk.model.places[c.id],
                }
            )
            for c in w.walk.checkpoints
        ],
        modes=[ModeOut.model_validate(to_plain(m)) for m in book.modes.values() if m.id in used],
        attributes=[AttributeOut.model_validate(to_plain(a)) for a in book.attributes.values() if a.ask],
        tank=TankOut.model_validate(to_plain(w.walk.model.tank)),
        carried=to_plain(w.carried),
        open_inspection=w.open_inspection,
        planned_s=sum(s.seconds for s in stations),
        people=names,
    )


def _model(model_id: str) -> Model:
    model = catalog().models.get(model_id)
    if model is None:
        raise BadInput("model", f"the catalog has no model '{model_id}'; it has {', '.join(catalog().models)}")
    return model


@router.post("/readings/hydraulic-level", tags=["readings"])
async def post_hydraulic_level(body: HydraulicLevelIn) -> HydraulicLevelOut:
    """The hydraulic level corrected for posture, temperature and slope. Pure: stores nothing, needs no session."""
    read = hydraulic_level(
        _model(body.model).tank, body.seen, body.oil_c, body.pitch_deg, body.roll_deg, body.extensions
    )
    return HydraulicLevelOut.model_validate(to_plain(read))


@router.post("/readings/leak", tags=["readings"])
async def post_leak(body: LeakIn) -> LeakOut:
    """A leak's rate and the hours to the ADD mark. Pure: stores nothing, needs no session."""
    reserve = _model(body.model).reserves.get(body.fluid or "")
    read = leak_reading(body.leak_class, reserve, body.shift_hours, body.drops, body.seconds, body.coupling)
    return LeakOut.model_validate(to_plain(read))


@router.post("/grade", tags=["readings"])
async def post_grade(body: GradeIn) -> ItemOut:
    """The grade of one finding with its trace, as a preview. Pure: stores nothing, needs no session."""
    item = grade_one(
        _model(body.model),
        body.options,
        body.hour_meter,
        body.conditions.model_dump(),
        body.checkpoint,
        body.finding.model_dump(),
        [c.model_dump(mode="json") for c in body.carried],
    )
    return ItemOut.model_validate(to_plain(item))
