"""Taking entries in, and telling how an inspection stands."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.ext.asyncio import AsyncSession

from jutrel.catalog import catalog
from jutrel.core.errors import BadInput
from jutrel.core.grading.finding_grade import check_finding
from jutrel.core.grading.news import news_of
from jutrel.core.grading.verdict import Outcome, Verdict, judge, open_findings
from jutrel.core.inspection.entry import Answer, Answered, Arrived, Entry, Measured, Opened, Photographed, Role, Signed
from jutrel.core.inspection.fold import Inspection, Status, fold
from jutrel.core.machine.file import with_own_limits
from jutrel.core.machine.model import Model, Walk, walk_of
from jutrel.core.plain import entry_of, payload_of, to_plain
from jutrel.core.reading.tank import hydraulic_level
from jutrel.service.models import model_of
from jutrel.service.people import WALKERS, Actor, allow, known_on_device
from jutrel.service.problem import NotFound
from jutrel.service.walk import carried_findings, changed_since, machine_row, occasion_of
from jutrel.store.tables import EntryRow, InspectionRow, MachineRow, PersonRow


@dataclass(frozen=True, slots=True)
class Sent:
    """An entry as a device sends it; `what` is plain data of the entry's kind."""

    id: str
    kind: str
    by: str
    at: datetime
    what: dict[str, Any]

    @property
    def digest(self) -> str:
        """Tells this entry from another one that took its id."""
        text = json.dumps([self.kind, self.by, self.at.isoformat(), self.what], sort_keys=True)
        return hashlib.sha256(text.encode()).hexdigest()


@dataclass(frozen=True, slots=True)
class Refused:
    """An entry that was not stored. `again` says whether sending it later can help."""

    id: str
    kind: str
    says: str
    field: str | None = None
    again: bool = False


@dataclass(frozen=True, slots=True)
class Taken:
    """What became of a batch: stored now, known already, refused."""

    stored: tuple[str, ...]
    known: tuple[str, ...]
    refused: tuple[Refused, ...]


@dataclass(frozen=True, slots=True)
class Standing:
    """An inspection as it stands: the log, the fold, the verdict."""

    id: str
    machine: MachineRow
    walk: Walk
    entries: tuple[EntryRow, ...]
    inspection: Inspection
    verdict: Verdict


def core_entry(row: EntryRow) -> Entry:
    """The core's view of a stored entry."""
    return Entry(row.id, row.by, Role(row.role), row.at, payload_of(row.kind, row.what))


async def take_entries(
    db: AsyncSession, actor: Actor, machine_id: str, inspection_id: str, batch: Sequence[Sent], now: datetime
) -> Taken:
    """Store a batch of entries of one inspection, each once, in any order, and renew the projection.

    Entries that cannot be stored are refused one by one; the rest is kept. The whole
    batch and its projection are one transaction.
    """
    allow(actor, *WALKERS)
    # Serialises the writers of one machine, so that two tablets cannot project past each other.
    machine = await db.get(MachineRow, (actor.site, machine_id), with_for_update=True)
    if machine is None:
        machine = await machine_row(db, actor.site, machine_id)
    model = await model_of(db, machine)
    walk = walk_of(model, frozenset(machine.options))
    ids = [s.id for s in batch]
    rows = (await db.execute(select(EntryRow).where(EntryRow.site_id == actor.site, EntryRow.id.in_(ids)))).scalars()
    have = {row.id: row for row in rows}
    stored: list[str] = []
    known: list[str] = []
    refused: list[Refused] = []
    senders = {by: await known_on_device(db, actor, by) for by in {s.by for s in batch}}
    pending: list[dict[str, Any]] = []
    # Signatures last: what they cover may arrive in the same batch.
    for sent in sorted(batch, key=lambda s: (s.kind == "signed", s.id)):
        if (old := have.get(sent.id)) is not None:
            if old.digest == sent.digest and old.inspection_id == inspection_id:
                known.append(sent.id)
            else:
                refused.append(Refused(sent.id, "id-taken", "Another entry with this id is already recorded."))
            continue
        if sent.kind in ("signed", "opened"):
            await _insert(db, pending)  # these two look at the log as it stands
        try:
            pending.append(await _checked(db, actor, senders[sent.by], machine, walk, inspection_id, sent, now))
        except BadInput as error:
            refused.append(Refused(sent.id, "bad-entry", str(error), error.field))
        except _No as no:
            refused.append(Refused(sent.id, no.kind, no.says, None, no.again))
        else:
            stored.append(sent.id)
    await _insert(db, pending)
    if stored:
        await _project(db, actor.site, machine, await model_of(db, machine, own={}), inspection_id)
    return Taken(tuple(stored), tuple(known), tuple(refused))


