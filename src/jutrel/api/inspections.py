"""Routes: entries, inspections, photos and records."""

from __future__ import annotations

import json
from typing import Any

from fastapi import APIRouter, Query, Request, Response

from jutrel.api.door import PHOTO_BODY, PROBLEMS, Db, Who, now, photo_of
from jutrel.api.walk import machine_out
from jutrel.api.wire import (
    BatchIn,
    EntryOut,
    HistoryOut,
    InspectionOut,
    InspectionRowOut,
    KindOut,
    PaceOut,
    RefusedOut,
    Slug,
    TakenOut,
    Uuid7,
    VerdictOut,
)
from jutrel.catalog import catalog
from jutrel.core.inspection.entry import Conditions
from jutrel.core.inspection.pace import pace_of
from jutrel.core.machine.drawing import plan_drawing
from jutrel.core.plain import to_plain
from jutrel.exchange.paper import record_pdf
from jutrel.exchange.record import Record, record_schema
from jutrel.service.inspection import Sent, core_entry, history, standing, take_entries
from jutrel.service.people import people
from jutrel.service.photo import keep_photo, photo_bytes
from jutrel.service.problem import Problem
from jutrel.service.record import record

router = APIRouter(prefix="/api", responses=PROBLEMS)


@router.post("/entries", tags=["walk-around"])
async def post_entries(db: Db, who: Who, body: BatchIn) -> TakenOut:
    """Store entries, each once, whatever the order and however often they are sent."""
    batch = [
        Sent(e.id, e.what.kind, e.by, e.at, e.what.model_dump(mode="json", exclude={"kind"})) for e in body.entries
    ]
    for sent in batch:
        if sent.at.tzinfo is None:
            raise Problem("bad-input", "Say the zone of the entry's time.", field="entries.at")
    if len({s.id for s in batch}) != len(batch):
        raise Problem("bad-input", "An id stands twice in this batch.", field="entries.id")
    taken = await take_entries(db, who, body.machine, body.inspection, batch, now())
    return TakenOut(
        stored=list(taken.stored),
        known=list(taken.known),
        refused=[RefusedOut.model_validate(r) for r in taken.refused],
    )


@router.get("/inspections", tags=["records"])
async def get_history(
    db: Db, who: Who, machine: Slug | None = None, limit: int = Query(60, ge=1, le=500)
) -> HistoryOut:
    """Inspections of one machine or of all, newest first."""
    names = {p.id: p.name for p in await people(db, who.site, with_inactive=True)}
    rows = await history(db, who.site, machine, limit)
    return HistoryOut(
        inspections=[
            InspectionRowOut.model_validate(
                {
                    "id": r.id,
                    "machine": r.machine_id,
                    "kind": r.kind,
                    "kind_name": catalog().kinds[r.kind].name if r.kind in catalog().kinds else r.kind,
                    "status": r.status,
                    "outcome": r.outcome,
                    "why": r.why,
                    "opened_at": r.opened_at,
                    "opened_by": names.get(r.opened_by, "?"),
                    "signed_at": r.signed_at,
                    "signed_by": names.get(r.signed_by, "?") if r.signed_by else None,
                    "hour_meter": r.hour_meter,
                    "answered": r.answered,
                    "planned": r.planned,
                    "worst": [f["grade"] for f in r.open_findings],
                }
            )
            for r in rows
        ]
    )


@router.get("/inspections/{inspection}", tags=["walk-around"])
async def get_inspection(db: Db, who: Who, inspection: Uuid7) -> InspectionOut:
    """An inspection as it stands: all entries and the verdict."""
    s = await standing(db, who.site, inspection)
    state = s.inspection
    names = {p.id: p.name for p in await people(db, who.site, with_inactive=True)}
    return InspectionOut(
        id=s.id,
        machine=machine_out(s.machine, s.walk.model),
        kind=KindOut.model_validate(s.walk.kind or catalog().kinds["pre-start"]),
        pace=PaceOut.model_validate(pace_of(s.id, state, [core_entry(r) for r in s.entries], s.walk)),
        status=state.status,
        hour_meter=state.hour_meter,
        conditions=to_plain(state.opened.conditions if state.opened else Conditions()),
        entries=[EntryOut.model_validate(r) for r in s.entries],
        late=list(state.late),
        verdict=VerdictOut.model_validate(to_plain(s.verdict)),
        people=names,
        opened_at=state.opening.at if state.opening else None,
        signed_at=state.signature.at if state.signature else None,
        signed_by=names.get(state.signature.by) if state.signature else None,
    )


@router.get("/inspections/{inspection}/record.json", tags=["records"])
async def get_record(db: Db, who: Who, inspection: Uuid7, response: Response) -> Record:
    """The record as an open document; its schema is at /api/record-schema."""
    made, _, _ = await record(db, who.site, inspection)
    response.headers["Content-Disposition"] = f'attachment; filename="{made.machine.id}-{inspection[:13]}.json"'
    return made


@router.get(
    "/inspections/{inspection}/record.pdf",
    tags=["records"],
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
)
async def get_pdf(db: Db, who: Who, inspection: Uuid7) -> Response:
    """The record on paper, A4."""
    made, s, photos = await record(db, who.site, inspection)
    data = record_pdf(made, s.walk.model, plan_drawing(s.walk.model.shape), photos)
    name = f"{made.machine.id}-{inspection[:13]}.pdf"
    return Response(data, media_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{name}"'})


@router.get(
    "/record-schema",
    tags=["records"],
    response_class=Response,
    responses={200: {"content": {"application/schema+json": {}}}},
)
async def get_schema() -> Response:
    """The JSON Schema of a record."""
    return Response(json.dumps(record_schema(), indent=2), media_type="application/schema+json")


@router.put(
    "/photos/{photo}",
    tags=["walk-around"],
    status_code=204,
    openapi_extra=PHOTO_BODY,
)
async def put_photo(request: Request, db: Db, who: Who, photo: Uuid7, inspection: Uuid7) -> None:
    """Keep a photo under the id its device gave it."""
    await keep_photo(db, who, photo, inspection, await photo_of(request), now())


@router.get(
    "/photos/{photo}", tags=["walk-around"], response_class=Response, responses={200: {"content": {"image/jpeg": {}}}}
)
async def get_photo(db: Db, who: Who, photo: Uuid7) -> Response:
    """A kept photo."""
    row = await photo_bytes(db, who.site, photo)
    headers: dict[str, Any] = {"Cache-Control": "private, max-age=604800, immutable"}
    return Response(row.data, media_type=row.mime, headers=headers)
