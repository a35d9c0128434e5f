"""Looking after the log: is every chain whole, and do the projections say what the log says?"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from jutrel.core.clearance.unseen import missing_in, newest_of_log, unseen_left
from jutrel.core.defect.defect import defects_of
from jutrel.core.defect.report import Report
from jutrel.core.defect.settle import Court, Settled
from jutrel.core.inspection.hear import Case, hear
from jutrel.core.log.chain import Broken, said_by_device, verify
from jutrel.core.log.entry import Entry
from jutrel.core.machine.file import GoodPicture, file_stream, fold_file, good_pictures
from jutrel.core.machine.meter import meter_of
from jutrel.core.machine.state import ListedDefect, LookSummary, items_of_each, listed, newest_of, standing_of
from jutrel.core.machine.unit import Unit
from jutrel.service.context import Here
from jutrel.service.inspection import look as look_service
from jutrel.service.log.seal import holds
from jutrel.service.log.sent import read_sent
from jutrel.service.machine.standing import edition_in_force, standing_editions
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import open_defects as open_rows
from jutrel.store.queries import people as people_store
from jutrel.store.queries import projections as rows
from jutrel.store.queries.people import Pen


@dataclass(frozen=True, slots=True)
class Checked:
    """What came of checking a log: how many entries it has, how many are sealed, and where it is broken if it is."""

    count: int
    sealed: int
    broken: Broken | None


async def verify_machine(here: Here, unit: Unit) -> Checked:
    """Check the chain of a machine's log, and the seal of each entry that has one."""
    entries = [e async for e in log_store.log_of(here.db, here.site.id, unit.id)]
    under = [e for e in entries if e.seal]
    pens = {p.id: p for p in await people_store.pens_by_id(here.db, here.site.id, {e.pen for e in under})}
    broken = verify(entries, (unit.seq, unit.head) if unit.seq else None)
    if broken is None:
        wrong = next((e for e in under if not _as_sealed(e, pens.get(e.pen))), None)
        broken = Broken(wrong.seq, f"entry {wrong.seq} is not what its pen sealed") if wrong else None
    return Checked(len(entries), len(under), broken)


def _as_sealed(entry: Entry, pen: Pen | None) -> bool:
    """Whether an entry says what its pen sealed."""
    if pen is None or not holds(entry.seal, pen.key):
        return False
    sent = read_sent({"seal": entry.seal})
    made = Entry(
        sent.id, *sent.meant, sent.by, sent.at, sent.what, replaces=sent.replaces, offset_ms=sent.offset_ms
    )  # fmt: skip
    return sent.id == entry.id and said_by_device(made) == said_by_device(entry)


@dataclass(frozen=True)
class Folded:
    """Everything that a machine's log amounts to, made from its entries alone."""

    unit: Unit
    looks: dict[str, LookSummary]
    reports: dict[str, tuple[Report, Settled | None]]
    pictures: frozenset[GoodPicture] = frozenset()
    open: frozenset[ListedDefect] = frozenset()


def streams_of(entries: Iterable[Entry]) -> dict[str, list[Entry]]:
    """Entries by stream."""
    out: dict[str, list[Entry]] = {}
    for entry in entries:
        out.setdefault(entry.stream, []).append(entry)
    return out


async def folded(here: Here, unit: Unit) -> Folded:
    """The whole log folded at once: no projection is read."""
    entries = [e async for e in log_store.log_of(here.db, here.site.id, unit.id)]
    streams = streams_of(entries)
    meter = meter_of(entries)
    of_file = streams.get(file_stream(unit.id), ())
    file = fold_file(of_file)
    cases: dict[str, Case] = {}
    for stream, mine in streams.items():
        if not stream.startswith(("file.", "defect.")):
            case = Case(stream, await look_service.edition_of(here, mine), mine, meter)
            cases[stream] = await look_service.dated(here, unit, case)
    reports = [r for case in cases.values() for r in case.reports]
    court = Court(entries, reports)
    looks = {s: await look_service.summarised(here, case) for s, case in cases.items()}
    starts = {s: (k.begun_at, k.shift_hours) for s, k in looks.items()}
    now = replace(
        unit,
        hours=meter.hours,
        offset=meter.offset,
        seq=len(entries),
        head=entries[-1].hash if entries else "",
        newest=newest_of(looks.values()),
    )
    if file is not None:
        filed = file.filed
        now = replace(
            now, name=filed.name, model_id=filed.model_id, options=filed.options, own_limits=dict(filed.own_limits),
            bay=filed.bay, active=filed.active, photo=file.photo,
        )  # fmt: skip
    defects = defects_of(court, starts)
    name, edition = await edition_in_force(here, now)
    editions = await standing_editions(here, now, defects)
    items = items_of_each(editions, defects, now.hours)
    newest, whole = newest_of_log(entries), now.newest.whole
    standing = replace(
        standing_of(editions, items, now.offset, entries),
        unseen=unseen_left(looks.values(), entries),
        judged_by=name,
        missing=missing_in(hear(cases[whole]).look, edition, now.options, dict(now.own_limits)) if whole else (),
        newest_at=newest.received_at if newest else None,
        furthest_seq=meter.furthest_seq,
    )
    now = replace(now, standing=standing)
    pictures = frozenset(good_pictures(of_file))
    told = {r.id: (r, court.settled.get(r.id)) for r in reports}
    return Folded(now, looks, told, pictures, frozenset(listed(editions, defects, items)))


async def kept(here: Here, unit: Unit) -> Folded:
    """The same as it stands in the projections."""
    looks = {k.id: k for _, k in await rows.looks_of(here.db, here.site.id, unit.id)}
    reports = {r.id: (r, s) for r, s in await rows.reports_of(here.db, here.site.id, unit.id, open_only=False)}
    own, models = await machine_store.good_pictures_of(here.db, here.site.id, unit.id, "")
    open_ = frozenset(await open_rows.listed_on(here.db, here.site.id, unit.id))
    return Folded(unit, looks, reports, frozenset([*own, *models]), open_)


async def rebuild_machine(here: Here, machine: str) -> bool:
    """Make a machine's projections anew from its log; true if they were what the log says."""
    unit = await machine_store.unit(here.db, here.site.id, machine, lock=True)
    assert unit is not None
    before = await kept(here, unit)
    after = await folded(here, unit)
    await rows.drop_projections(here.db, here.site.id, machine)
    for summary in after.looks.values():
        await rows.put_look(here.db, here.site.id, machine, summary)
    await rows.put_reports(
        here.db, here.site.id, machine, [r for r, _ in after.reports.values()],
        {k: s for k, (_, s) in after.reports.items() if s is not None},
    )  # fmt: skip
    await machine_store.put_good_pictures(here.db, here.site.id, machine, sorted(after.pictures, key=lambda p: p.at))
    await machine_store.put_unit(here.db, here.site.id, after.unit)
    await open_rows.put_open(here.db, here.site.id, machine, sorted(after.open, key=lambda d: d.id))
    return before == after
