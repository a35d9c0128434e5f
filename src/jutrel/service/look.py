"""A look as it stands: its case gathered from the log, heard by the core, and written down for lists."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import astuple, dataclass, replace
from datetime import datetime, timedelta
from typing import Any

from jutrel.catalog.compile import edition_of as edition_of_model
from jutrel.core.clearance.unseen import missing_in, newest_of_log, unseen_left
from jutrel.core.defect.defect import Defect, defects_of
from jutrel.core.defect.report import Report
from jutrel.core.defect.settle import Court
from jutrel.core.edition import Edition
from jutrel.core.grading.verdict import Verdict
from jutrel.core.inspection.kinds import Opened
from jutrel.core.inspection.look import Look, Status, pins_of
from jutrel.core.log.codec import decode
from jutrel.core.log.entry import Entry, Pins
from jutrel.core.machine.event import KINDS as EVENT_KINDS
from jutrel.core.machine.file import file_news, file_stream, fold_file, good_pictures
from jutrel.core.machine.incident import KINDS as INCIDENT_KINDS
from jutrel.core.machine.lock import KINDS as LOCK_KINDS
from jutrel.core.machine.meter import Meter, meter_of
from jutrel.core.machine.model import Walk, walk_of
from jutrel.core.machine.state import LookSummary, Newest, newest_of, standing_of, summary_of
from jutrel.core.machine.unit import Unit
from jutrel.core.panel.told import Happening
from jutrel.core.procedure.kinds import RUN, Engine
from jutrel.core.run import Case, Heard, hear, hear_more, news_of
from jutrel.core.wording import Said
from jutrel.service.context import Here
from jutrel.service.models import unit_model
from jutrel.service.panel import bus_of
from jutrel.service.problem import NotFound
from jutrel.service.shifts import timetable_about
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import people as people_store
from jutrel.store.queries import projections as rows
from jutrel.store.queries.tap import write_plainly

ABOUT_KINDS = tuple({*LOCK_KINDS, *INCIDENT_KINDS, *EVENT_KINDS})
"""Kinds of entries that say how a machine stands besides its defects."""
OIL, STALE = "oil-pressure", timedelta(seconds=5)
SEEN_KINDS = ("answered", "measured", "signed")
METER_KINDS = ("opened", "filed", "meter-replaced", "meter-corrected")


@dataclass(frozen=True, slots=True)
class Kept:
    """A signature and what it was given on: kept as it was read."""

    signature: Entry
    heard: Heard


def walk_of_everything(edition: Edition) -> Walk:
    """The walk of a unit that has every option."""
    return walk_of(edition.model, frozenset(edition.model.options))


async def file_entries(here: Here, machine: str) -> list[Entry]:
    """The entries of a machine's file."""
    return await log_store.entries_of_stream(here.db, here.site.id, file_stream(machine))


async def meter_now(here: Here, unit: Unit) -> Meter:
    """A machine's whole meter line."""

    async def make() -> Meter:
        return meter_of(await log_store.entries_of_kinds(here.db, here.site.id, unit.id, METER_KINDS))

    return await here.books.shelf.get(here.site.id, unit, "meter", make)


async def pins_now(here: Here, unit: Unit) -> Pins:
    """What a look that begins now is bound to: today's edition, the unit as it is, what changed, what is open."""
    model = await unit_model(here, unit, own=False)
    edition, _ = here.editions.of(model)

    async def make() -> Pins:
        newest = {unit.newest.signed} if unit.newest.signed else set()
        changed: dict[str, Said] = {}
        for _, last in await rows.looks_of(here.db, here.site.id, ids=newest) if newest else ():
            news = file_news(await file_entries(here, unit.id), last.begun_at, model.family)
            changed = {**last.news, **news}
        found = await rows.reports_of(here.db, here.site.id, unit.id)
        open_at = frozenset(r.checkpoint for r, _ in found)
        return Pins(edition, unit.options, dict(unit.own_limits), changed, open_at)

    return await here.books.shelf.get(here.site.id, unit, f"pins {edition}", make)


async def pins_kept(here: Here, unit: Unit) -> Pins:
    """The same for a look that begins indeed: its edition is kept with it."""
    pins = await pins_now(here, unit)
    _, content = here.editions.of(await unit_model(here, unit, own=False))
    await log_store.keep_edition(here.db, pins.edition, content, here.now)
    return pins


