"""What a site writes down of itself: when its shifts begin."""

from __future__ import annotations

from datetime import time

from jutrel.core.account import AccountChange
from jutrel.core.errors import BadInput
from jutrel.core.people import Right
from jutrel.service.context import Here
from jutrel.service.people.account import note
from jutrel.service.people.people import Actor, require
from jutrel.store.queries import machines as machine_store

MOST_SHIFTS, SHORTEST_H, LONGEST_H = 6, 1.0, 14.0


def check_shifts(shifts: tuple[tuple[str, float], ...]) -> None:
    """That shifts can be so; BadInput naming the field if not."""
    if not 1 <= len(shifts) <= MOST_SHIFTS:
        raise BadInput("shifts", "give one to {n} shifts", n=MOST_SHIFTS)
    for begins, hours in shifts:
        try:
            at = time.fromisoformat(begins)
        except ValueError:
            raise BadInput("begins", "write it as 06:00") from None
        if at.isoformat("minutes") != begins:
            raise BadInput("begins", "write it as 06:00")
        if not SHORTEST_H <= hours <= LONGEST_H:
            raise BadInput("hours", "a shift lasts {low} to {high} hours", low=SHORTEST_H, high=LONGEST_H)
    if len({begins for begins, _ in shifts}) < len(shifts):
        raise BadInput("begins", "two shifts begin at the same time")


async def choose_shifts(here: Here, actor: Actor, shifts: tuple[tuple[str, float], ...]) -> None:
    """Write down when the shifts of this site begin and how long they last.

    Raises
    ------
    NotAllowed
        For anyone but a supervisor or an administrator.
    BadInput
        For a shift that cannot be so.
    """
    require(actor, Right.RUN_SITE)
    check_shifts(shifts)
    await machine_store.set_shifts(here.db, here.site.id, sorted(shifts))
    if sorted(shifts) != sorted(here.site.shifts):
        told = {"from": _told(here.site.shifts), "to": _told(shifts)}
        await note(here, actor.person.id, AccountChange.SHIFTS_CHANGED, here.site.id, told)


def _told(shifts: tuple[tuple[str, float], ...]) -> str:
    return ", ".join(f"{begins} {hours:g} h" for begins, hours in sorted(shifts))
