"""Started to put right: some cures need power, as lifting a load off a lock, taking up a track, or the way to the place
of repair.

It is a named act, in place or to a named place, with nobody near, by whom the defect allows, for an hour at most, and
never work. Common practice; the machine's manual and the local rules say more, and say it narrower.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from enum import StrEnum
from typing import Annotated

from jutrel.core.defect.kinds import Told
from jutrel.core.errors import BadInput
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import Item
from jutrel.core.grading.rulebook import Rulebook
from jutrel.core.log.codec import Text
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import StreamKind, kind
from jutrel.core.machine.family import Duty
from jutrel.core.people import WALKERS, Role
from jutrel.core.wording import Said, Words, as_written, say

KINDS = ("putting-right",)
LASTS = timedelta(hours=1)
"""So long somebody's word that nobody is near is good for; common practice: then they look again."""
KEPT = 6
"""Words of so many people are kept in a machine's row."""


class Cure(StrEnum):
    """What it is started for."""

    LIFT_OFF = "lift-off"
    TAKE_UP = "take-up"
    LOWER = "lower"
    FIND = "find"
    MOVE = "move"


_SAID = {
    Cure.LIFT_OFF: say("The load is lifted off what is taken out", context="cure"),
    Cure.TAKE_UP: say("The track is taken up", context="cure"),
    Cure.LOWER: say("What is up is lowered to the ground", context="cure"),
    Cure.FIND: say("The cause is looked for, or the repair is tried", context="cure"),
    Cure.MOVE: say("It is moved to: {place}", context="cure"),
}


OF_MODES = {
    "still-fitted": frozenset({Cure.LIFT_OFF}),
    "tension": frozenset({Cure.TAKE_UP}),
    "pin-out": frozenset[Cure](),
}
OF_OTHERS = frozenset({Cure.LOWER, Cure.FIND})
"""What is done with power about a failure mode, beside moving it to where it is put right."""


@kind("putting-right", StreamKind.DEFECT, WALKERS)
@dataclass(frozen=True, slots=True)
class PuttingRight:
    """Somebody starts a machine to put it right. The entry's `replaces` names the reports that they saw.

    `place`: where it is moved to; empty: it stays where it stands. `clear`: they walked round it, nobody is in, under
    or near it, and nobody works at it.
    """

    cure: Cure
    how: Told
    clear: bool
    place: Annotated[str, Text(200)] = ""


def check_putting_right(what: PuttingRight) -> None:
    """Refuse what is not a whole word: raises BadInput with the field."""
    if what.cure is Cure.MOVE and len(what.place.strip()) < 3:
        raise BadInput("place", "say where it is moved to")
    if what.cure is not Cure.MOVE and what.place.strip():
        raise BadInput("place", "it stays where it stands: a place is given only where it is moved")
    if not what.clear:
        raise BadInput("clear", "walk round it first: nobody in it, under it or near it")


@dataclass(frozen=True, slots=True)
class Holding:
    """A thing that holds a machine: its place, its reports; who may start it to put that right, and whether it may be
    moved for it. Nobody: it is put right without power, or by whom the manual says."""

    name: Annotated[str, Words("checkpoint")]
    entries: tuple[str, ...]
    by: frozenset[Role] = frozenset()
    moved: bool = False
    cures: frozenset[Cure] = frozenset()


@dataclass(frozen=True, slots=True)
class Permit:
    """Somebody's word that they start it to put it right; `saw`: the reports they had seen."""

    entry: str
    seq: int
    by: str
    role: Role
    at: datetime
    cure: Cure
    place: str
    saw: frozenset[str]

    @property
    def says(self) -> Said:
        """What it is started for."""
        said = _SAID[self.cure]
        return replace(said, values=(("place", as_written(self.place)),)) if self.cure is Cure.MOVE else said


def holdings_of(
    items: Iterable[Item], together: bool, rulebook: Rulebook, duties: Sequence[Duty | None]
) -> tuple[Holding, ...]:
    """What holds a machine; `together`: several things do that none does alone; `duties`: what each item is for."""
    out = []
    for item, duty in zip(items, duties, strict=True):
        if item.grade is not Grade.HOLD:
            continue
        mode = rulebook.modes.get(item.finding.failure_mode)
        by = frozenset(Role(r) for r in mode.powered) if mode is not None else frozenset()
        cures = OF_MODES.get(item.finding.failure_mode, OF_OTHERS) if by else frozenset()
        out.append(Holding(item.name, item.entries, by, bool(by) and duty is not None and duty.moved, cures))
    if together and not out:
        out.append(Holding("", ()))
    return tuple(out)


def permits_of(entries: Iterable[Entry]) -> tuple[Permit, ...]:
    """Who said that they start a machine to put it right: the newest word of each, the newest first."""
    newest: dict[str, Permit] = {}
    for e in sorted({e.id: e for e in entries}.values(), key=lambda e: e.seq):
        if isinstance(e.what, PuttingRight) and not e.stale:
            at, what = min(e.time, e.received_at or e.time), e.what
            newest[e.by] = Permit(e.id, e.seq, e.by, e.role, at, what.cure, what.place, e.replaces)
    return tuple(sorted(newest.values(), key=lambda p: p.seq, reverse=True)[:KEPT])


def against(permit: Permit, holding: Sequence[Holding]) -> Said | None:
    """Why what holds a machine does not allow it; None: it does.

    >>> at = datetime(2026, 5, 4, 7)
    >>> found = Holding("Track sag, left", ("r1",), frozenset({Role.MECHANIC}), False, frozenset({Cure.TAKE_UP}))
    >>> by_whom = Permit("e", 9, "Dag", Role.MECHANIC, at, Cure.TAKE_UP, "", frozenset({"r1"}))
    >>> against(by_whom, [found]) is None
    True
    >>> str(against(Permit("e", 9, "Mira", Role.OPERATOR, at, Cure.TAKE_UP, "", frozenset({"r1"})), [found]))
    'Track sag, left: it is not for you to start it for that.'
    """
    for h in holding:
        if not h.name:
            return say("More than one thing holds it: they are put right with the engine off.")
        name = Said(h.name, (), "checkpoint")
        if not set(h.entries) <= permit.saw:
            return say("{name}: it was reported anew. Look at the new report first.", name=name)
        if not h.by:
            return say("{name}: it is put right without starting the machine.", name=name)
        if permit.role not in h.by:
            return say("{name}: it is not for you to start it for that.", name=name)
        if permit.place and not h.moved:
            return say("{name}: it is put right where it stands, or carried there.", name=name)
    if permit.cure is not Cure.MOVE and not any(permit.cure in h.cures for h in holding):
        return say("Nothing that holds it is put right by that.")
    return None
