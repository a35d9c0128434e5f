"""A machine's file: writing a unit down, changing it, another hour meter, a wrong reading, its photo."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from jutrel.core.errors import BadInput
from jutrel.core.grading.grade import Grade
from jutrel.core.log.codec import decode, encode
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import kind_of
from jutrel.core.machine.file import (
    Filed,
    FilePayload,
    GoodPicture,
    GoodShown,
    MachineFile,
    MeterCorrected,
    MeterReplaced,
    Pictured,
    check_filed,
    file_stream,
    fold_file,
    pictures_for,
)
from jutrel.core.machine.lock import Locked, Unlocked
from jutrel.core.machine.meter import Meter, MeterReading
from jutrel.core.machine.model import Model, walk_of
from jutrel.core.machine.unit import Unit
from jutrel.core.people import EDITORS, Role
from jutrel.core.wording import Number
from jutrel.service.context import Here
from jutrel.service.inspection.look import file_entries, meter_now, open_defects
from jutrel.service.inspection.photo import store_photo
from jutrel.service.intake import take
from jutrel.service.log.sent import Sent
from jutrel.service.machine.find import unit_of
from jutrel.service.machine.models import known_model, unit_model
from jutrel.service.people.people import Actor, allow
from jutrel.service.problem import Conflict, NotAllowed, NotFound, Problem
from jutrel.service.site.shifts import timetable_about
from jutrel.store.queries import machines as store

LEAST_REASON = 10


@dataclass(frozen=True, slots=True)
class MachineOnFile:
    """A unit, its model, its file's entries, what they come to, and its meter line."""

    unit: Unit
    model: Model
    entries: tuple[Entry, ...]
    file: MachineFile
    meter: Meter

    @property
    def shows(self) -> float:
        """What the hour meter shows [h], as last known."""
        return round(self.unit.hours - self.unit.offset, 4)

    @property
    def last_reading(self) -> MeterReading | None:
        """The reading that stands furthest."""
        return max(self.meter.readings, key=lambda r: (r.total, r.at), default=None)


async def machine_on_file(here: Here, machine: str) -> MachineOnFile:
    """A unit's file; NotFound if there is no such unit."""
    unit = await unit_of(here, machine)
    entries = await file_entries(here, machine)
    file = fold_file(entries)
    if file is None:
        raise NotFound("no-file", "Nothing has been written down about '{machine}' yet.", machine=machine)
    model = await unit_model(here, unit, own=False)
    return MachineOnFile(unit, model, tuple(entries), file, await meter_now(here, unit))


async def write_file(here: Here, actor: Actor, machine: str, entry: str, what: FilePayload) -> MachineOnFile:
    """Add one entry to a machine's file, once.

    Raises
    ------
    BadInput
        For a field that cannot be so, naming it.
    Conflict
        If the id belongs to another entry, or an open defect would be lost from sight.
    """
    what = decode(type(what), encode(what))  # whole numbers become plain ones, bounds are checked
    roles = kind_of(what).roles
    allow(actor, *sorted(roles))
    unit = await store.unit(here.db, here.site.id, machine, lock=True)
    known = any(e.id == entry for e in await file_entries(here, machine)) if unit else False
    if not known:
        match what:
            case Filed():
                await _check_file(here, machine, unit, what)
                if unit is None:
                    made = Unit(machine, what.name, what.model_id, what.options)
                    await store.put_unit(here.db, here.site.id, made)
            case MeterReplaced():
                _check_meter(_there(unit, machine), what)
            case MeterCorrected():
                await _check_correction(here, actor, _there(unit, machine), what)
            case Pictured():
                _there(unit, machine)
            case GoodShown():
                await _check_good(here, _there(unit, machine), what)
            case Locked():
                _there(unit, machine)
            case Unlocked():
                _check_unlock(_there(unit, machine), actor, what)
    sent = Sent(entry, kind_of(what).name, actor.person.id, await _at(here, machine, entry), what)
    taken = await take(here, actor, machine, file_stream(machine), [sent])
    if taken.refused:
        no = taken.refused[0]
        if no.kind == "bad-entry":
            raise BadInput(no.field or "entry", no.says)
        raise Conflict(no.kind, no.says, field="id")
    return await machine_on_file(here, machine)


async def _at(here: Here, machine: str, entry: str) -> datetime:
    """The time of a file entry: the server's, and when it is sent again the one that it has."""
    have = next((e for e in await file_entries(here, machine) if e.id == entry), None)
    return have.at if have else here.now


def _there(unit: Unit | None, machine: str) -> Unit:
    if unit is None:
        raise NotFound("no-machine", "There is no machine '{machine}' on this site.", machine=machine)
    return unit


