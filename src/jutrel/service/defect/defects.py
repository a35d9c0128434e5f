"""Open defects of all machines: how far each is, when it is due, and the acts of mechanic and supervisor."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jutrel.core.defect.defect import Defect
from jutrel.core.defect.kinds import Accepted, Acknowledged, Isolated, Rechecked, Released
from jutrel.core.defect.life import ABOUT, Life, life_of
from jutrel.core.errors import BadInput
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import Item
from jutrel.core.inspection.kinds import Photographed
from jutrel.core.log.codec import decode, encode
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import kind_of
from jutrel.core.machine.forecast import When, when_at
from jutrel.core.machine.meter import Lowered, lowered, meter_of
from jutrel.core.machine.model import Model, checkpoint_of
from jutrel.core.machine.state import items_of
from jutrel.core.machine.unit import Unit
from jutrel.service.context import Here
from jutrel.service.inspection.look import METER_KINDS, open_defects
from jutrel.service.intake import take
from jutrel.service.log.sent import Sent
from jutrel.service.machine.find import unit_of
from jutrel.service.machine.standing import standing_editions
from jutrel.service.people.people import Actor, allow
from jutrel.service.problem import Conflict, NotFound, Problem
from jutrel.service.site.shifts import timetable_about
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as machine_store

Act = Acknowledged | Accepted | Isolated | Released | Rechecked


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


def acceptance_holds(here: Here, defect: Defect) -> bool:
    """Whether a supervisor accepted a Limit for this shift; an earlier one's word is for that shift."""
    at = defect.accepted_at
    return at is not None and timetable_about(here.site, at).until(at) >= here.now


async def defects_on(here: Here, unit: Unit) -> list[OpenDefect]:
    """What is open on one machine, worst first."""
    defects = await open_defects(here, unit)
    if not defects:
        return []
    editions = await standing_editions(here, unit, defects)
    model = editions[0].model
    entries = await log_store.entries_of_kinds(here.db, here.site.id, unit.id, ABOUT)
    taken = await log_store.entries_of_kinds(here.db, here.site.id, unit.id, ("photographed",))
    line = await log_store.entries_of_kinds(here.db, here.site.id, unit.id, METER_KINDS)
    readings, younger = [(r.at, r.total) for r in meter_of(line).readings], lowered(line)
    out = []
    # Under the rules it was reported by and those in force: the worse word counts, as it does for the machine.
    told = [items_of(edition, defects, unit.hours) for edition in editions]
    for defect, *items in zip(defects, *told, strict=True):
        item = max(items, key=lambda i: i.grade)
        c = checkpoint_of(model, defect.key[0])
        duty = c.duty_of(defect.key[1])
        due = when_at(item.due_hour, readings, here.now) if item.due_hour is not None else None
        out.append(
            OpenDefect(
                unit,
                model,
                defect,
                item,
                duty.id if duty else "",
                c.energy,
                life_of(defect, entries),
                due,
                _photos(defect, taken),
                next((w for w in younger if item.due_hour is not None and w.before > item.due_hour >= w.after), None),
            )
        )
    return sorted(out, key=lambda d: (-d.item.grade, d.defect.first.at, d.defect.id))


def _photos(defect: Defect, taken: Sequence[Entry]) -> tuple[str, ...]:
    """Pictures taken at its place in the looks that reported it, the newest first."""
    looks, out = {r.look for r in defect.reports}, []
    for e in sorted(taken, key=lambda e: (e.time, e.id), reverse=True):
        if isinstance(e.what, Photographed) and e.what.checkpoint == defect.key[0] and e.stream in looks:
            out.append(e.what.photo)
    return tuple(out)


async def all_defects(here: Here, machine: str | None = None) -> list[OpenDefect]:
    """What is open on the site's machines or on one: what holds a machine first, then by age."""
    units = [await unit_of(here, machine)] if machine else await machine_store.units(here.db, here.site.id)
    found = [d for unit in units if unit.standing.open for d in await defects_on(here, unit)]
    return sorted(found, key=lambda d: (-d.item.grade, d.defect.first.at, d.defect.id))


async def one_defect(here: Here, machine: str, defect: str) -> OpenDefect:
    """A defect that is open on a machine; NotFound if it is not, or not any more."""
    found = next((d for d in await defects_on(here, await unit_of(here, machine)) if d.defect.id == defect), None)
    if found is None:
        raise NotFound("no-defect", "This is closed on this machine, or was never open.")
    return found


def _check(found: OpenDefect, actor: Actor, what: Act) -> None:
    """Refuse what would be kept and not count, so that nobody thinks he did it."""
    if isinstance(what, Accepted) and found.item.grade is not Grade.LIMIT:
        raise Problem("no-limit", "Only a Limit is accepted; this one is {grade}.", grade=found.item.grade.name_said)
    if isinstance(what, Rechecked):
        if what.release != found.defect.release:
            raise Problem("no-release", "Nobody has repaired this yet, or another check has closed it.")
        if actor.person.id == found.defect.pending_by:
            raise Conflict("same-person", "Who repaired it does not check it: another person does.")
    if isinstance(what, Isolated):
        unknown = set(what.energies) - set(found.energies)
        if unknown:
            known = ", ".join(found.energies) or "-"
            raise BadInput("energies", "'{it}' is not here; one of {those}", it=min(unknown), those=known)


async def done_before(here: Here, actor: Actor, machine: str, entry: str) -> bool:
    """Whether this person wrote an act of this id already; Conflict if it is somebody else's."""
    known = await log_store.entries_of_kinds(here.db, here.site.id, machine, ABOUT)
    mine = next((e for e in known if e.id == entry), None)
    if mine is not None and mine.by != actor.person.id:
        raise Conflict("id-taken", "This id belongs to something else that was written down.", field="id")
    return mine is not None


async def act(here: Here, actor: Actor, machine: str, defect: str, entry: str, what: Act, seen: frozenset[str]) -> None:
    """Write down what somebody did about a defect, having seen these reports of it.

    Who has not seen the newest report decides nothing about it: it may be worse than what he looked at.

    Raises
    ------
    NotAllowed
        If it is not for this role.
    NotFound
        If the defect is not open.
    BadInput, Problem, Conflict
        For what could not count, saying why.
    """
    what = decode(type(what), encode(what))
    allow(actor, *sorted(kind_of(what).roles))
    found = await one_defect(here, machine, defect)
    _check(found, actor, what)
    if not found.entries <= seen:
        raise Conflict("reported-again", "It was reported again meanwhile: look at the new report first.")
    named = frozenset({what.release}) if isinstance(what, Rechecked) else found.entries
    sent = Sent(entry, kind_of(what).name, actor.person.id, here.now, what, named)
    taken = await take(here, actor, machine, f"defect.{defect}", [sent])
    if taken.refused:
        no = taken.refused[0]
        raise Conflict(no.kind, no.says, field=no.field or "id")
