"""How this site and its machines do what good hands do differently."""

from __future__ import annotations

from collections.abc import Mapping

from jutrel.core.account import AccountChange
from jutrel.core.machine.model import Model
from jutrel.core.people import Right
from jutrel.core.procedure.school import WAY_ROUND, in_force
from jutrel.core.route.precedence import Direction
from jutrel.service.context import Here
from jutrel.service.people.account import note
from jutrel.service.people.people import Actor, require
from jutrel.service.problem import Conflict, NotFound
from jutrel.store.queries import site as store
from jutrel.store.queries.site import Chosen


async def schools_of(here: Here, model: Model) -> dict[str, str]:
    """What is in force on a machine of this model now."""
    chosen = await store.schools_chosen(here.db, here.site.id)
    return in_force(here.catalog.schools, {k: c.choice for k, c in chosen.items()}, model.schools)


def direction_in(schools: Mapping[str, str]) -> Direction | None:
    """Which way round it is walked here; None: the shortest.

    >>> direction_in({"way-round": "clockwise"}).value, direction_in({"way-round": "shortest"})
    ('clockwise', None)
    """
    return next((d for d in Direction if d.value == schools.get(WAY_ROUND)), None)


async def chosen_here(here: Here) -> Mapping[str, Chosen]:
    """What the site chose, and who did."""
    return await store.schools_chosen(here.db, here.site.id)


async def choose(here: Here, who: Actor, id_: str, school: str, choice: str) -> None:
    """Write down how this site does it from now on; runs that have begun keep what they began with.

    Raises
    ------
    NotFound
        If there is no such school.
    BadInput
        If it offers no such choice.
    Conflict
        If the maker decides it, or the id belongs to another choice.
    """
    require(who, Right.DECIDE_SCHOOLS)
    known = next((s for s in here.catalog.schools if s.id == school), None)
    if known is None:
        raise NotFound("no-school", "There is no such question.")
    known.choice(choice)
    if known.settled:
        raise Conflict("settled", "This is done in one way on every site.")
    if known.by_model:
        raise Conflict("maker-decides", "The maker of the machine decides this: it stands in the model's file.")
    made = Chosen(school, choice, who.person.id, here.now)
    if not await store.choose_school(here.db, here.site.id, id_, made):
        have = (await chosen_here(here)).get(school)
        if have is None or (have.choice, have.by) != (choice, who.person.id):
            raise Conflict("id-taken", "This id belongs to another choice.", field="id")
        return
    await note(here, who.person.id, AccountChange.SCHOOL_CHOSEN, school, {"to": choice})
