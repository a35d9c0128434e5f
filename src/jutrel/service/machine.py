"""A machine's file: writing a unit down, changing it, another hour meter, its photo."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.ext.asyncio import AsyncSession

from jutrel.core.errors import BadInput
from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.entry import Changed
from jutrel.core.machine.file import (
    Filed,
    FileEntry,
    FilePayload,
    MachineFile,
    MeterReplaced,
    Pictured,
    check_filed,
    file_news,
    fold_file,
)
from jutrel.core.machine.model import Model, walk_of
from jutrel.core.plain import to_plain
from jutrel.service.models import EDITORS, known_model
from jutrel.service.people import Actor, allow
from jutrel.service.photo import store_photo
from jutrel.service.problem import Conflict, NotFound
from jutrel.store.tables import InspectionRow, MachineEntryRow, MachineRow

KINDS: dict[str, type[FilePayload]] = {"filed": Filed, "meter": MeterReplaced, "pictured": Pictured}


@dataclass(frozen=True, slots=True)
class MachineOnFile:
    """A unit, its model, its file's log and what that comes to."""

    row: MachineRow
    model: Model
    entries: tuple[FileEntry, ...]
    file: MachineFile


def _payload(kind: str, what: dict[str, Any]) -> FilePayload:
    if kind == "filed":
        return Filed(**{**what, "options": frozenset(what["options"])})
    return KINDS[kind](**what)


def _kind(what: FilePayload) -> str:
    return next(kind for kind, made in KINDS.items() if isinstance(what, made))


async def file_entries(db: AsyncSession, site: str, machine: str) -> list[FileEntry]:
    """The log of a machine's file."""
    query = (
        select(MachineEntryRow)
        .where(MachineEntryRow.site_id == site, MachineEntryRow.machine_id == machine)
        .order_by(MachineEntryRow.id)
    )
    rows = (await db.execute(query)).scalars()
    return [FileEntry(r.id, r.by, r.at, _payload(r.kind, r.what)) for r in rows]


async def machine_on_file(db: AsyncSession, site: str, machine: str) -> MachineOnFile:
    """A unit's file; NotFound if there is no such unit."""
    row = await db.get(MachineRow, (site, machine))
    if row is None:
        raise NotFound("no-machine", f"There is no machine '{machine}' on this site.")
    model = await known_model(db, site, row.model_id)
    if model is None:
        raise NotFound("no-model", f"There is no model '{row.model_id}' for {row.name}.")
    entries = await file_entries(db, site, machine)
    file = fold_file(entries)
    if file is None:
        raise NotFound("no-file", f"Nothing has been written down about '{machine}' yet.")
    return MachineOnFile(row, model, tuple(entries), file)


async def news_on_file(db: AsyncSession, row: MachineRow, since: datetime, model: Model) -> tuple[Changed, ...]:
    """What the file says has changed on the unit since then."""
    return file_news(await file_entries(db, row.site_id, row.id), since, model.family)


async def write_file(
    db: AsyncSession, actor: Actor, machine: str, entry: str, what: FilePayload, now: datetime, hours: float = 0.0
) -> MachineOnFile:
    """Add one entry to a machine's file, once; `hours` [h] is the meter of a unit written down for the first time.

    Raises
    ------
    BadInput
        For a field that cannot be so, naming it.
    Conflict
        If the id belongs to another entry, or an open finding would be lost from sight.
    """
    allow(actor, *EDITORS)
    plain = to_plain(what)
    digest = hashlib.sha256(json.dumps([machine, _kind(what), plain], sort_keys=True).encode()).hexdigest()
    row = await db.get(MachineRow, (actor.site, machine), with_for_update=True)
    have = await db.get(MachineEntryRow, (actor.site, entry))
    if have is not None:
        if have.digest != digest or row is None:
            raise Conflict("id-taken", "Another entry with this id is already recorded.", field="id")
        return await machine_on_file(db, actor.site, machine)
    match what:
        case Filed():
            row = await _file(db, actor, machine, row, what, hours)
        case MeterReplaced():
            _replace_meter(_there(row, machine), what)
        case Pictured(photo=photo):
            _there(row, machine).photo = photo
    db.add(
        MachineEntryRow(
            site_id=actor.site,
            id=entry,
            machine_id=machine,
            kind=_kind(what),
            what=plain,
            at=now,
            by=actor.person.id,
            device=actor.device,
            digest=digest,
        )
    )
    await db.flush()
    return await machine_on_file(db, actor.site, machine)


