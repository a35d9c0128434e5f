"""Routes: looks and their records."""

from __future__ import annotations

import json
from datetime import datetime
from typing import Literal

from fastapi import APIRouter, Query, Response

from jutrel.api.door import PROBLEMS, Who, Work
from jutrel.api.route import machine_out
from jutrel.api.wire import (
    AnswerOut,
    EntryOut,
    FindingOut,
    HistoryOut,
    InspectionOut,
    InspectionRowOut,
    KindOut,
    MeasuredOut,
    NoteOut,
    OpeningOut,
    PaceOut,
    Slug,
    UndoableOut,
    Uuid7,
    VerdictOut,
)
from jutrel.core.defect.authority import Clear
from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.kinds import Answered, Measured, Noted, Photographed
from jutrel.core.inspection.look import lapsed
from jutrel.core.inspection.pace import pace_of
from jutrel.core.log.codec import encode
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import kind_of
from jutrel.core.machine.drawing import plan_drawing
from jutrel.exchange.paper import record_pdf
from jutrel.exchange.record import Record, record_schema
from jutrel.service.look import Standing, history, standing
from jutrel.service.people import Actor, names_of
from jutrel.service.record import record, record_bytes

router = APIRouter(prefix="/api", responses=PROBLEMS)
HARDEST = (Clear.FREE, Clear.REASON, Clear.PUT_RIGHT, Clear.SECOND, Clear.MECHANIC)


@router.get("/inspections", tags=["records"])
async def get_history(
    here: Work, who: Who, machine: Slug | None = None, limit: int = Query(60, ge=1, le=500)
) -> HistoryOut:
    """Inspections of one machine or of all, newest first."""
    names = await names_of(here)
    kinds = here.catalog.kinds
    return HistoryOut(
        inspections=[
            InspectionRowOut.model_validate(
                {
                    **encode(look),
                    "machine": unit,
                    "kind_name": kinds[look.kind].name if look.kind in kinds else look.kind,
                    "status": lapsed(look.status, look.begun_at, here.now),
                    "opened_at": look.begun_at,
                    "opened_by": names.get(look.begun_by, "?"),
                    "signed_by": names.get(look.signed_by, "?") if look.signed_by else None,
                }
            )
            for unit, look in await history(here, machine, limit)
        ]
    )


def _answer(checkpoint: str, heads: tuple[Entry, ...], s: Standing, who: Actor, at: datetime) -> AnswerOut:
    """What stands at a checkpoint, for the person who asks."""
    court = s.heard.court
    reports = [r for e in heads for r in court.reports.get(e.id, ())]
    takes = [court.clear_for(r, who.person.id, who.person.role, s.id, at) for r in reports]
    words: list[Literal["sound", "defect", "unseen", "measured"]] = []
    findings: list[FindingOut] = []
    measured = None
    for e in heads:
        match e.what:
            case Answered(answer=answer, findings=found):
                words.append(answer.value)
                findings += [FindingOut.model_validate(encode(f)) for f in found]
            case Measured():
                words.append("measured")
                measured = MeasuredOut.model_validate(e.what, from_attributes=True)
    order = ("sound", "measured", "unseen", "defect")
    return AnswerOut(
        checkpoint=checkpoint,
        heads=[e.id for e in heads],
        by=[e.by for e in heads],
        answer=max(words, key=order.index),
        differ=len(heads) > 1,
        findings=findings,
        reason=next((e.what.reason for e in heads if isinstance(e.what, Answered) and e.what.reason), ""),
        measured=measured,
        grade=max((i.grade for i in s.verdict.items if i.checkpoint == checkpoint), default=Grade.SOUND).word,  # type: ignore[arg-type]
        clear=max(takes, key=HARDEST.index, default=Clear.FREE),
    )


