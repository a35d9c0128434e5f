"""Who is signed in on which device, and ending that: of one's own, or of a tablet that was lost."""

from __future__ import annotations

from jutrel.core.account import AccountChange
from jutrel.core.people import Right, rights_of
from jutrel.service.context import Here
from jutrel.service.people.account import note
from jutrel.service.people.people import Actor
from jutrel.service.problem import NotFound
from jutrel.store.queries import people as store
from jutrel.store.queries.people import SignedIn

__all__ = ["SignedIn", "end_session_of", "sessions_for"]


async def sessions_for(here: Here, actor: Actor) -> list[SignedIn]:
    """Everybody's for whoever looks after people, else one's own; the newest first."""
    all_ = Right.MANAGE in rights_of(actor.person.role)
    return await store.signed_in(here.db, here.site.id, here.now, None if all_ else actor.person.id)


async def end_session_of(here: Here, actor: Actor, pen: str) -> None:
    """Sign somebody out on a device; NotFound unless the actor may and it lasts. Of another's, the account tells."""
    found = next((s for s in await sessions_for(here, actor) if s.pen == pen), None)
    if found is None:
        raise NotFound("no-session", "Nobody is signed in there any more.")
    await store.end_session_by(here.db, here.site.id, pen, here.now)
    if found.person != actor.person.id:
        await note(here, actor.person.id, AccountChange.SESSION_ENDED, found.person, {"device": found.device})