async def _check_file(here: Here, machine: str, unit: Unit | None, filed: Filed) -> None:
    model = await known_model(here, filed.model_id)
    if model is None:
        raise BadInput("model_id", "there is no model '{model_id}'", model_id=filed.model_id)
    check_filed(filed, model)
    same = await store.unit_named(here.db, here.site.id, filed.name)
    if same is not None and same != machine:
        raise BadInput("name", "another machine of this site is called '{name}'", name=filed.name)
    if unit is None:
        return
    kept = {c.id for c in walk_of(model, filed.options).checkpoints}
    for defect in await open_defects(here, unit):
        if defect.key[0] not in kept and defect.grade >= Grade.MEND:
            raise Conflict(
                "open-finding",
                "'{it}' has a {grade} open and would be lost from sight: a mechanic releases it first.",
                field="options" if filed.model_id == unit.model_id else "model_id",
                it=defect.key[0],
                grade=defect.grade.name_said,
            )


def _check_unlock(unit: Unit, actor: Actor, what: Unlocked) -> None:
    """That the lock is on, and that it is this person's to take off."""
    lock = next((x for x in unit.standing.locks if x.id == what.lock), None)
    if lock is None:
        raise NotFound("no-lock", "This lock is off this machine, or was never on it.")
    if lock.by == actor.person.id:
        return
    if actor.person.role is not Role.SUPERVISOR:
        raise NotAllowed("not-your-lock", "Only who put the lock takes it off, or a supervisor.")
    if len(what.reason.strip()) < LEAST_REASON:
        raise BadInput("reason", "say how you made sure that nobody is at the machine")


def _check_meter(unit: Unit, what: MeterReplaced) -> None:
    reading = unit.hours - unit.offset
    if what.first > what.last:
        raise BadInput("first", "the new meter begins at nought or more, and not above the old one")
    if what.last < reading - 0.05:
        raise BadInput("last", "the old meter was read at {reading} h already", reading=Number(reading, 1))


async def _check_correction(here: Here, actor: Actor, unit: Unit, what: MeterCorrected) -> None:
    """One's own reading of this shift; any other is a mechanic's or a supervisor's: hours say what is overdue."""
    meter = await meter_now(here, unit)
    found = next((r for r in meter.readings if r.entry == what.reading), None)
    if found is None and what.reading not in (meter.corrected or {}):
        raise Problem("no-reading", "There is no such reading of this meter.", field="reading")
    if not any(c.isalpha() for c in what.why):
        raise BadInput("why", "say in words how it was misread")
    if actor.person.role in (Role.MECHANIC, Role.SUPERVISOR):
        return
    mine = found is not None and found.by == actor.person.id
    table = timetable_about(here.site, here.now)
    if not mine or found is None or table.until(found.at) < here.now:
        raise NotAllowed(
            "not-your-reading",
            "You may correct your own reading of this shift. For any other, ask a mechanic or a supervisor.",
            field="reading",
        )


async def keep_picture(here: Here, actor: Actor, machine: str, photo: str, data: bytes) -> MachineOnFile:
    """Keep a photo of the unit under the id its device gave it, and note it in the file; once."""
    allow(actor, *EDITORS)
    await store_photo(here, actor.person.id, photo, f"machine/{machine}", data)
    return await write_file(here, actor, machine, photo, Pictured(photo))


async def _check_good(here: Here, unit: Unit, what: GoodShown) -> None:
    model = await unit_model(here, unit, own=False)
    if what.checkpoint not in {c.id for c in model.family.checkpoints}:
        raise BadInput("checkpoint", "this machine has no checkpoint '{checkpoint}'", checkpoint=what.checkpoint)


async def show_good(
    here: Here, actor: Actor, machine: str, entry: str, checkpoint: str, data: bytes | None, whole_model: bool
) -> tuple[GoodPicture, ...]:
    """Keep a photo of how a checkpoint looks when it is sound, or take the one that is shown away; once.

    Returns what is shown of the machine's checkpoints then. `entry` is the id of the entry and of the photo.
    """
    allow(actor, *EDITORS)
    if data is not None:
        await store_photo(here, actor.person.id, entry, f"machine/{machine}", data)
    what = GoodShown(checkpoint, entry if data is not None else None, whole_model)
    on_file = await write_file(here, actor, machine, entry, what)
    return await good_of(here, on_file.unit)


async def good_of(here: Here, unit: Unit) -> tuple[GoodPicture, ...]:
    """The pictures of sound checkpoints that a walk of this machine shows."""
    return pictures_for(*await store.good_pictures_of(here.db, here.site.id, unit.id, unit.model_id))


def names_of_fields(entries: Sequence[Entry]) -> list[tuple[Entry, list[str]]]:
    """Each entry with the names of the fields that it changed."""
    out: list[tuple[Entry, list[str]]] = []
    before: Filed | None = None
    for entry in entries:
        changed: list[str] = []
        if isinstance(entry.what, Filed):
            old = encode(before) if before else {}
            changed = [key for key, value in encode(entry.what).items() if old.get(key) != value and key != "hours"]
            before = entry.what
        out.append((entry, changed))
    return out
