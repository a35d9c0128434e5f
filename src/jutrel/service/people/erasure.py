"""How long a site keeps the names of people who left."""

from __future__ import annotations

from datetime import timedelta

from jutrel.core.account import CONSOLE, AccountChange
from jutrel.core.errors import BadInput
from jutrel.service.context import Here
from jutrel.service.people.account import note
from jutrel.service.people.changes import erase_person
from jutrel.store.queries import people as store

LEAST_DAYS = 30
"""Sooner nobody is erased by itself: what they reported is still worked on, and who left by mistake comes back."""


async def erase_after(here: Here, days: int | None) -> None:
    """Say after how many days the name of somebody who left is erased; None: never by itself.

    Raises
    ------
    BadInput
        For fewer than thirty days.
    """
    if days is not None and days < LEAST_DAYS:
        raise BadInput("days", "give {least} days or more, or never", least=LEAST_DAYS)
    await store.erase_after(here.db, here.site.id, days)
    said = "never" if days is None else str(days)
    await note(here, CONSOLE, AccountChange.ERASURE_CHANGED, here.site.id, {"days": said})


async def erase_due(here: Here) -> int:
    """Erase the names of those who left long enough ago by the site's rule; how many there were."""
    days = await store.erased_after(here.db, here.site.id)
    if days is None:
        return 0
    gone = await store.left_before(here.db, here.site.id, here.now - timedelta(days=days))
    for person in gone:
        await erase_person(here, CONSOLE, person)
    return len(gone)
