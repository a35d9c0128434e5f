"""Whether a server can be relied on just now: for whoever watches it, and for what spreads requests over several."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from enum import StrEnum

from jutrel.service.people.site_keys import SiteKeys
from jutrel.store.base import Store, StoreAway, StoreBusy, StoreFault
from jutrel.store.migrate import newest_revision
from jutrel.store.queries.installation import beat, release_of

CLOCKS = timedelta(seconds=5)
"""So far the clocks of server, database and the beat before may stand apart."""
ASKED_EVERY_S = 5.0


class Amiss(StrEnum):
    """What keeps a server from being relied on."""

    DATABASE = "database"
    RELEASE = "release"
    WRITES = "writes"
    CLOCK = "clock"
    KEY = "key"


SAYS = {
    Amiss.DATABASE: "The database does not answer.",
    Amiss.RELEASE: "The database is of another release: run `jutrel migrate`, or serve the release that it is of.",
    Amiss.WRITES: "The database takes nothing: its disk may be full, or it may only be read.",
    Amiss.CLOCK: "The clocks of server and database differ, or one of them went back.",
    Amiss.KEY: "The file that encrypts the site's own key cannot be read: see JUTREL_KEY_FILE. Nobody can sign in.",
}


@dataclass(slots=True)
class Readiness:
    """What was found last, for a few seconds: who asks often costs nothing."""

    store: Store
    now: Callable[[], datetime]
    site_keys: SiteKeys = field(default_factory=SiteKeys)
    newest: str = field(default_factory=newest_revision)
    _found: tuple[Amiss, ...] = ()
    _until: float = field(default=0.0)

    async def amiss(self) -> tuple[Amiss, ...]:
        """What is amiss; empty: nothing."""
        if time.monotonic() >= self._until:
            self._found = await self._look()
            self._until = time.monotonic() + ASKED_EVERY_S
        return self._found

    async def _look(self) -> tuple[Amiss, ...]:
        try:
            async with self.store.driver() as driver:
                if await release_of(driver) != self.newest:
                    return (Amiss.RELEASE,)
        except (StoreAway, StoreBusy, StoreFault):
            return (Amiss.DATABASE,)
        try:
            async with self.store.driver() as driver:
                before, at = await beat(driver)
        except (StoreAway, StoreBusy, StoreFault):
            return (Amiss.WRITES,)
        # A small row still finds its place when the disk is full: whoever was turned away knows better.
        if self.store.disk_full.lately():
            return (Amiss.WRITES,)
        if not self.site_keys.at_hand():
            return (Amiss.KEY,)
        back = before is not None and before > at + CLOCKS
        return (Amiss.CLOCK,) if back or abs(at - self.now()) > CLOCKS else ()
