"""The rulebook to be read, tried and chosen: which regime a site goes by, and what a finding would be graded."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from jutrel.catalog.whole import Regime
from jutrel.core.errors import BadInput
from jutrel.core.grading.facts import History, Place, facts_of
from jutrel.core.grading.finding_grade import Graded, check_finding, grade_finding
from jutrel.core.inspection.finding import Conditions, Finding
from jutrel.core.machine.family import Checkpoint
from jutrel.core.people import Right
from jutrel.service.context import Catalog, Here
from jutrel.service.people.people import Actor, require
from jutrel.store.queries import machines as machine_store


@dataclass(frozen=True, slots=True)
class Supposed:
    """A finding that nobody made: at a part of a duty, under these conditions, after this history."""

    duty: str
    finding: Finding
    checkpoint: str | None = None
    conditions: Conditions = field(default_factory=Conditions)
    shifts: int = 1
    overdue: bool = False
    out: int = 0


@dataclass(frozen=True, slots=True)
class TriedFinding:
    """What a supposed finding is graded, where, and whether the operator may put it right there."""

    graded: Graded
    checkpoint: Checkpoint
    may_put_right: bool


async def choose_regime(here: Here, actor: Actor, regime: str) -> Regime:
    """Have the site go by another regime; looks that have begun keep the rules they are bound to.

    Raises
    ------
    NotAllowed
        For anyone but an administrator.
    BadInput
        If there is no such regime.
    """
    require(actor, Right.MANAGE)
    known = here.catalog.regimes
    if regime not in known:
        raise BadInput("regime", "'{it}' is not one of {those}", it=regime, those=", ".join(known))
    await machine_store.set_regime(here.db, here.site.id, regime)
    return known[regime]


def places_with(catalog: Catalog, duty: str, mode: str) -> list[Checkpoint]:
    """Checkpoints where something of a duty can fail in a way, each once, by their names."""
    found: dict[str, Checkpoint] = {}
    for family in catalog.families.values():
        for c in family.checkpoints:
            at = c.duty_of(mode)
            if mode in c.failure_modes and at is not None and at.id == duty:
                found.setdefault(c.id, c)
    return list(found.values())


def suppose(catalog: Catalog, regime: str | None, what: Supposed) -> TriedFinding:
    """What a finding would be graded today.

    Raises
    ------
    BadInput
        Naming the regime, the duty, the mode, the checkpoint or the attribute that there is not.
    """
    book = catalog.rulebook if regime is None else catalog.rulebooks.get(regime)
    if book is None:
        raise BadInput("regime", "'{it}' is not one of {those}", it=regime, those=", ".join(catalog.rulebooks))
    if what.duty not in book.duties:
        raise BadInput("duty", "'{it}' is not one of {those}", it=what.duty, those=", ".join(book.duties))
    check_finding(what.finding, book)
    places = places_with(catalog, what.duty, what.finding.failure_mode)
    if what.checkpoint is not None:
        places = [c for c in places if c.id == what.checkpoint]
    if not places:
        field = "checkpoint" if what.checkpoint else "failure_mode"
        raise BadInput(field, "nothing there fails in this way with this duty")
    c = places[0]
    model = next(m for m in catalog.models.values() if any(x.id == c.id for x in m.family.checkpoints))
    place = Place(model, what.conditions, 100.0, model.reserves)
    history = replace(History(what.shifts), due_hour=50.0 if what.overdue else None)
    facts = facts_of(what.finding, c, place, book, history, what.out)
    return TriedFinding(grade_finding(what.finding, facts, book), c, book.may_put_right(what.finding, c))