async def edition_of(here: Here, entries: Sequence[Entry]) -> Edition:
    """The edition that a look is bound to."""
    return await here.books.edition(here.db, pins_of(entries).edition)


async def _beside(here: Here, unit: Unit, stream: str, entries: Sequence[Entry]) -> tuple[list[Report], list[Entry]]:
    """What has to be known beside the entries of a stream: the reports that are open or that these can touch, and
    the entries of other streams that name any of it or are named by it."""
    own = {e.id for e in entries}
    named = {n for e in entries for n in log_store.named_by(e)}
    others: list[Entry] = []
    while True:
        reports = [r for r, _ in await rows.reports_of(here.db, here.site.id, unit.id, named)]
        seeds = {r.entry for r in reports if r.look != stream} | own | named
        others = await log_store.related(here.db, here.site.id, unit.id, seeds, without=stream)
        more = {e.id for e in others} | {n for e in others for n in log_store.named_by(e)}
        if more <= named | own:
            return reports, others
        named |= more


async def case_of(here: Here, unit: Unit, stream: str, entries: Sequence[Entry]) -> Case:
    """A look with everything beside it that its verdict needs."""
    found, others = await _beside(here, unit, stream, entries)
    earlier = [r for r in found if r.look != stream]
    streams = {e.stream for e in others}
    looks = await rows.looks_of(here.db, here.site.id, ids=streams) if streams else []
    starts = {look.id: (look.begun_at, look.shift_hours) for _, look in looks}
    meter = meter_of(
        [
            *await file_entries(here, unit.id),
            *(e for e in entries if isinstance(e.what, Opened)),
        ]
    )
    case = Case(stream, await edition_of(here, entries), entries, meter, others, earlier, starts)
    return await dated(here, unit, case)


