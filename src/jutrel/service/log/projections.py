"""What was stored, written down for lists and for the machine's row, in the transaction that stored it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import astuple, replace

from jutrel.core.defect.defect import defects_of
from jutrel.core.inspection.hear import Case, Heard
from jutrel.core.log.entry import Entry
from jutrel.core.machine.file import fold_file, good_pictures
from jutrel.core.machine.state import LookSummary, Newest, newest_of
from jutrel.core.machine.unit import Unit
from jutrel.service.context import Here
from jutrel.service.inspection.look import (
    KnownLook,
    case_more,
    case_of,
    court_of,
    dated,
    edition_of,
    known_of,
    meter_now,
    open_defects,
    summarised,
)
from jutrel.service.machine.standing import Was, put_unit
from jutrel.service.problem import NotFound
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import projections as rows


async def project(
    here: Here, unit: Unit, stream: str, entries: Sequence[Entry], fresh: Sequence[Entry] = (), was: Was | None = None
) -> Unit:
    """Write what a stream amounts to, in the transaction that stored its entries; the unit as it is then.

    `fresh`: those that came in now; `was`: the look without them, where it is known: then only what they change is
    worked out and written.
    """
    if stream.startswith("file."):
        return await _project_file(here, unit, entries)
    if stream.startswith("defect."):
        court, starts, reports = await court_of(here, unit, stream, entries)
        await rows.put_reports(here.db, here.site.id, unit.id, reports, court.settled)
        return await put_unit(here, unit, defects_of(court, starts), entries, whole=unit.newest.whole)
    known = case = None
    if was is not None and was.look is not None:
        case = await case_more(here, unit, was.look.heard.case, fresh)
        known = was.look.heard if case is not None else None
    before = was.look if was is not None and case is not None else None
    now = await known_of(here, case or await case_of(here, unit, stream, entries), before)
    await _put_reports(here, unit, now, known)
    case, summary = now.heard.case, now.summary
    whole, furthest = unit.newest.whole, unit.standing.furthest_seq
    if (case.hours or 0.0) > unit.hours and case.opening is not None:
        furthest = case.opening.seq
    unit = replace(unit, hours=max(unit.hours, case.hours or 0.0))
    # A look under way stays what it was among the others until it is signed or ended.
    if was is None or was.look is None or was.look.summary.status is not summary.status or known is None:
        unit = replace(unit, newest=await _newest(here, unit, summary))
    await rows.put_look(here.db, here.site.id, unit.id, summary)
    unit = await put_unit(here, unit, now.heard.defects, entries, now, whole, furthest, was.about if was else None)
    here.books.shelf.put(here.where, unit, f"look {stream}", now)
    return unit


async def _put_reports(here: Here, unit: Unit, now: KnownLook, known: Heard | None) -> None:
    """Write what a look reports and touches; of one that is known only what is otherwise by now."""
    case, settled = now.heard.case, now.heard.court.settled
    told = [*case.reports, *case.earlier]
    if known is None:
        await rows.drop_reports(here.db, here.site.id, case.look, {(r.entry, r.index) for r in case.reports})
    else:
        before = {r.id: (r, known.court.settled.get(r.id)) for r in (*known.case.reports, *known.case.earlier)}
        if {r.id for r in known.case.reports} - {r.id for r in case.reports}:
            await rows.drop_reports(here.db, here.site.id, case.look, {(r.entry, r.index) for r in case.reports})
        told = [r for r in told if before.get(r.id) != (r, settled.get(r.id))]
    await rows.put_reports(here.db, here.site.id, unit.id, told, settled)


async def _newest(here: Here, unit: Unit, summary: LookSummary) -> Newest:
    """The machine's newest looks with this one as it is now, before its row is written anew."""
    before = unit.newest
    found = {look.id: look for _, look in await rows.looks_of(here.db, here.site.id, ids=before.ids)}
    was = found.pop(summary.id, None)
    now = newest_of([summary, *found.values()])
    pairs = zip(astuple(before), astuple(now), strict=True)
    same = was is not None and (was.saw, was.opened_seq) == (summary.saw, summary.opened_seq)
    if was is None or (same and all(a != summary.id or a == b for a, b in pairs)):
        return now
    # It was the newest of its sort and may be that no longer: whichever came before it is.
    rest = [look for _, look in await rows.looks_of(here.db, here.site.id, unit.id) if look.id != summary.id]
    return newest_of([summary, *rest])


async def _project_file(here: Here, unit: Unit, entries: Sequence[Entry]) -> Unit:
    file = fold_file(entries)
    if file is None:
        raise NotFound("no-file", "Nothing has been written down about '{id}' yet.", id=unit.id)
    meter = await meter_now(here, unit)
    filed = file.filed
    now = replace(
        unit,
        name=filed.name,
        model_id=filed.model_id,
        options=filed.options,
        own_limits=dict(filed.own_limits),
        bay=filed.bay,
        active=filed.active,
        photo=file.photo,
        hours=meter.hours,
        offset=meter.offset,
    )
    await machine_store.put_good_pictures(here.db, here.site.id, unit.id, good_pictures(entries))
    # Hours of earlier looks may be others now: their reports' dates move with them.
    found = await rows.reports_of(here.db, here.site.id, unit.id)
    openings = {e.stream: e for e in await log_store.entries_of_kinds(here.db, here.site.id, unit.id, ("opened",))}
    moved = [replace(r, hours=meter.hours_of(openings[r.look])) if r.look in openings else r for r, _ in found]
    await rows.put_reports(here.db, here.site.id, unit.id, moved, {r.id: s for r, s in found if s is not None})
    for _, look in await rows.looks_of(here.db, here.site.id, unit.id):
        opening = openings.get(look.id)
        if opening is not None and (meter.hours_of(opening) or 0.0) != look.hour_meter:
            mine = await log_store.entries_of_stream(here.db, here.site.id, look.id)
            again = await dated(here, unit, Case(look.id, await edition_of(here, mine), mine, meter))
            await rows.put_look(here.db, here.site.id, unit.id, await summarised(here, again))
    return await put_unit(here, now, await open_defects(here, now), entries, furthest=meter.furthest_seq)
