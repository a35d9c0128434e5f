"""Who may not do something asks those who may, with one tap; they see it on their page until somebody saw to it."""

from __future__ import annotations

from datetime import timedelta

from jutrel.core.people import Role
from jutrel.service.context import Here
from jutrel.service.people.people import Actor
from jutrel.service.problem import Conflict, NotAllowed, NotFound
from jutrel.store.queries import asks as store
from jutrel.store.queries.asks import Ask

__all__ = ["Ask"]
MOST_OPEN, MOST_SHOWN = 20, 50
SHOWN_FOR = timedelta(days=14)


async def ask(here: Here, actor: Actor, id_: str, path: str, note: str, roles: frozenset[Role]) -> None:
    """Ask one of these roles to see to something on a page; sent twice it is asked once.

    Raises
    ------
    Conflict
        If so much is asked by this person already, or the id is another's.
    """
    have = await store.ask(here.db, here.site.id, id_)
    if have is not None:
        if have.by != actor.person.id:
            raise Conflict("id-taken", "This id belongs to something else.", field="id")
        return
    if await store.count_open(here.db, here.site.id, actor.person.id) >= MOST_OPEN:
        raise Conflict("much-asked", "You have asked for {most} things. Take one back first.", most=MOST_OPEN)
    made = Ask(id_, actor.person.id, here.now, path, " ".join(note.split()), roles)
    await store.keep(here.db, here.site.id, made)


async def asks_for(here: Here, actor: Actor) -> list[Ask]:
    """What is asked of the actor's role, or by them, in the last two weeks, the newest first."""
    person = actor.person
    return await store.open_for(here.db, here.site.id, person.role, person.id, here.now - SHOWN_FOR, MOST_SHOWN)


async def seen_to(here: Here, actor: Actor, id_: str) -> None:
    """Note that somebody saw to it, or that it is asked no more; said twice it counts once.

    Raises
    ------
    NotFound
        If there is no such.
    NotAllowed
        Unless it was asked of the actor's role, or by them.
    """
    found = await store.ask(here.db, here.site.id, id_)
    if found is None:
        raise NotFound("no-ask", "Nobody asks for this.")
    if actor.person.role not in found.roles and found.by != actor.person.id:
        raise NotAllowed("not-asked-of-you", "This was asked of somebody else.")
    await store.done(here.db, here.site.id, [id_], actor.person.id, here.now)
