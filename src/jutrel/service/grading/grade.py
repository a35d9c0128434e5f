"""Grading without a record: one finding as a preview on its look, or a file's findings alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any

from jutrel.catalog.compile import edition_of
from jutrel.catalog.files import BadFile
from jutrel.catalog.whole import Catalog
from jutrel.core.defect.report import Report
from jutrel.core.edition import Edition
from jutrel.core.errors import BadInput
from jutrel.core.grading.finding_grade import check_finding
from jutrel.core.grading.item import Item
from jutrel.core.grading.verdict import Verdict
from jutrel.core.inspection.finding import Answer, Conditions, Finding
from jutrel.core.inspection.hear import Case, hear
from jutrel.core.inspection.kinds import Answered, Opened
from jutrel.core.log.codec import decode, time_of
from jutrel.core.log.entry import Entry, Pins
from jutrel.core.log.kinds import payload_of
from jutrel.core.machine.meter import Meter
from jutrel.core.machine.model import walk_of
from jutrel.core.people import Role
from jutrel.service.context import Here
from jutrel.service.inspection.look import case_of, pins_now
from jutrel.service.inspection.look import edition_of as pinned_edition
from jutrel.service.machine.find import unit_of
from jutrel.service.machine.models import check_options, read_model, shipped_model
from jutrel.service.people.people import Actor
from jutrel.store.queries import log as log_store

NOBODY = "00000000-0000-4000-8000-000000000000"
EPOCH = datetime(2000, 1, 1, tzinfo=UTC)
PREVIEW = "ffffffff-ffff-7fff-bfff-ffffffffffff"
OPENING = "00000000-0000-7000-8000-000000000000"


async def grade_one(
    here: Here, actor: Actor, machine: str, inspection: str, opened: Opened, checkpoint: str, finding: Finding
) -> Item:
    """The grade that one finding would have on this machine now: the verdict's own way, on the look as it stands.

    Raises
    ------
    BadInput
        If this machine has no such checkpoint, or the finding cannot be read.
    """
    unit = await unit_of(here, machine)
    entries = await log_store.entries_of_stream(here.db, here.site.id, inspection) if inspection else []
    look = inspection or "preview"
    if not entries:
        first = Entry(
            OPENING,
            machine,
            look,
            actor.person.id,
            here.now,
            opened,
            role=actor.person.role,
            pins=await pins_now(here, unit),
        )
        entries = [first]
    case = await case_of(here, unit, look, entries)
    if checkpoint not in {c.id for c in case.edition.model.family.checkpoints}:
        raise BadInput("checkpoint", "this machine has no checkpoint '{checkpoint}'", checkpoint=checkpoint)
    check_finding(finding, (await pinned_edition(here, entries)).rulebook)
    seen = frozenset(
        [e.id for e in entries if getattr(e.what, "checkpoint", None) == checkpoint]
        + [r.entry for r in case.earlier if r.checkpoint == checkpoint]
    )
    what = Answered(checkpoint, Answer.DEFECT, (finding,), reason="preview")
    at = max(here.now, *(e.time for e in entries)) + timedelta(milliseconds=1)
    entry = Entry(PREVIEW, machine, look, actor.person.id, at, what, seen, role=actor.person.role)
    heard = hear(replace(case, entries=[*entries, entry]))
    items = [
        i for i in heard.verdict.items if i.checkpoint == checkpoint and i.finding.failure_mode == finding.failure_mode
    ]
    return next((i for i in items if PREVIEW in i.entries), items[0])


def _entry_of(data: Mapping[str, Any]) -> Entry:
    """An entry of an exported record."""
    try:
        pins = data.get("pins")
        return Entry(
            id=str(data["id"]),
            machine="",
            stream=str(data["stream"]),
            by=str(data["by"]),
            at=time_of("at", data["at"]),
            what=payload_of(str(data["kind"]), data["what"]),
            replaces=frozenset(data["replaces"]),
            offset_ms=data["offset_ms"],
            seq=int(data["seq"]),
            role=Role(data["role"]),
            received_at=time_of("received_at", data["received_at"]),
            heard_at=time_of("heard_at", data["heard_at"]),
            pins=None if pins is None else decode(Pins, pins, "pins"),
        )
    except (KeyError, TypeError, ValueError) as error:
        if isinstance(error, BadInput):
            raise
        raise BadInput(
            "entries", "an entry of the record cannot be read: {error}; export it again", error=error
        ) from None


def _edition(catalog: Catalog, machine: Mapping[str, Any]) -> Edition:
    """Today's rules on the model of a record's machine: from the file it brings along, or the one that ships."""
    text = machine.get("model_file")
    if text is None:
        return edition_of(catalog, shipped_model(catalog, str(machine.get("model_id"))))
    try:
        return edition_of(catalog, read_model(catalog, "machine.model_file", str(text)))
    except BadFile as error:
        raise BadInput("machine.model_file", error.said) from None


def record_case(catalog: Catalog, document: Mapping[str, Any]) -> Case:
    """An exported record as a case under today's rules; raises BadInput."""
    machine = document.get("machine")
    if not isinstance(machine, Mapping) or not isinstance(document.get("entries"), list):
        raise BadInput("machine", "the record has no machine or no entries; export it again")
    try:
        shifts = {k: (time_of("shifts", at), float(h)) for k, (at, h) in dict(document.get("shifts") or {}).items()}
        offset = float(document.get("meter_offset") or 0.0)
        until = datetime.fromisoformat(str(document["holds_until"])) if document.get("holds_until") else None
    except (TypeError, ValueError) as error:
        raise BadInput("shifts", "cannot be read: {error}", error=error) from None
    return Case(
        look=str(document.get("inspection")),
        edition=_edition(catalog, machine),
        entries=[_entry_of(e) for e in document["entries"]],
        meter=Meter(fitted=((datetime(1970, 1, 2, tzinfo=UTC), offset),)),
        others=[_entry_of(e) for e in document.get("others") or ()],
        earlier=[decode(Report, r, "earlier") for r in document.get("earlier") or ()],
        starts=shifts,
        said_until=until,
    )