def _there(row: MachineRow | None, machine: str) -> MachineRow:
    if row is None:
        raise NotFound("no-machine", f"There is no machine '{machine}' on this site.")
    return row


async def _file(
    db: AsyncSession, actor: Actor, machine: str, row: MachineRow | None, filed: Filed, hours: float
) -> MachineRow:
    model = await known_model(db, actor.site, filed.model_id)
    if model is None:
        raise BadInput("model_id", f"there is no model '{filed.model_id}'")
    check_filed(filed, model)
    same = await db.execute(
        select(MachineRow.id).where(
            MachineRow.site_id == actor.site, MachineRow.name == filed.name, MachineRow.id != machine
        )
    )
    if same.first():
        raise BadInput("name", f"another machine of this site is called '{filed.name}'")
    if row is None:
        row = MachineRow(site_id=actor.site, id=machine, hour_meter=hours, meter_offset=0.0)
        db.add(row)
    else:
        await _nothing_lost(db, row, model, filed)
    row.name, row.model_id, row.options = filed.name, filed.model_id, sorted(filed.options)
    row.own_limits, row.bay, row.active = dict(filed.own_limits), filed.bay, filed.active
    await db.flush()  # the machine stands before the entry that speaks of it
    return row


async def _nothing_lost(db: AsyncSession, row: MachineRow, model: Model, filed: Filed) -> None:
    """An option whose checkpoint has something open from Mend upward stays until that is released."""
    last = (
        await db.execute(
            select(InspectionRow)
            .where(InspectionRow.site_id == row.site_id, InspectionRow.machine_id == row.id)
            .order_by(InspectionRow.opened_at.desc(), InspectionRow.id.desc())
            .limit(1)
        )
    ).scalar_one_or_none()
    kept = {c.id for c in walk_of(model, filed.options).checkpoints}
    for found in last.open_findings if last else ():
        if found["checkpoint"] not in kept and Grade.of(found["grade"]) >= Grade.MEND:
            raise Conflict(
                "open-finding",
                f"'{found['checkpoint']}' has a {found['grade'].capitalize()} open and would be lost from sight: "
                "a mechanic releases it first.",
                field="options" if filed.model_id == row.model_id else "model_id",
            )


def _replace_meter(row: MachineRow, what: MeterReplaced) -> None:
    reading = row.hour_meter - row.meter_offset
    if not 0 <= what.first <= what.last <= 200_000:
        raise BadInput("first", "the new meter begins at nought or more, and not above the old one")
    if what.last < reading - 0.05:
        raise BadInput("last", f"the old meter was read at {reading:.1f} h already")
    if not what.why.strip():
        raise BadInput("why", "say why the meter was replaced")
    total = row.meter_offset + what.last
    row.hour_meter = max(row.hour_meter, total)
    row.meter_offset = round(total - what.first, 4)


async def keep_picture(
    db: AsyncSession, actor: Actor, machine: str, photo: str, data: bytes, now: datetime
) -> MachineOnFile:
    """Keep a photo of the unit under the id its device gave it, and note it in the file; once."""
    allow(actor, *EDITORS)
    await store_photo(db, actor, photo, f"machine/{machine}", data, now)
    return await write_file(db, actor, machine, photo, Pictured(photo), now)


def meter_of(row: MachineRow) -> float:
    """What the hour meter shows [h], as last known."""
    return round(row.hour_meter - row.meter_offset, 4)


def names_of_fields(entries: Sequence[FileEntry]) -> list[tuple[FileEntry, list[str]]]:
    """Each entry with the names of the fields that it changed."""
    out: list[tuple[FileEntry, list[str]]] = []
    before: Filed | None = None
    for entry in entries:
        changed: list[str] = []
        if isinstance(entry.what, Filed):
            old = to_plain(before) if before else {}
            changed = [key for key, value in to_plain(entry.what).items() if old.get(key) != value]
            before = entry.what
        out.append((entry, changed))
    return out
