"""Routes: looks and their records."""

from __future__ import annotations

import json

from fastapi import APIRouter, Query, Request, Response

from jutrel.api.cookies import token_of
from jutrel.api.door import PROBLEMS, Who, Work, now, plain_json, shop_of
from jutrel.api.inspection.look_out import Items, answers_out, entries_out, look_now, notes_out, undoable_out
from jutrel.api.inspection.wire import HistoryOut, InspectionOut, InspectionRowOut, LookNowOut, OpeningOut, PaceOut
from jutrel.api.inspection.wire_verdict import verdict_out
from jutrel.api.language import Tongue
from jutrel.api.machine.yard import machine_out
from jutrel.api.wire import KindOut, Slug, Uuid7
from jutrel.core.inspection.look import lapsed
from jutrel.core.inspection.pace import pace_of
from jutrel.core.log.codec import encode
from jutrel.core.wording import spoken
from jutrel.exchange.record import Record, record_schema
from jutrel.service.clearance.clearance import barred
from jutrel.service.inspection.look import history, standing
from jutrel.service.inspection.paper import Papers
from jutrel.service.inspection.record import record_bytes
from jutrel.service.people.people import here_and_actor, names_of

router = APIRouter(prefix="/api", responses=PROBLEMS)


@router.get("/inspections", tags=["records"])
async def get_history(
    here: Work, who: Who, wording: Tongue, machine: Slug | None = None, limit: int = Query(60, ge=1, le=500)
) -> HistoryOut:
    """Inspections of one machine or of all, newest first."""
    names = await names_of(here)
    kinds = here.catalog.kinds
    return HistoryOut(
        inspections=[
            InspectionRowOut.model_validate(
                {
                    **spoken(look, wording),
                    "machine": unit,
                    "kind_name": wording.word("inspection", kinds[look.kind].name) if look.kind in kinds else look.kind,
                    "status": lapsed(look.status, look.begun_at, here.now),
                    "opened_at": look.begun_at,
                    "opened_by": names.get(look.begun_by, "?"),
                    "signed_by": names.get(look.signed_by, "?") if look.signed_by else None,
                }
            )
            for unit, look in await history(here, machine, limit)
        ]
    )


@router.get("/inspections/{inspection}", tags=["walk-around"])
async def get_inspection(here: Work, who: Who, wording: Tongue, inspection: Uuid7) -> InspectionOut:
    """An inspection as it stands: what counts at each checkpoint, all entries and the verdict."""
    s = await standing(here, inspection)
    look, walk = s.heard.look, s.walk
    names = await names_of(here)
    opened = look.opened if look.opening else None
    return InspectionOut(
        id=s.id,
        machine=machine_out(s.unit, walk.model, wording),
        kind=KindOut.model_validate(spoken(walk.kind or here.catalog.kinds["pre-start"], wording)),
        pace=PaceOut.model_validate(spoken(pace_of(s.id, look, s.entries, walk), wording)),
        status=look.status_at(here.now),
        hour_meter=s.heard.case.hours or 0.0,
        conditions=encode(look.opened.conditions),
        opened=OpeningOut.model_validate(encode(opened)) if opened else None,
        seq=s.unit.seq,
        answers=answers_out(s, who, here.now),
        notes=notes_out(s),
        photos={k: list(v) for k, v in look.photos.items()},
        visits=[e.what.station for e in look.arrivals],  # type: ignore[attr-defined]
        undoable=undoable_out(s, who, here.now),
        entries=entries_out(s, wording),
        late=list(look.late),
        verdict=verdict_out(s.verdict, wording),
        people=names,
        joined=list(look.people),
        handed_over=look.handed_over.what.note if look.handed_over else "",  # type: ignore[attr-defined]
        abandoned=look.abandoned.what.reason if look.abandoned else "",  # type: ignore[attr-defined]
        opened_at=look.opening.time if look.opening else None,
        signed_at=look.signature.time if look.signature else None,
        signed_by=names.get(look.signature.by) if look.signature else None,
        edition=look.pins.edition,
        locked=wording.say(await barred(here, s)),
    )


@router.get("/inspections/{inspection}/now", tags=["walk-around"], response_model=LookNowOut)
async def get_news(here: Work, who: Who, wording: Tongue, inspection: Uuid7, since: int = Query(ge=0)) -> Response:
    """What has become of an inspection since a place of the machine's log: others' answers, the verdict."""
    items = here.books.one(Items)
    return plain_json(look_now(await standing(here, inspection), who, since, here.now, items, wording))


@router.get("/inspections/{inspection}/record.json", tags=["records"], response_model=Record)
async def get_record(here: Work, who: Who, wording: Tongue, inspection: Uuid7) -> Response:
    """The record as an open document; signed, it is the same bytes for good. Its schema is at /api/record-schema."""
    content, s = await record_bytes(here, inspection, wording)
    name = f'attachment; filename="{s.unit.id}-{inspection[:13]}.json"'
    return Response(content, media_type="application/json", headers={"Content-Disposition": name})


@router.get(
    "/inspections/{inspection}/record.pdf",
    tags=["records"],
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
)
async def get_pdf(request: Request, wording: Tongue, inspection: Uuid7) -> Response:
    """The record on paper, A4."""
    shop = shop_of(request)
    async with shop.store.transaction() as db:
        here, _ = await here_and_actor(db, shop.books, token_of(request), now())
        wanted = await shop.books.one(Papers).wanted(here, inspection, wording.language)
    data = await shop.books.one(Papers).pdf(shop, wanted)
    name = f"{wanted.machine}-{inspection[:13]}.pdf"
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
