"""Bringing a database up to date: the tables, then what is in them.

What the second release kept becomes one log per machine. Nothing of it is left out; what it let anybody
clear without a right is open again.
"""

from __future__ import annotations

import asyncio
import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

from jutrel.catalog.former import former_edition
from jutrel.catalog.whole import Catalog
from jutrel.core.defect.settle import Court
from jutrel.core.edition import compiled, edition_hash
from jutrel.core.grading.verdict import Outcome
from jutrel.core.inspection.hear import Case, hear
from jutrel.core.inspection.kinds import Answered, Measured, Opened, Signed
from jutrel.core.log.chain import START, chained
from jutrel.core.log.codec import time_of
from jutrel.core.log.entry import Entry, Pins
from jutrel.core.log.kinds import payload_of
from jutrel.core.machine.meter import meter_of
from jutrel.core.machine.unit import Unit
from jutrel.core.people import Role
from jutrel.core.wording import as_written
from jutrel.service.context import Books, Here, here_of
from jutrel.service.ids import uuid7
from jutrel.service.inspection.look import Kept, edition_of
from jutrel.service.inspection.record import keep_signed
from jutrel.service.log.audit import rebuild_machine, streams_of
from jutrel.service.machine.models import unit_model
from jutrel.service.machine.standing import judged_anew
from jutrel.service.site.shops import each_site
from jutrel.store.base import Store
from jutrel.store.migrate import migrate
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import open_defects as open_rows
from jutrel.store.queries import second_release as old
from jutrel.store.queries.second_release import OldEntry

NO_REASON = "Changed by the same person before signing; no reason was asked for then."
KINDS = {"meter": "meter-replaced"}


def bring_up(url: str, catalog: Catalog) -> None:
    """Run all migrations that have not run yet, and move what an earlier release kept."""
    migrate(url)
    asyncio.run(_move(url, catalog))
    asyncio.run(_list_open(url, catalog))


async def _move(url: str, catalog: Catalog) -> None:
    store = Store(url)
    try:
        async with store.transaction() as db:
            if not await old.is_waiting(db):
                return
            if await machine_store.only_site(db) is not None:
                here = await here_of(db, Books(catalog), datetime.now(UTC))
                for unit in await _bare_units(here):
                    await _move_machine(here, unit)
            await old.done(db)
    finally:
        await store.close()


async def _list_open(url: str, catalog: Catalog) -> None:
    """Have what is open on each machine in the list of all: a release before kept no list."""
    store = Store(url)
    try:
        for one in await each_site(store):
            async with one.transaction() as db:
                if await machine_store.only_site(db) is None:
                    return
                here = await here_of(db, Books(catalog), datetime.now(UTC))
                listed = await open_rows.machines_listed(db, here.site.id)
                for unit in await _bare_units(here):
                    if unit.standing.open and unit.id not in listed:
                        await judged_anew(here, unit)
    finally:
        await store.close()


async def _bare_units(here: Here) -> list[Unit]:
    return await machine_store.units(here.db, here.site.id, with_gone=True)


def _renamed(what: Any) -> Any:
    """Fields that have another name now: 'topped_up' meant that it was still low."""
    if isinstance(what, Mapping):
        return {("still_low" if k == "topped_up" else k): _renamed(v) for k, v in what.items()}
    return [_renamed(x) for x in what] if isinstance(what, list) else what


def _pins(entry: OldEntry | None, unit: Unit, edition: str) -> Pins:
    what = entry.what if entry is not None else {}
    return Pins(
        edition,
        frozenset(what.get("options") or unit.options),
        dict(what.get("own_limits") or {}),
        {c["checkpoint"]: c["says"] for c in what.get("changed") or ()},
        frozenset(c["checkpoint"] for c in what.get("carried") or ()),
    )


def _payload(entry: OldEntry, hours: float | None) -> object:
    kind = KINDS.get(entry.kind, entry.kind)
    what = dict(_renamed(entry.what))
    if kind == "opened":
        for key in ("carried", "changed", "meter_offset", "own_limits"):
            what.pop(key, None)
    if kind == "filed" and hours is not None:
        what["hours"] = hours
    return payload_of(kind, what)


def _without_report(rows: Sequence[OldEntry]) -> list[OldEntry]:
    """Findings that openings carry though no entry reports them: their reports, as they were carried."""
    reported = {
        (str(r.what["checkpoint"]), str(f["failure_mode"]))
        for r in rows
        if r.kind == "answered"
        for f in r.what.get("findings") or ()
    }
    out: list[OldEntry] = []
    for row in sorted((r for r in rows if r.kind == "opened"), key=lambda r: r.id):
        for found in row.what.get("carried") or ():
            key = (str(found["checkpoint"]), str(found["finding"]["failure_mode"]))
            # A level is told by a reading, which is no finding in the entry itself.
            if key in reported or key[1] == "level":
                continue
            reported.add(key)
            at = time_of("since", found["since"])
            noise = int.from_bytes(hashlib.sha256("/".join((row.machine, *key)).encode()).digest()[:8], "big")
            what = {"checkpoint": key[0], "answer": "defect", "findings": [found["finding"]]}
            id_, look = uuid7(at, noise), uuid7(at, noise + 1)
            out.append(
                OldEntry(id_, row.machine, look, "answered", what, str(found["by"]), "operator", at, "", "carried", at)
            )
    return out


