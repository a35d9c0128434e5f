"""Open defects as people are told of them, of one machine or of many at once: as graded now, how far, when due.

What is asked of the database is asked for all machines of a page together; what was told once is kept for an hour under
the end of the machine's log.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from jutrel.core.defect.defect import Defect, defects_of
from jutrel.core.defect.life import ABOUT, DefectStage, Life, life_of
from jutrel.core.defect.settle import Court
from jutrel.core.grading.item import Item
from jutrel.core.inspection.kinds import Photographed
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import kind_of
from jutrel.core.machine.file import Filed, MeterCorrected, MeterReplaced
from jutrel.core.machine.forecast import MOST_READINGS, When, when_at
from jutrel.core.machine.meter import Lowered, lowered, meter_of
from jutrel.core.machine.model import Model, checkpoint_of
from jutrel.core.machine.state import worst_items
from jutrel.core.machine.unit import Unit
from jutrel.service.context import Here
from jutrel.service.inspection.look import METER_KINDS
from jutrel.service.machine.standing import editions_told_by
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import open_defects as rows

PAGE = 30
Cursor = rows.Cursor


@dataclass(frozen=True, slots=True)
class OpenDefect:
    """A defect on its machine: as it is graded now, how far it is, when it is due."""

    unit: Unit
    model: Model
    defect: Defect
    item: Item
    duty: str
    energies: tuple[str, ...]
    life: Life
    due: When | None
    photos: tuple[str, ...]
    lowered: Lowered | None = None
    """The correction of hours by which it was overdue no more."""

    @property
    def entries(self) -> frozenset[str]:
        """The entries of its open reports."""
        return frozenset(r.entry for r in self.defect.reports)


@dataclass(frozen=True, slots=True)
class DefectPage:
    """A page of the list; `after`: where the next one begins, None: there is none."""

    defects: tuple[OpenDefect, ...]
    after: Cursor | None


@dataclass(frozen=True, slots=True)
class Picked:
    """Which of the open defects are asked for; empty: all."""

    machine: str | None = None
    duty: str = ""
    stage: DefectStage | None = None
    asked: str = ""
    """Only what this role was asked for and has done nothing about since."""

    def fits(self, life: Life) -> bool:
        """Whether a defect that is so far is asked for; how far each is stands in its log alone."""
        return self.stage in (None, life.stage) and (not self.asked or self.asked in life.asked)


EVERYTHING = Picked()


async def defects_on(here: Here, unit: Unit) -> list[OpenDefect]:
    """What is open on one machine, worst first."""
    kept = here.books.shelf.at(here.where, unit).get(_name(here))
    return list(kept if kept is not None else (await _fresh(here, [unit]))[unit.id])


async def page_of_defects(
    here: Here, picked: Picked = EVERYTHING, after: Cursor | None = None, most: int = PAGE
) -> DefectPage:  # fmt: skip
    """A page of what is open on the site's machines or on one: what holds a machine first, then by age."""
    shown: list[OpenDefect] = []
    while True:
        found = await rows.page(here.db, here.site.id, picked.machine, picked.duty, after, most + 1)
        told = {
            (m, d.defect.id): d for m, ds in (await _defects_of(here, {m for _, m in found[:most]})).items() for d in ds
        }
        for at, m in found[:most]:
            after, one = at, told.get((m, at[2]))
            if one is not None and picked.fits(one.life):
                shown.append(one)
            if len(shown) == most:
                return DefectPage(tuple(shown), after)
        if len(found) <= most:
            return DefectPage(tuple(shown), None)


async def sums_of_defects(here: Here) -> tuple[int, int]:
    """How many defects are open on the site's machines, and how many machines one of them holds."""
    return await rows.sums(here.db, here.site.id)


async def what_defects_are_of(here: Here) -> tuple[list[tuple[str, str]], list[str]]:
    """The machines on which something is open, with their names, and the duties of what is."""
    return await rows.picked_by(here.db, here.site.id)


async def _defects_of(here: Here, machines: Collection[str]) -> dict[str, tuple[OpenDefect, ...]]:
    """What is open on each of these machines, worst first; what was told of them before is not even read again."""
    out: dict[str, tuple[OpenDefect, ...]] = {}
    for machine, seq, head in await rows.ends_of(here.db, here.site.id, machines):
        if (kept := here.books.shelf.known(here.where, machine, (seq, head), _name(here))) is not None:
            out[machine] = kept
    cold = [m for m in machines if m not in out]
    return out | await _fresh(here, await machine_store.units_by_id(here.db, here.site.id, cold)) if cold else out


def _name(here: Here) -> str:
    """By which it is kept: a date by which something is due moves with the clock."""
    return f"defects {here.now:%Y%m%d%H}"


async def _fresh(here: Here, units: Sequence[Unit]) -> dict[str, tuple[OpenDefect, ...]]:
    told = await _told(here, units)
    for unit in units:
        here.books.shelf.put(here.where, unit, _name(here), told[unit.id])
    return told


