"""The record of an inspection: gathered for a file or for paper."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.ext.asyncio import AsyncSession

from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.entry import Answer, Answered, Conditions, Role
from jutrel.core.plain import to_plain
from jutrel.exchange.record import (
    Record,
    RecordCheckpoint,
    RecordEntry,
    RecordMachine,
    RecordPerson,
    RecordPhoto,
    RecordSite,
    RecordVerdict,
)
from jutrel.service.inspection import Standing, standing
from jutrel.service.models import own_file_of
from jutrel.store.tables import PersonRow, PhotoRow, SiteRow

CAUTION = (
    "This record does not overrule the machine's own manual, the site's rules, the law of the place or a competent "
    "person."
)


def _checkpoints(s: Standing) -> list[RecordCheckpoint]:
    grades: dict[str, Grade] = {}
    for item in s.verdict.items:
        grades[item.checkpoint] = max(item.grade, grades.get(item.checkpoint, Grade.SOUND))
    levels = dict(s.verdict.levels)
    out = []
    for c in s.walk.checkpoints:
        entry = s.inspection.answers.get(c.id)
        answer: Answer | None = None
        note = ""
        if entry is not None and isinstance(entry.what, Answered):
            answer = entry.what.answer
            note = entry.what.reason or "; ".join(f.note for f in entry.what.findings if f.note)
        elif entry is not None and (level := levels.get(c.id)) is not None:
            note = level.judgement.action
            if level.corrected is not None:
                answer = Answer.DEFECT if grades.get(c.id, Grade.SOUND) > Grade.SOUND else Answer.SOUND
        out.append(
            RecordCheckpoint.model_validate(
                {
                    "id": c.id,
                    "name": c.name,
                    "station": c.station,
                    "system": c.system.name,
                    "mandatory": c.mandatory,
                    "answer": answer,
                    "grade": grades.get(c.id, Grade.SOUND).word,
                    "by": entry.by if entry else None,
                    "at": entry.at if entry else None,
                    "note": note,
                    "photos": list(s.inspection.photos.get(c.id, ())),
                }
            )
        )
    return out


async def record(db: AsyncSession, site: str, inspection: str) -> tuple[Record, Standing, dict[str, bytes]]:
    """The record, the standing behind it and its photos by id; NotFound if there is none."""
    s = await standing(db, site, inspection)
    site_row = await db.get_one(SiteRow, site)
    people = (await db.execute(select(PersonRow).where(PersonRow.site_id == site).order_by(PersonRow.name))).scalars()
    roles = {r.by: r.role for r in s.entries}
    carried = s.inspection.opened.carried if s.inspection.opened else ()
    named = {r.by for r in s.entries} | {r.sent_by for r in s.entries} | {c.by for c in carried}
    photos = (
        await db.execute(select(PhotoRow).where(PhotoRow.site_id == site, PhotoRow.inspection_id == inspection))
    ).scalars()
    kept = {row.id: row for row in photos}
    verdict = to_plain(s.verdict)
    made = Record(
        inspection=inspection,
        status=s.inspection.status,
        site=RecordSite(id=site_row.id, name=site_row.name, zone=site_row.zone),
        machine=RecordMachine(
            id=s.machine.id,
            name=s.machine.name,
            maker=s.walk.model.maker,
            model=s.walk.model.name,
            model_id=s.walk.model.id,
            family=s.walk.model.family.name,
            options=sorted(s.walk.options),
            own_limits=dict(s.inspection.opened.own_limits) if s.inspection.opened else {},
            model_file=await own_file_of(db, site, s.machine.model_id),
        ),
        people=[
            RecordPerson(id=p.id, name=p.name, role=Role(roles.get(p.id, p.role))) for p in people if p.id in named
        ],
        kind=s.walk.kind.id if s.walk.kind else "pre-start",
        kind_name=s.walk.kind.name if s.walk.kind else "",
        hour_meter=s.inspection.opened.hour_meter if s.inspection.opened else 0.0,
        meter_offset=s.inspection.opened.meter_offset if s.inspection.opened else 0.0,
        conditions=to_plain(s.inspection.opened.conditions if s.inspection.opened else Conditions()),
        entries=[RecordEntry.model_validate(r, from_attributes=True) for r in s.entries],
        checkpoints=_checkpoints(s),
        photos=[
            RecordPhoto(id=photo, checkpoint=checkpoint, sha256=kept[photo].sha256 if photo in kept else None)
            for checkpoint, ids in s.inspection.photos.items()
            for photo in ids
        ],
        notes=[e.id for e in s.inspection.notes],
        verdict=RecordVerdict.model_validate(verdict),
        caution=CAUTION,
    )
    return made, s, {key: row.data for key, row in kept.items()}
