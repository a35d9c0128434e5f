"""What machines work within beside their defects' own limits, and a supervisor's word on it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jutrel.core.clearance.answer import Clearance
from jutrel.core.log.codec import decode, encode
from jutrel.core.log.kinds import kind_of
from jutrel.core.machine.limits import AcceptedAs, LimitsAccepted, name_of
from jutrel.core.machine.unit import Unit
from jutrel.service.clearance.clearance import clearance_of
from jutrel.service.context import Here
from jutrel.service.intake import take
from jutrel.service.log.sent import Sent
from jutrel.service.machine.find import unit_of
from jutrel.service.machine.yard import yard
from jutrel.service.people.people import Actor, allow
from jutrel.service.problem import Conflict
from jutrel.store.queries import log as log_store

UNACCEPTED = ("limits-unaccepted", "limits-accepted-earlier")


@dataclass(frozen=True, slots=True)
class Within:
    """What a machine works within, by what name, and whose word on it holds in this shift; None: nobody's."""

    unit: Unit
    clearance: Clearance
    accepted: AcceptedAs | None

    @property
    def name(self) -> str:
        """By which it is accepted."""
        return name_of(self.clearance.shared)


def _within(unit: Unit, found: Clearance) -> Within:
    name = name_of(found.shared)
    holds = not any(x.key in UNACCEPTED for x in found.work.lacks)
    accepted = next((a for a in unit.standing.accepted if a.limits == name), None) if holds else None
    return Within(unit, found, accepted)


async def all_within(here: Here, machine: str | None = None) -> Sequence[Within]:
    """The machines of the site, or one, that work within more than their defects' own limits."""
    told = [(y.unit, y.clearance) for y in await yard(here) if machine in (None, y.unit.id) and y.clearance.shared]
    return [_within(unit, found) for unit, found in told]


async def accept(here: Here, actor: Actor, machine: str, entry: str, what: LimitsAccepted) -> None:
    """Write down that a supervisor accepts what a machine works within, as the page showed it; once.

    Raises
    ------
    NotAllowed, BadInput
        If it is not for this role, or no reason is given.
    Conflict
        If it says something else by now.
    """
    what = decode(LimitsAccepted, encode(what))
    allow(actor, *sorted(kind_of(what).roles))
    known = (await log_store.entries_by_id(here.db, here.site.id, [entry])).get(entry)
    if known is None:
        unit = await unit_of(here, machine)
        if name_of((await clearance_of(here, unit)).shared) != what.limits:
            raise Conflict("other-limits", "It works within something else by now: read it again.", field="limits")
    sent = Sent(entry, kind_of(what).name, actor.person.id, known.at if known else here.now, what)
    taken = await take(here, actor, machine, f"defect.{entry}", [sent])
    if taken.refused:
        no = taken.refused[0]
        raise Conflict(no.kind, no.says, field=no.field or "id")
