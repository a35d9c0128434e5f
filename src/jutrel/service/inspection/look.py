"""A look as it stands: its case gathered from the log, heard by the core, and written down for lists."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

from jutrel.core.defect.defect import Defect, defects_of
from jutrel.core.defect.report import Report
from jutrel.core.defect.settle import Court
from jutrel.core.edition import Edition
from jutrel.core.grading.verdict import Verdict
from jutrel.core.inspection.hear import Case, Heard, hear, hear_more, news_of
from jutrel.core.inspection.kinds import Opened
from jutrel.core.inspection.look import Look, Status, pins_of
from jutrel.core.log.codec import decode
from jutrel.core.log.entry import Entry, Pins
from jutrel.core.machine.file import file_news, file_stream
from jutrel.core.machine.meter import Meter, meter_of
from jutrel.core.machine.model import Model, Walk, walk_of
from jutrel.core.machine.state import LookSummary, summary_of
from jutrel.core.machine.unit import Unit
from jutrel.core.panel.told import PanelEventKind
from jutrel.core.procedure.kinds import RUN, Engine
from jutrel.core.wording import Said
from jutrel.service.context import Here
from jutrel.service.machine.models import unit_model
from jutrel.service.panel.panel import bus_of
from jutrel.service.problem import NotFound
from jutrel.service.site.shifts import timetable_about
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import people as people_store
from jutrel.store.queries import projections as rows

OIL, STALE = "oil-pressure", timedelta(seconds=5)
WEIGHT, WEIGHT_OF_ENTRY = 20_000, 3_500
"""What a known look takes up, and each of its entries [B]."""
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

    return await here.books.shelf.get(here.where, unit, "meter", make)


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

    async def looked() -> dict[str, tuple[float, datetime]]:
        return await rows.last_looked(here.db, here.site.id, unit.id)

    pins = await here.books.shelf.get(here.where, unit, f"pins {edition}", make)
    if not any(c.by_interval for c in model.family.checkpoints):
        return pins
    last = await here.books.shelf.get(here.where, unit, "looked", looked)
    return replace(pins, looked=_not_over(model, last, unit.offset, here.now))


def _not_over(
    model: Model, last: Mapping[str, tuple[float, datetime]], offset: float, now: datetime
) -> dict[str, float]:
    """What today's meter showed [h] when each was looked at last, but for those whose days are over by tomorrow."""
    every = {c.id: c.every_days for c in model.family.checkpoints if c.by_interval}
    return {
        name: round(hours - offset, 2)
        for name, (hours, at) in last.items()
        if name in every and (not every[name] or now + timedelta(days=1) < at + timedelta(days=every[name]))
    }


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


async def case_more(here: Here, unit: Unit, case: Case, fresh: Sequence[Entry]) -> Case | None:
    """The case of a look that is known with more entries of its own; None if something beside it may be touched."""
    ids = {e.id for e in case.entries} | {e.id for e in fresh}
    named = {n for e in fresh for n in log_store.named_by(e)}
    if case.opening is None or not named <= ids:
        return None
    # Somebody may have named it before it came in.
    if await log_store.related(here.db, here.site.id, unit.id, {e.id for e in fresh}, without=case.look):
        return None
    more = case.with_entries(fresh)
    # What the machine's bus told of a run since.
    return await dated(here, unit, more) if case.opened.purpose == RUN else more


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
        stood = tuple(t.at for t in bus.told if t.what is PanelEventKind.STOOD and t.word == OIL)
    whole_until = None
    kind = case.edition.kinds.get(opening.what.purpose)
    if kind is not None and kind.continues and unit.newest.whole:
        for _, whole in await rows.looks_of(here.db, here.site.id, ids={unit.newest.whole}):
            whole_until = whole.valid_until
    return replace(
        case, saw=min(saw, opening.seq), earliest=earliest, timetable=table, whole_until=whole_until, stood=stood
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class KnownLook:
    """A look as it stands: with what is open on the machine, and by its own entries alone.

    `signed`: the verdict that its newest signature kept.
    """

    heard: Heard
    alone: Heard
    signed: Verdict | None = None

    @property
    def weight(self) -> int:
        """What it takes up in memory [B], as measured on walks of a hundred entries: what is shared does not count."""
        return WEIGHT + WEIGHT_OF_ENTRY * len(self.heard.case.entries)

    @property
    def verdict(self) -> Verdict:
        """The verdict that counts: a signed look shows the one that was read when it was signed."""
        return self.signed if self.signed and self.heard.look.status is Status.SIGNED else self.heard.verdict

    def with_entry(self, entry: Entry) -> KnownLook | None:
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


async def known_of(here: Here, case: Case, before: KnownLook | None = None) -> KnownLook:
    """A case heard; `before`: what it was with some of its entries."""
    heard = hear(case, before.heard if before else None)
    beside = case.others or case.earlier or case.starts
    alone = hear(case.alone(), before.alone if before else None) if beside else heard
    return KnownLook(heard, alone, await kept_verdict(here, alone.look))


async def known(here: Here, unit: Unit, stream: str) -> KnownLook | None:
    """A look as it stands now; None if no entry of it has arrived."""

    async def make() -> KnownLook | None:
        entries = await log_store.entries_of_stream(here.db, here.site.id, stream)
        return await known_of(here, await case_of(here, unit, stream, entries)) if entries else None

    return await here.books.shelf.get(here.where, unit, f"look {stream}", make)


async def summarised(here: Here, case: Case) -> LookSummary:
    """A look in a row."""
    return (await known_of(here, replace(case, others=(), earlier=(), starts={}))).summary


async def kept_verdict(here: Here, look: Look) -> Verdict | None:
    """The verdict that a look's newest signature kept."""
    if look.signature is None:
        return None
    found = await log_store.record_of(here.db, here.site.id, look.signature.id)
    return None if found is None else decode(Verdict, found[1], "verdict")


async def court_of(
    here: Here, unit: Unit, stream: str, entries: Sequence[Entry]
) -> tuple[Court, dict[str, Any], list[Report]]:
    reports, others = await _beside(here, unit, stream, entries)
    looks = await rows.looks_of(here.db, here.site.id, ids={e.stream for e in others})
    starts = {look.id: (look.begun_at, look.shift_hours) for _, look in looks}
    return Court([*entries, *others], reports), starts, reports


async def open_defects(here: Here, unit: Unit) -> tuple[Defect, ...]:
    """What is open on a machine, whoever found it."""

    async def make() -> tuple[Defect, ...]:
        court, starts, _ = await court_of(here, unit, "", ())
        return defects_of(court, starts)

    return await here.books.shelf.get(here.where, unit, "open", make)


@dataclass(frozen=True, slots=True)
class LookStanding:
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


def standing_as(unit: Unit, now: KnownLook) -> LookStanding:
    """A look that is known, as it is told."""
    return LookStanding(now.heard.case.look, unit, tuple(now.heard.case.entries), now.heard, now.verdict)


async def standing(here: Here, stream: str) -> LookStanding:
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