@dataclass(frozen=True, slots=True)
class GradedFile:
    """A verdict on a file; `assumed`: what it did not speak of was taken as sound."""

    verdict: Verdict
    assumed: bool


def grade_file(catalog: Catalog, document: Mapping[str, Any]) -> GradedFile:
    """The verdict that today's rules give on an exported record, or on findings alone.

    Raises
    ------
    BadInput
        If it is neither, or cannot be read.
    """
    if document.get("format") == "jutrel-record":
        return GradedFile(hear(record_case(catalog, document)).verdict, False)
    if "findings" not in document:
        raise BadInput("findings", "give an exported record, or 'model' and 'findings'")
    options: Sequence[str] = list(document.get("options", []))
    model = shipped_model(catalog, str(document.get("model")))
    check_options(model, options)
    by_checkpoint: dict[str, list[Finding]] = {}
    for found in document["findings"]:
        if not isinstance(found, Mapping) or "checkpoint" not in found:
            raise BadInput("findings", "each finding names its checkpoint")
        finding = decode(Finding, {k: v for k, v in found.items() if k != "checkpoint"}, "findings")
        check_finding(finding, catalog.rulebook)
        by_checkpoint.setdefault(str(found["checkpoint"]), []).append(finding)
    walk = walk_of(model, frozenset(options))
    for checkpoint in by_checkpoint:
        if walk.checkpoint(checkpoint) is None:
            raise BadInput("findings", "this machine has no checkpoint '{checkpoint}'", checkpoint=checkpoint)
    opened = Opened(
        decode(float, document.get("hour_meter", 0), "hour_meter"),
        decode(Conditions, document.get("conditions", {}), "conditions"),
        frozenset(options),
    )
    pins = Pins("", frozenset(options))
    entries = [Entry("0", "", "look", NOBODY, EPOCH, opened, pins=pins)]
    for number, c in enumerate(walk.checkpoints, 1):
        found_here = tuple(by_checkpoint.get(c.id, ()))
        answer = Answer.DEFECT if found_here else Answer.SOUND
        what = Answered(c.id, answer, found_here)
        entries.append(Entry(f"{number}", "", "look", NOBODY, EPOCH + timedelta(seconds=number), what))
    return GradedFile(hear(Case("look", edition_of(catalog, model), entries)).verdict, True)


def replayed(catalog: Catalog, document: Mapping[str, Any]) -> dict[str, Any]:
    """What a record said, what today's rules would say of the same entries, and where they differ."""
    case = record_case(catalog, document)
    today = hear(replace(case, entries=tuple(replace(e, came=None) for e in case.entries))).verdict
    said = document.get("verdict")
    if not isinstance(said, Mapping):
        raise BadInput("verdict", "the record has no verdict; export it again")
    then = {(i["checkpoint"], i["finding"]["failure_mode"]): i["grade"] for i in said.get("items", ())}
    now = {(i.checkpoint, i.finding.failure_mode): i.grade.word for i in today.items}
    changed = [
        {"checkpoint": c, "failure_mode": m, "then": then.get((c, m), "sound"), "now": now.get((c, m), "sound")}
        for c, m in sorted({*then, *now})
        if then.get((c, m), "sound") != now.get((c, m), "sound")
    ]
    return {
        "then": {"outcome": said.get("outcome"), "why": said.get("why"), "rulebook": said.get("rulebook")},
        "now": {"outcome": today.outcome.value, "why": str(today.why), "rulebook": today.rulebook},
        "same": not changed and said.get("outcome") == today.outcome.value,
        "changed": changed,
    }