def entries_of(rows: Sequence[OldEntry], unit: Unit, edition: str, hours: float | None) -> list[Entry]:
    """A machine's log from what the second release kept, chained.

    There the newest answer at a checkpoint stood in for all before it, in the same look and in the next: so
    each names the one before.
    """
    rows = sorted([*rows, *_without_report(rows)], key=lambda r: (r.received_at, r.id))
    openings = {r.stream: r for r in rows if r.kind == "opened"}
    last_at: dict[str, OldEntry] = {}
    # The order in which answers stood in for one another was that of their ids.
    for row in sorted(rows, key=lambda r: r.id):
        if row.kind in ("answered", "measured"):
            key = f"{row.id}"
            before = last_at.get(str(row.what["checkpoint"]))
            if before is not None:
                last_at[key] = before
            last_at[str(row.what["checkpoint"])] = row
    begun: set[str] = set()
    log: list[Entry] = []
    head = START
    for row in rows:
        what = _payload(row, hours if row.kind == "filed" and not log else None)
        names: frozenset[str] = frozenset()
        if isinstance(what, (Answered, Measured)) and (before := last_at.get(row.id)) is not None:
            names = frozenset({before.id})
            if before.by == row.by and before.stream == row.stream and not (what.reason or what.amends):
                what = replace(what, reason=NO_REASON)
        if row.kind == "undone":
            what = replace(what, reason=NO_REASON)  # type: ignore[type-var]
            names = frozenset({str(row.what["target"])})
        pins = None
        if not row.stream.startswith("file.") and row.stream not in begun:
            begun.add(row.stream)
            pins = _pins(openings.get(row.stream), unit, edition)
        entry = Entry(
            id=row.id,
            machine=row.machine,
            stream=row.stream,
            by=row.by,
            at=row.at,
            what=what,
            replaces=names,
            role=Role(row.role),
            device=row.device,
            sent_by=row.sent_by,
            received_at=row.received_at,
            heard_at=min(row.at, row.received_at),
            pins=pins,
        )
        linked = chained(entry, len(log) + 1, head)
        head = linked.hash
        log.append(linked)
    return log


async def _move_machine(here: Here, unit: Unit) -> None:
    rows = await old.old_entries(here.db, here.site.id, unit.id)
    model = await unit_model(here, unit, own=False)
    content = compiled(former_edition(model))  # as bad as it was said to be then
    name = edition_hash(content)
    await log_store.keep_edition(here.db, name, content, here.now)
    total, offset = (await old.old_hours(here.db, here.site.id)).get(unit.id, (0.0, 0.0))
    hours = None if any(r.kind == "opened" for r in rows) else total - offset
    log = entries_of(rows, unit, name, hours)
    for stream in streams_of(log):
        await log_store.claim_stream(here.db, here.site.id, stream, unit.id)
    await log_store.add_entries(here.db, here.site.id, log)
    await _keep_records(here, unit, log)
    await machine_store.put_unit(here.db, here.site.id, replace(unit, seq=len(log), head=log[-1].hash if log else ""))
    await rebuild_machine(here, unit.id)


async def _keep_records(here: Here, unit: Unit, log: Sequence[Entry]) -> None:
    """What each signature stood for: the verdict that was signed, with today's words for its reasons."""
    said = await old.old_verdicts(here.db, here.site.id, unit.id)
    meter = meter_of(log)
    for signature in (e for e in log if isinstance(e.what, Signed)):
        before = log[: signature.seq]
        streams = {s: m for s, m in streams_of(before).items() if not s.startswith("file.")}
        cases = {s: Case(s, await edition_of(here, m), m, meter) for s, m in streams.items()}
        mine = cases[signature.stream]
        if not any(isinstance(e.what, Opened) for e in mine.entries):
            continue
        others = [
            e for e in before if e.stream != signature.stream and isinstance(e.what, (Answered, Measured, Signed))
        ]
        reports = [r for s, c in cases.items() if s != signature.stream for r in c.reports]
        court = Court(others, reports)
        starts = {s: c.start for s, c in cases.items() if c.start is not None}
        case = replace(mine, earlier=[r for r in reports if court.is_open(r)], others=others, starts=starts)
        heard = hear(case)
        assert isinstance(signature.what, Signed)
        verdict = replace(
            heard.verdict,
            outcome=Outcome(signature.what.outcome),
            why=as_written(said[signature.stream]) if signature.stream in said else heard.verdict.why,
        )
        await keep_signed(here, unit, signature.stream, Kept(signature, replace(heard, verdict=verdict)))