async def _told(here: Here, units: Sequence[Unit]) -> dict[str, tuple[OpenDefect, ...]]:
    site, ids = here.site.id, [u.id for u in units]
    courts, starts = await _courts(here, ids)
    defects = {m: defects_of(court, starts) for m, court in courts.items()}
    ids = [m for m in ids if defects[m]]
    reported = {r.look for m in ids for d in defects[m] for r in d.reports}
    bound = await rows.editions_of(here.db, site, {_newest_look(defects[m]) for m in ids})
    taken = _by_machine(await rows.photographed_in(here.db, site, reported))
    openings = await rows.openings_of(here.db, site, ids, MOST_READINGS)
    files = _by_machine(await rows.meter_words_of(here.db, site, ids))
    out: dict[str, tuple[OpenDefect, ...]] = {u.id: () for u in units}
    for unit in units:
        if mine := defects[unit.id]:
            line = await _line(here, unit, openings.get(unit.id, []), files.get(unit.id, ()))
            court, about = courts[unit.id], taken.get(unit.id, ())
            out[unit.id] = await _of_unit(here, unit, mine, court, line, about, bound.get(_newest_look(mine), ""))
    return out


@dataclass(frozen=True, slots=True)
class _Line:
    """How a machine's meter went: when it had run so many hours [h], and the corrections that made it younger."""

    readings: Sequence[tuple[datetime, float]]
    younger: Sequence[Lowered]


async def _line(
    here: Here, unit: Unit, openings: Sequence[tuple[datetime, float]], file: Sequence[Entry]
) -> _Line:  # fmt: skip
    if any(isinstance(e.what, (MeterCorrected, MeterReplaced)) for e in file):  # then all of it has to be gone through
        entries = await log_store.entries_of_kinds(here.db, here.site.id, unit.id, METER_KINDS)
        return _Line([(r.at, r.total) for r in meter_of(entries).readings], lowered(entries))
    filed = [(e.time, e.what.hours) for e in file if isinstance(e.what, Filed) and e.what.hours is not None]
    return _Line([*openings, *filed], ())


async def _of_unit(
    here: Here, unit: Unit, defects: Sequence[Defect], court: Court, line: _Line,
    taken: Sequence[Entry], bound: str,
) -> tuple[OpenDefect, ...]:  # fmt: skip
    editions = await editions_told_by(here, unit, bound)
    model = editions[0].model
    acts = [e for e in court.entries.values() if kind_of(e.what).name in ABOUT]
    out = []
    # Under the rules it was reported by and those in force: the worse word counts, as it does for the machine.
    for defect, item in zip(defects, worst_items(editions, defects, unit.hours), strict=True):
        c = checkpoint_of(model, defect.key[0])
        duty = c.duty_of(defect.key[1])
        out.append(
            OpenDefect(
                unit=unit,
                model=model,
                defect=defect,
                item=item,
                duty=duty.id if duty else "",
                energies=c.energy,
                life=life_of(defect, acts),
                due=when_at(item.due_hour, line.readings, here.now) if item.due_hour is not None else None,
                photos=_photos(defect, taken),
                lowered=_overdue_before(item, line.younger),
            )
        )
    return tuple(sorted(out, key=lambda d: (-d.item.grade, d.defect.first.at, d.defect.id)))


async def _courts(
    here: Here, machines: Collection[str]
) -> tuple[dict[str, Court], dict[str, tuple[datetime, float]]]:  # fmt: skip
    """What was reported on these machines and everything that touches it, heard machine by machine; and when the
    shifts of the looks began that it stands in."""
    named: set[str] = set()
    while True:
        reports = await rows.reports_of_many(here.db, here.site.id, machines, named)
        seeds = {r.entry for _, r, _ in reports} | named
        entries = await log_store.related_of_many(here.db, here.site.id, machines, seeds) if seeds else []
        more = {e.id for e in entries} | {n for e in entries for n in log_store.named_by(e)}
        if more <= named:
            break
        named |= more
    of = _by_machine(entries)
    courts = {m: Court(of.get(m, ()), [r for where, r, _ in reports if where == m]) for m in machines}
    return courts, await rows.starts_of(here.db, here.site.id, {e.stream for e in entries})


def _newest_look(defects: Sequence[Defect]) -> str:
    return max((d.latest for d in defects), key=lambda r: (r.at, r.id)).look


def _by_machine(entries: Sequence[Entry]) -> Mapping[str, Sequence[Entry]]:
    out: dict[str, list[Entry]] = {}
    for entry in entries:
        out.setdefault(entry.machine, []).append(entry)
    return out


def _photos(defect: Defect, taken: Sequence[Entry]) -> tuple[str, ...]:
    """Pictures taken at its place in the looks that reported it, the newest first."""
    looks, out = {r.look for r in defect.reports}, []
    for e in sorted(taken, key=lambda e: (e.time, e.id), reverse=True):
        if isinstance(e.what, Photographed) and e.what.checkpoint == defect.key[0] and e.stream in looks:
            out.append(e.what.photo)
    return tuple(out)


def _overdue_before(item: Item, younger: Sequence[Lowered]) -> Lowered | None:
    due = item.due_hour
    return next((w for w in younger if due is not None and w.before > due >= w.after), None)