class _No(Exception):
    def __init__(self, kind: str, says: str, again: bool = False) -> None:
        super().__init__(says)
        self.kind, self.says, self.again = kind, says, again


async def _insert(db: AsyncSession, pending: list[dict[str, Any]]) -> None:
    if pending:
        await db.execute(insert(EntryRow), pending)
        pending.clear()


async def _checked(
    db: AsyncSession,
    actor: Actor,
    person: PersonRow | None,
    machine: MachineRow,
    walk: Walk,
    inspection: str,
    sent: Sent,
    now: datetime,
) -> dict[str, Any]:
    """The row for an entry that may be stored; raises BadInput or _No for one that may not."""
    if person is None:
        raise _No("unknown-person", "This person has never signed in on this device: sign in to send these entries.")
    payload = payload_of(sent.kind, sent.what)
    what = sent.what
    match payload:
        case Opened():
            if payload.purpose not in catalog().kinds:
                kinds = ", ".join(catalog().kinds)
                raise BadInput("purpose", f"'{payload.purpose}' is no kind of inspection; one of {kinds}")
            if payload.options != frozenset(machine.options):
                raise _No("options-differ", f"The options of {machine.name} have changed: open the walk again.")
            what = await _opening(db, actor, machine, walk.model, inspection, sent)
        case Signed():
            if sent.by != actor.person.id:
                raise _No("not-the-signer", f"{person.name} has to be signed in to send this signature.", again=True)
            await _check_signature(db, actor.site, machine, walk, inspection, sent)
        case Answered():
            _check_answer(payload, walk)
        case Measured():
            if _known_checkpoint(walk, payload.checkpoint).reading is None:
                raise BadInput("checkpoint", f"nothing is measured at '{payload.checkpoint}'")
            # Raises BadInput for figures that cannot be.
            hydraulic_level(
                walk.model.tank, payload.seen, payload.oil_c, payload.pitch_deg, payload.roll_deg, payload.extensions
            )
        case Arrived():
            if payload.station not in {s.id for s in walk.stations}:
                raise BadInput("station", f"this walk has no station '{payload.station}'")
        case Photographed():
            _known_checkpoint(walk, payload.checkpoint)
        case _:
            pass
    return {
        "site_id": actor.site,
        "id": sent.id,
        "inspection_id": inspection,
        "machine_id": machine.id,
        "kind": sent.kind,
        "what": what,
        "at": sent.at,
        "by": sent.by,
        "role": person.role,
        "sent_by": actor.person.id,
        "device": actor.device,
        "received_at": now,
        "digest": sent.digest,
    }


async def _opening(
    db: AsyncSession, actor: Actor, machine: MachineRow, model: Model, inspection: str, sent: Sent
) -> dict[str, Any]:
    """The opening with what the device is not asked to vouch for.

    That is what is open from earlier, what changed since, the unit's own figures and its earlier meters.
    """
    for row in await _rows(db, actor.site, inspection):
        if row.kind == "opened":
            raise _No("already-open", "This walk has been opened already.")
    carried = await carried_findings(db, actor.site, machine.id, leaving_out=inspection)
    machine.hour_meter = max(machine.hour_meter, float(sent.what["hour_meter"]) + machine.meter_offset)
    return {
        **sent.what,
        "carried": to_plain(carried),
        "changed": to_plain(await changed_since(db, machine, model)),
        "meter_offset": machine.meter_offset,
        "own_limits": dict(machine.own_limits),
    }


def _known_checkpoint(walk: Walk, checkpoint: str) -> Any:
    found = walk.checkpoint(checkpoint)
    if found is None:
        raise BadInput("checkpoint", f"this machine has no checkpoint '{checkpoint}'")
    return found


def _check_answer(payload: Answered, walk: Walk) -> None:
    checkpoint = _known_checkpoint(walk, payload.checkpoint)
    if payload.answer is Answer.DEFECT and not payload.findings:
        raise BadInput("findings", "say what is wrong: a defect has at least one finding")
    if payload.answer is not Answer.DEFECT and payload.findings:
        raise BadInput("findings", "only a defect has findings")
    for finding in payload.findings:
        check_finding(finding, catalog().rulebook)
        if finding.failure_mode not in checkpoint.failure_modes:
            raise BadInput(
                "failure_mode",
                f"'{finding.failure_mode}' cannot be chosen at '{checkpoint.id}'; "
                f"one of {', '.join(checkpoint.failure_modes)}",
            )