async def dated(here: Here, unit: Unit, case: Case) -> Case:
    """A case with what the server knows of its beginning: what its opening had seen of the log, and the shifts; and of
    a run what the machine's bus told of its oil pressure."""
    opening = case.opening
    if opening is None or not isinstance(opening.what, Opened):
        return replace(case, timetable=timetable_about(here.site, here.now))
    knew, head = opening.what.knew, opening.what.head
    saw = knew if knew and await log_store.hash_at(here.db, here.site.id, unit.id, knew) == head else 0
    earliest = None
    if opening.offset_ms is None and opening.pen:
        earliest = await people_store.pen_given_at(here.db, opening.pen)
    table = timetable_about(here.site, opening.time)
    stood: tuple[datetime, ...] = ()
    if opening.what.purpose == RUN and any(isinstance(e.what, Engine) for e in case.entries):
        bus = await bus_of(here, unit, opening.time, STALE)
        stood = tuple(t.at for t in bus.told if t.what is Happening.STOOD and t.word == OIL)
    whole_until = None
    kind = case.edition.kinds.get(opening.what.purpose)
    if kind is not None and kind.continues and unit.newest.whole:
        for _, whole in await rows.looks_of(here.db, here.site.id, ids={unit.newest.whole}):
            whole_until = whole.valid_until
    return replace(
        case, saw=min(saw, opening.seq), earliest=earliest, timetable=table, whole_until=whole_until, stood=stood
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Known:
    """A look as it stands: with what is open on the machine, and by its own entries alone.

    `signed`: the verdict that its newest signature kept.
    """

    heard: Heard
    alone: Heard
    signed: Verdict | None = None

    @property
    def verdict(self) -> Verdict:
        """The verdict that counts: a signed look shows the one that was read when it was signed."""
        return self.signed if self.signed and self.heard.look.status is Status.SIGNED else self.heard.verdict

    def with_entry(self, entry: Entry) -> Known | None:
        """With one more entry that reports nothing; None if all has to be heard anew."""
        heard = hear_more(self.heard, entry)
        alone = heard if self.alone is self.heard else hear_more(self.alone, entry)
        return None if heard is None or alone is None else replace(self, heard=heard, alone=alone)

    @property
    def summary(self) -> LookSummary:
        """The look in a row, from its own entries alone: what is open elsewhere on the machine is told by itself."""
        case, alone = self.heard.case, self.alone
        verdict = self.signed or alone.verdict
        worst = [i.grade for i in verdict.items]
        news = news_of(verdict)
        return summary_of(
            case.look, alone.look, alone.walk, alone.verdict, case.entries, worst, news, case.hours, self.signed,
            case.saw, case.earliest,
        )  # fmt: skip


async def known_of(here: Here, case: Case) -> Known:
    """A case heard."""
    heard = hear(case)
    beside = case.others or case.earlier or case.starts
    alone = hear(replace(case, others=(), earlier=(), starts={})) if beside else heard
    return Known(heard, alone, await kept_verdict(here, alone.look))


async def known(here: Here, unit: Unit, stream: str) -> Known | None:
    """A look as it stands now; None if no entry of it has arrived."""

    async def make() -> Known | None:
        entries = await log_store.entries_of_stream(here.db, here.site.id, stream)
        return await known_of(here, await case_of(here, unit, stream, entries)) if entries else None

    return await here.books.shelf.get(here.site.id, unit, f"look {stream}", make)


async def project(here: Here, unit: Unit, stream: str, entries: Sequence[Entry]) -> Unit:
    """Write what a stream amounts to, in the transaction that stored its entries; the unit as it is then."""
    if stream.startswith("file."):
        return await _project_file(here, unit, entries)
    if stream.startswith("defect."):
        court, starts, reports = await _court_of(here, unit, stream, entries)
        await rows.put_reports(here.db, here.site.id, unit.id, reports, court.settled)
        return await _put_unit(here, unit, defects_of(court, starts), entries, whole=unit.newest.whole)
    now = await known_of(here, await case_of(here, unit, stream, entries))
    case, heard = now.heard.case, now.heard
    await rows.drop_reports(here.db, here.site.id, stream, {(r.entry, r.index) for r in case.reports})
    await rows.put_reports(here.db, here.site.id, unit.id, [*case.reports, *case.earlier], heard.court.settled)
    summary = now.summary
    whole, furthest = unit.newest.whole, unit.standing.furthest_seq
    if (case.hours or 0.0) > unit.hours and case.opening is not None:
        furthest = case.opening.seq
    hours = max(unit.hours, case.hours or 0.0)
    unit = replace(unit, hours=hours, newest=await _newest(here, unit, summary))
    await rows.put_look(here.db, here.site.id, unit.id, summary)
    unit = await _put_unit(here, unit, heard.defects, entries, now, whole, furthest)
    here.books.shelf.put(here.site.id, unit, f"look {stream}", now)
    return unit


async def project_plainly(here: Here, unit: Unit, fresh: Sequence[Entry], now: Known) -> None:
    """Write entries that report nothing, their look's row and the end of the log."""
    summary = now.summary
    for entry in fresh:
        await write_plainly(here.db, here.site.id, entry, summary)
    here.books.shelf.put(here.site.id, unit, f"look {summary.id}", now)


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


async def summarised(here: Here, case: Case) -> LookSummary:
    """A look in a row."""
    return (await known_of(here, replace(case, others=(), earlier=(), starts={}))).summary


async def kept_verdict(here: Here, look: Look) -> Verdict | None:
    """The verdict that a look's newest signature kept."""
    if look.signature is None:
        return None
    found = await log_store.record_of(here.db, here.site.id, look.signature.id)
    return None if found is None else decode(Verdict, found[1], "verdict")


async def _court_of(
    here: Here, unit: Unit, stream: str, entries: Sequence[Entry]
) -> tuple[Court, dict[str, Any], list[Report]]:
    reports, others = await _beside(here, unit, stream, entries)
    looks = await rows.looks_of(here.db, here.site.id, ids={e.stream for e in others})
    starts = {look.id: (look.begun_at, look.shift_hours) for _, look in looks}
    return Court([*entries, *others], reports), starts, reports


async def open_defects(here: Here, unit: Unit) -> tuple[Defect, ...]:
    """What is open on a machine, whoever found it."""

    async def make() -> tuple[Defect, ...]:
        court, starts, _ = await _court_of(here, unit, "", ())
        return defects_of(court, starts)

    return await here.books.shelf.get(here.site.id, unit, "open", make)


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
    return await _put_unit(here, now, await open_defects(here, now), entries, furthest=meter.furthest_seq)


async def judged_anew(here: Here, unit: Unit) -> Unit:
    """A machine's row written anew by the rules and the model in force now."""
    return await _put_unit(here, unit, await open_defects(here, unit))


async def _put_unit(
    here: Here,
    unit: Unit,
    defects: Sequence[Defect],
    entries: Sequence[Entry] = (),
    look: Known | None = None,
    whole: str | None = None,
    furthest: int | None = None,
) -> Unit:
    """Write the machine's row with what is open on it.

    `entries`: the stream that was written; `look`: what it is, if it is a look; `whole`: the whole inspection that
    the machine went on before, if that may stay.
    """
    was = unit.standing
    name, edition = await edition_in_force(here, unit)
    editions = await standing_editions(here, unit, defects)
    about = await log_store.entries_of_kinds(here.db, here.site.id, unit.id, ABOUT_KINDS)
    blind = await rows.blind_looks(here.db, here.site.id, unit.id)
    seen = await log_store.entries_of_kinds(here.db, here.site.id, unit.id, SEEN_KINDS) if blind else ()
    newest = newest_of_log(entries)
    times = [t for t in (was.newest_at, newest.received_at if newest else None) if t is not None]
    standing = replace(
        standing_of(editions, defects, unit.hours, unit.offset, about),
        unseen=unseen_left(blind, seen),
        judged_by=name,
        missing=await _missing(here, unit, name, edition, look, whole),
        newest_at=max(times, default=None),
        furthest_seq=was.furthest_seq if furthest is None else furthest,
    )
    unit = replace(unit, standing=standing)
    await machine_store.put_unit(here.db, here.site.id, unit)
    return unit


async def _missing(
    here: Here, unit: Unit, name: str, edition: Edition, look: Known | None, before: str | None
) -> tuple[str, ...]:  # fmt: skip
    """What the whole inspection that a machine goes on did not look at, of what it has now."""
    whole = unit.newest.whole
    if whole is None:
        return ()
    if whole == before and unit.standing.judged_by == name and (look is None or look.heard.case.look != whole):
        return unit.standing.missing
    if look is None or look.heard.case.look != whole:
        entries = await log_store.entries_of_stream(here.db, here.site.id, whole)
        look = await known_of(here, await case_of(here, unit, whole, entries))
    return missing_in(look.heard.look, edition, unit.options, dict(unit.own_limits))


async def edition_in_force(here: Here, unit: Unit) -> tuple[str, Edition]:
    """The rules and the model by which a machine is judged now, and their name."""
    model = await unit_model(here, unit, own=False)
    return here.editions.of(model)[0], edition_of_model(here.catalog, model)


async def standing_editions(here: Here, unit: Unit, defects: Sequence[Defect]) -> tuple[Edition, ...]:
    """The rules by which a machine's open defects are told: those of the newest look that reported one, and those in
    force; once, where they are the same."""
    name, edition = await edition_in_force(here, unit)
    newest = max((d.latest for d in defects), key=lambda r: (r.at, r.id), default=None)
    if newest is None:
        return (edition,)
    first = await log_store.entries_of_stream(here.db, here.site.id, newest.look)
    bound = pins_of(first).edition
    return (edition,) if bound == name else (await here.books.edition(here.db, bound), edition)


@dataclass(frozen=True, slots=True)
class Standing:
    """A look as it stands now: the log, what it amounts to, and the verdict that counts for it."""

    id: str
    unit: Unit
    entries: tuple[Entry, ...]
    heard: Heard
    verdict: Verdict

    @property
    def walk(self) -> Walk:
        """The walk that the look is."""
        return self.heard.walk


def standing_as(unit: Unit, now: Known) -> Standing:
    """A look that is known, as it is told."""
    return Standing(now.heard.case.look, unit, tuple(now.heard.case.entries), now.heard, now.verdict)


async def standing(here: Here, stream: str) -> Standing:
    """A look as it stands now; NotFound if no entry of it has arrived.

    A signed look shows the verdict that was read when it was signed.
    """
    machine = await log_store.machine_of_stream(here.db, here.site.id, stream)
    unit = await machine_store.unit(here.db, here.site.id, machine) if machine else None
    now = None if unit is None or stream.startswith(("file.", "defect.")) else await known(here, unit, stream)
    if unit is None or now is None:
        raise NotFound("no-inspection", "There is no such inspection on this site.")
    return standing_as(unit, now)


async def history(here: Here, machine: str | None, limit: int = 60) -> list[tuple[str, LookSummary]]:
    """The looks at a machine, or at all, newest first."""
    return await rows.looks_of(here.db, here.site.id, machine, limit)
