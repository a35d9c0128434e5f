"""The record of a look: made once, when it is signed, and then never again; else as the look stands now."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from jutrel.core.grading.grade import Grade
from jutrel.core.grading.verdict import Verdict
from jutrel.core.inspection.finding import Answer, Conditions
from jutrel.core.inspection.hear import Heard
from jutrel.core.inspection.kinds import Answered, Signed
from jutrel.core.log.chain import START
from jutrel.core.log.codec import encode
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import kind_of
from jutrel.core.machine.unit import Unit
from jutrel.core.wording import ENGLISH, Wording, say, spoken
from jutrel.exchange.record import (
    Record,
    RecordCheckpoint,
    RecordEntry,
    RecordMachine,
    RecordPerson,
    RecordPhoto,
    RecordSite,
    RecordVerdict,
    written,
)
from jutrel.service.context import Here
from jutrel.service.inspection.look import Kept, LookStanding, standing
from jutrel.service.machine.models import own_file_of
from jutrel.service.people.pens import certificates_of, site_key
from jutrel.service.people.people import people
from jutrel.store.queries import log as log_store
from jutrel.store.queries import photos as photo_store

CAUTION = say("The machine's manual, the site's rules, the law and a competent person come before this record.")


def _checkpoints(heard: Heard, verdict: Verdict, wording: Wording) -> list[RecordCheckpoint]:
    grades: dict[str, Grade] = {}
    for item in verdict.items:
        grades[item.checkpoint] = max(item.grade, grades.get(item.checkpoint, Grade.SOUND))
    levels = dict(verdict.levels)
    out = []
    for c in heard.walk.checkpoints:
        heads = heard.look.heads.get(c.id, ())
        entry = heads[-1] if heads else None
        answer: Answer | None = None
        note = ""
        if entry is not None and isinstance(entry.what, Answered):
            answer = entry.what.answer
            note = entry.what.reason or "; ".join(f.note for f in entry.what.findings if f.note)
        elif entry is not None and (level := levels.get(c.id)) is not None:
            note = wording.say(level.judgement.action)
            if level.corrected is not None:
                answer = Answer.DEFECT if grades.get(c.id, Grade.SOUND) > Grade.SOUND else Answer.SOUND
        out.append(
            RecordCheckpoint(
                id=c.id,
                name=wording.word("checkpoint", c.name),
                station=c.station,
                system=wording.word("system", c.system.name),
                mandatory=c.mandatory,
                answer=answer,
                grade=grades.get(c.id, Grade.SOUND).word,  # type: ignore[arg-type]
                by=entry.by if entry else None,
                at=entry.time if entry else None,
                note=note,
                photos=list(heard.look.photos.get(c.id, ())),
            )
        )
    return out


def _entry(e: Entry) -> RecordEntry:
    plain = encode(e)
    return RecordEntry.model_validate(
        {k: plain[k] for k in RecordEntry.model_fields if k != "kind"} | {"kind": kind_of(e.what).name}
    )


async def _linked(here: Here, unit: Unit, entries: Sequence[Entry]) -> list[RecordEntry]:
    """Entries in the order of the log, with the hash of the one before each.

    Whoever keeps them in mind knows it, and whoever read them again does not: a document says the same by both.
    """
    lack = [e.seq - 1 for e in entries if not e.prev and e.seq > 1]
    before = {0: START, **await log_store.hashes_at(here.db, here.site.id, unit.id, lack)}
    ordered = sorted(entries, key=lambda e: e.seq)
    return [_entry(e if e.prev else replace(e, prev=before.get(e.seq - 1, ""))) for e in ordered]


def _named(entries: Iterable[Entry]) -> set[str]:
    return {p for e in entries for p in (e.by, e.sent_by)}


async def _made(here: Here, unit: Unit, look_id: str, heard: Heard, verdict: Verdict, wording: Wording) -> Record:
    look, walk, case = heard.look, heard.walk, heard.case
    model = walk.model
    roles = {e.by: e.role for e in case.entries}
    named = _named(case.entries) | _named(case.others) | {r.by for r in case.earlier}
    photos = {(p.id, p.by): p for p in await photo_store.photos_of(here.db, here.site.id, look_id)}
    authors = {e.what.photo: e.by for e in case.entries if kind_of(e.what).name == "photographed"}  # type: ignore[attr-defined]
    hours = case.hours
    shown = look.opened.hour_meter
    under = {e.pen for e in (*case.entries, *case.others) if e.seal}
    pens = await certificates_of(here, under)
    key = (await site_key(here))[1] if pens else ""
    return Record(
        inspection=look_id,
        status=look.status,
        site=RecordSite(id=here.site.id, name=here.site.name, zone=here.site.zone, key=key),
        machine=RecordMachine(
            id=unit.id,
            name=unit.name,
            maker=model.maker,
            model=model.name,
            model_id=model.id,
            family=wording.word("family", model.family.name),
            options=sorted(walk.options),
            own_limits=dict(look.pins.own_limits),
            model_file=await own_file_of(here, model.id),
        ),
        people=[
            RecordPerson(id=p.id, name=p.name, role=roles.get(p.id, p.role))
            for p in await people(here, with_inactive=True)
            if p.id in named
        ],
        kind=walk.kind.id if walk.kind else "pre-start",
        kind_name=wording.word("inspection", walk.kind.name) if walk.kind else "",
        hour_meter=shown,
        meter_offset=round(hours - shown, 4) if hours is not None else 0.0,
        language=wording.language,
        conditions=encode(look.opened.conditions if look.opening else Conditions()),
        edition=look.pins.edition,
        entries=await _linked(here, unit, case.entries),
        earlier=[spoken(r, wording) for r in case.earlier],
        pens=pens,
        others=await _linked(here, unit, case.others),
        shifts={**case.starts, **({case.look: case.start} if case.start is not None else {})},
        holds_until=case.until,
        checkpoints=_checkpoints(heard, verdict, wording),
        photos=[
            RecordPhoto(
                id=photo,
                checkpoint=checkpoint,
                sha256=photos[photo, authors[photo]].sha256 if (photo, authors.get(photo, "")) in photos else None,
            )
            for checkpoint, ids in look.photos.items()
            for photo in ids
        ],
        notes=[e.id for e in look.notes],
        verdict=RecordVerdict.model_validate(spoken(verdict, wording)),
        caution=wording.say(CAUTION),
    )


def bytes_of(record: Record) -> bytes:
    """A record as a document: the same bytes for the same content."""
    return written(record.model_dump(mode="json"))


async def keep_signed(here: Here, unit: Unit, look_id: str, kept: Kept) -> None:
    """Keep what a signature stands for: the document and the verdict, in the words that were read."""
    assert isinstance(kept.signature.what, Signed)
    wording = here.books.languages.wording(kept.signature.what.language)
    made = await _made(here, unit, look_id, kept.heard, kept.heard.verdict, wording)
    await log_store.keep_record(
        here.db, here.site.id, kept.signature.id, look_id, bytes_of(made), encode(kept.heard.verdict)
    )


async def record_bytes(here: Here, look_id: str, wording: Wording = ENGLISH) -> tuple[bytes, LookStanding]:
    """A look's record as a document: as it was signed, in the signer's words; or as it stands, in the reader's."""
    s = await standing(here, look_id)
    signature = s.heard.look.signature
    if signature is not None and s.heard.look.status.value == "signed":
        found = await log_store.record_of(here.db, here.site.id, signature.id)
        if found is not None:
            return found[0], s
    return bytes_of(await _made(here, s.unit, look_id, s.heard, s.verdict, wording)), s