def _undoable(s: Standing, who: Actor, at: datetime) -> UndoableOut | None:
    """The person's newest tap that can still be taken back."""
    court = s.heard.court
    covered = {c for e in s.entries if kind_of(e.what).name == "signed" for c in e.what.covers}  # type: ignore[attr-defined]
    for e in sorted(s.entries, key=lambda e: (e.time, e.id), reverse=True):
        if not isinstance(e.what, (Answered, Measured, Noted, Photographed)) or e.by != who.person.id:
            continue
        if e.id in covered or not court.alive(e):
            continue
        takes = [
            court.clear_for(r, who.person.id, who.person.role, s.id, at, undo=True) for r in court.reports.get(e.id, ())
        ]
        worst = max(takes, key=HARDEST.index, default=Clear.FREE)
        if worst in (Clear.FREE, Clear.REASON):
            return UndoableOut(
                id=e.id, kind=kind_of(e.what).name, checkpoint=e.what.checkpoint, reason=worst is Clear.REASON
            )
        return None
    return None


@router.get("/inspections/{inspection}", tags=["walk-around"])
async def get_inspection(here: Work, who: Who, inspection: Uuid7) -> InspectionOut:
    """An inspection as it stands: what counts at each checkpoint, all entries and the verdict."""
    s = await standing(here, inspection)
    look, walk, court = s.heard.look, s.walk, s.heard.court
    names = await names_of(here)
    ignored = {i.entry: i.says for i in court.ignored}
    opened = look.opened if look.opening else None
    return InspectionOut(
        id=s.id,
        machine=machine_out(s.unit, walk.model),
        kind=KindOut.model_validate(walk.kind or here.catalog.kinds["pre-start"]),
        pace=PaceOut.model_validate(pace_of(s.id, look, s.entries, walk)),
        status=look.status_at(here.now),
        hour_meter=s.heard.case.hours or 0.0,
        conditions=encode(look.opened.conditions),
        opened=OpeningOut.model_validate(encode(opened)) if opened else None,
        answers=[_answer(c, heads, s, who, here.now) for c, heads in look.heads.items()],
        notes=[
            NoteOut(id=e.id, text=e.what.text, checkpoint=e.what.checkpoint)
            for e in look.notes
            if isinstance(e.what, Noted)
        ],
        photos={k: list(v) for k, v in look.photos.items()},
        visits=[e.what.station for e in look.arrivals],  # type: ignore[attr-defined]
        undoable=_undoable(s, who, here.now),
        entries=[
            EntryOut(
                id=e.id,
                seq=e.seq,
                by=e.by,
                role=e.role,
                at=e.time,
                kind=kind_of(e.what).name,
                what=encode(e.what),
                counts=court.alive(e) and e.id not in ignored,
                says=ignored.get(e.id, ""),
            )
            for e in s.entries
        ],
        late=list(look.late),
        verdict=VerdictOut.model_validate(encode(s.verdict)),
        people=names,
        joined=list(look.people),
        handed_over=look.handed_over.what.note if look.handed_over else "",  # type: ignore[attr-defined]
        abandoned=look.abandoned.what.reason if look.abandoned else "",  # type: ignore[attr-defined]
        opened_at=look.opening.time if look.opening else None,
        signed_at=look.signature.time if look.signature else None,
        signed_by=names.get(look.signature.by) if look.signature else None,
        edition=look.pins.edition,
    )


@router.get("/inspections/{inspection}/record.json", tags=["records"], response_model=Record)
async def get_record(here: Work, who: Who, inspection: Uuid7) -> Response:
    """The record as an open document; signed, it is the same bytes for good. Its schema is at /api/record-schema."""
    content, s = await record_bytes(here, inspection)
    name = f'attachment; filename="{s.unit.id}-{inspection[:13]}.json"'
    return Response(content, media_type="application/json", headers={"Content-Disposition": name})


@router.get(
    "/inspections/{inspection}/record.pdf",
    tags=["records"],
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}}}},
)
async def get_pdf(here: Work, who: Who, inspection: Uuid7) -> Response:
    """The record on paper, A4."""
    made, model, photos = await record(here, inspection)
    data = record_pdf(made, model, plan_drawing(model.shape), photos)
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