async def _check_signature(
    db: AsyncSession, site: str, machine: MachineRow, walk: Walk, inspection: str, sent: Sent
) -> None:
    """A signature must cover exactly what counts, and the verdict it names must be the one it leads to."""
    rows = await _rows(db, site, inspection)
    covers = set(sent.what["covers"])
    if covers - {r.id for r in rows}:
        raise _No("entries-missing", "Some entries of this walk have not arrived yet.", again=True)
    counted = {r.id for r in rows if r.kind != "signed"}
    late = set(fold([core_entry(r) for r in rows]).late)
    if counted - covers - late:
        raise _No("more-entries", "Another device added to this walk: read the verdict again, then sign.")
    entry = Entry(sent.id, sent.by, Role.OPERATOR, sent.at, payload_of(sent.kind, sent.what))
    state = fold([*(core_entry(r) for r in rows), entry])
    verdict = judge(state, occasion_of(walk, state.opened, state.answers), catalog().rulebook)
    if verdict.outcome is Outcome.INCOMPLETE:
        raise _No("incomplete", f"Mandatory checkpoints not looked at yet: {len(verdict.left)}.")
    if verdict.outcome != sent.what["outcome"]:
        raise _No("other-verdict", f"The verdict is now '{verdict.outcome}': read it again, then sign.")


async def _rows(db: AsyncSession, site: str, inspection: str) -> list[EntryRow]:
    query = select(EntryRow).where(EntryRow.site_id == site, EntryRow.inspection_id == inspection).order_by(EntryRow.id)
    return list((await db.execute(query)).scalars())


async def _project(db: AsyncSession, site: str, machine: MachineRow, model: Model, inspection: str) -> None:
    """Write the projection of one inspection anew from its log."""
    await db.flush()
    rows = await _rows(db, site, inspection)
    standing = _standing(inspection, machine, model, rows)
    state, verdict = standing.inspection, standing.verdict
    if state.opening is None or state.opened is None:
        return  # the opening is still under way; the entries wait in the log
    last = max(rows, key=lambda r: r.id)
    values: dict[str, Any] = {
        "machine_id": machine.id,
        "status": state.status.value,
        "opened_at": state.opening.at,
        "opened_by": state.opening.by,
        "last_at": last.at,
        "last_by": last.by,
        "signed_at": state.signature.at if state.signature and state.status is Status.SIGNED else None,
        "signed_by": state.signature.by if state.signature and state.status is Status.SIGNED else None,
        "outcome": verdict.outcome.value,
        "why": verdict.why,
        "hour_meter": state.hour_meter,
        "kind": state.opened.purpose,
        "valid_until": verdict.valid_until,
        "valid_until_hour": verdict.valid_until_hour,
        "answered": len(set(state.answers) & {c.id for c in standing.walk.checkpoints}),
        "planned": len(standing.walk.checkpoints),
        "limits": list(verdict.limits),
        "open_findings": to_plain(open_findings(verdict)),
        "changed": to_plain(news_of(verdict)),
        "rulebook": verdict.rulebook,
    }
    await db.execute(
        insert(InspectionRow)
        .values(site_id=site, id=inspection, **values)
        .on_conflict_do_update(index_elements=["site_id", "id"], set_=values)
    )


def _standing(inspection: str, machine: MachineRow, model: Model, rows: Sequence[EntryRow]) -> Standing:
    state = fold(core_entry(r) for r in rows)
    options = state.opened.options if state.opened else frozenset(machine.options)
    if state.opened:  # the figures of that day
        model = with_own_limits(model, state.opened.own_limits)
    walk = occasion_of(walk_of(model, options), state.opened, state.answers)
    return Standing(inspection, machine, walk, tuple(rows), state, judge(state, walk, catalog().rulebook))


async def standing(db: AsyncSession, site: str, inspection: str) -> Standing:
    """An inspection as it stands now; NotFound if no entry of it has arrived."""
    rows = await _rows(db, site, inspection)
    if not rows:
        raise NotFound("no-inspection", "There is no such inspection on this site.")
    machine = await machine_row(db, site, rows[0].machine_id)
    return _standing(inspection, machine, await model_of(db, machine, own={}), rows)


async def history(db: AsyncSession, site: str, machine: str | None, limit: int = 60) -> list[InspectionRow]:
    """The inspections of a machine, or of all, newest first."""
    query = select(InspectionRow).where(InspectionRow.site_id == site)
    if machine is not None:
        query = query.where(InspectionRow.machine_id == machine)
    return list((await db.execute(query.order_by(InspectionRow.opened_at.desc()).limit(limit))).scalars())


def judge_plain(model: Model, options: Sequence[str], entries: Sequence[dict[str, Any]]) -> Verdict:
    """The verdict on plain entries, as a file or a device holds them.

    Raises
    ------
    BadInput
        For an option the model has not, or an entry that cannot be read.
    """
    for option in options:
        if option not in model.options:
            raise BadInput("options", f"'{option}' is not an option of {model.name}; it has {', '.join(model.options)}")
    state = fold(entry_of(e) for e in entries)
    return judge(
        state, occasion_of(walk_of(model, frozenset(options)), state.opened, state.answers), catalog().rulebook
    )
