"""Backups, as tablets have to know of them: what the server took stays on them until a backup has it as well."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta

from jutrel.core.account import CONSOLE, AccountChange
from jutrel.core.errors import BadInput
from jutrel.service.context import Here
from jutrel.service.people.account import note
from jutrel.store.queries import backups as store
from jutrel.store.queries.people import end_sessions

LATE = timedelta(minutes=5)
"""What was taken so long before a backup began may still have been on its way into the database."""


@dataclass(frozen=True, slots=True)
class BackupReach:
    """`life`: which life of the database this is; it is another one after a backup was put back. `covered`: what the
    server took until then is in a backup; None: no backup is known."""

    life: str
    covered: datetime | None


async def backup_reach(here: Here) -> BackupReach:
    """How far the backups reach."""
    return BackupReach(*await store.reach(here.db, here.site.id))


async def backed_up(here: Here, began: datetime) -> None:
    """A backup that began then was made, and read back; raises BadInput for a time that lies ahead."""
    if began > here.now:
        raise BadInput("began", "it lies ahead; write it down when it is done")
    await store.set_covered(here.db, here.site.id, began - LATE)


async def put_back(here: Here) -> None:
    """This database was put back from a backup: tablets send again what it may lack, and everybody signs in anew.

    A backup knows nothing of whoever signed out after it was made: a tablet that was lost
    since then would be signed in once more.
    """
    await store.set_epoch(here.db, here.site.id, uuid.uuid4().hex)
    await end_sessions(here.db, here.site.id)
    await note(here, CONSOLE, AccountChange.PUT_BACK, here.site.id)
