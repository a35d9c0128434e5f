"""What mechanic and supervisor do about open defects."""

from __future__ import annotations

from jutrel.core.defect.defect import Defect
from jutrel.core.defect.kinds import Accepted, Acknowledged, Asked, Isolated, Rechecked, Released
from jutrel.core.defect.life import ABOUT, may_ask
from jutrel.core.defect.report import slots_of
from jutrel.core.errors import BadInput
from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.kinds import Answered, AnyRead
from jutrel.core.log.codec import decode, encode
from jutrel.core.log.kinds import kind_of
from jutrel.service.context import Here
from jutrel.service.defect.open_defects import OpenDefect, defects_on
from jutrel.service.intake import take
from jutrel.service.log.sent import Sent
from jutrel.service.machine.find import unit_of
from jutrel.service.people.people import Actor, allow
from jutrel.service.problem import Conflict, NotFound, Problem
from jutrel.service.site.shifts import timetable_about
from jutrel.store.queries import log as log_store

Act = Acknowledged | Asked | Accepted | Isolated | Released | Rechecked


def acceptance_holds(here: Here, defect: Defect) -> bool:
    """Whether a supervisor accepted a Limit for this shift; an earlier one's word is for that shift."""
    at = defect.accepted_at
    return at is not None and timetable_about(here.site, at).until(at) >= here.now


async def one_defect(here: Here, machine: str, defect: str) -> OpenDefect:
    """A defect that is open on a machine; NotFound if it is not, or not any more."""
    found = next((d for d in await defects_on(here, await unit_of(here, machine)) if d.defect.id == defect), None)
    if found is None:
        raise NotFound("no-defect", "This is closed on this machine, or was never open.")
    return found


async def left_of(here: Here, machine: str, defect: str) -> OpenDefect | None:
    """What is open of a defect that was once told under this id, or None.

    A defect has the id of its first open report. Where that one is cleared and a later one is not, what is left has
    another id: a printed tag, and the page of whoever cleared it, still name the first. The same found there again
    after all of it was closed is told as well: the tag hangs on a machine that is not sound.
    """
    unit = await unit_of(here, machine)
    found = await defects_on(here, unit)
    if same := next((d for d in found if d.defect.id == defect), None):
        return same
    entry, _, place = defect.rpartition(".")
    told = (await log_store.entries_by_id(here.db, here.site.id, [entry])).get(entry)
    if told is None or await log_store.machine_of_stream(here.db, here.site.id, told.stream) != unit.id:
        return None
    if isinstance(told.what, AnyRead):
        at, reading = told.what.checkpoint, told.what.reading
        return next((d for d in found if (d.defect.key[0], d.defect.latest.reading) == (at, reading)), None)
    if not isinstance(told.what, Answered) or not place.isdecimal() or int(place) >= len(told.what.findings):
        return None
    n, findings = int(place), told.what.findings
    key = (told.what.checkpoint, findings[n].failure_mode, slots_of(findings)[n])
    return next((d for d in found if d.defect.key == key), None)


def _check(here: Here, found: OpenDefect, actor: Actor, what: Act) -> None:
    """Refuse what would be kept and not count, so that nobody thinks he did it."""
    if isinstance(what, Asked):
        whom = may_ask(found.life, actor.person.role, found.item.grade, acceptance_holds(here, found.defect))
        if what.role not in whom:
            raise Conflict("not-to-ask", "They were asked already, or it is not theirs to do.", field="role")
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
    _check(here, found, actor, what)
    if not found.entries <= seen:
        raise Conflict("reported-again", "It was reported again meanwhile: look at the new report first.")
    named = frozenset({what.release}) if isinstance(what, Rechecked) else found.entries
    sent = Sent(entry, kind_of(what).name, actor.person.id, here.now, what, named)
    taken = await take(here, actor, machine, f"defect.{defect}", [sent])
    if taken.refused:
        no = taken.refused[0]
        raise Conflict(no.kind, no.says, field=no.field or "id")
