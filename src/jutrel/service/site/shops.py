"""The sites that one installation serves: each by its own address, with its own store, books and turns."""

from __future__ import annotations

import time
from collections.abc import AsyncIterator
from dataclasses import dataclass, field, replace

from jutrel.service.context import Shop, TakingTurns
from jutrel.service.problem import NotFound
from jutrel.store.base import Store, StoreAway, StoreBusy, StoreFault
from jutrel.store.queries.sites import Sites, sites_there

KNOWN_S = 5.0
"""How long what was found of the sites is good [s]: a new one is served after that."""


async def each_site(store: Store, only: str = "") -> list[Store]:
    """The store of each site, or of `only`; the store as it is before there is any site, or where there is one.

    Raises
    ------
    NotFound
        If there is no such site.
    """
    async with store.driver() as driver:
        there = (await sites_there(driver)).ids
    if only and only not in there:
        raise NotFound(
            "no-such-site", "There is no site '{site}'. There are: {those}.", site=only, those=", ".join(there)
        )
    return [store.of(site) for site in there if only in ("", site)] or [store]


AGAIN_S = 0.5
"""After how long it is asked again where it did not answer [s]."""


@dataclass(slots=True)
class Shops:
    """A shop a site. Where there is but one site, whatever address leads here leads to it.

    Where there are several, an address that leads to none of them is refused: nobody may take one site for another.
    """

    first: Shop
    _there: Sites = field(default=Sites((), {}))
    _until: float = 0.0
    _by_site: dict[str, Shop] = field(default_factory=dict)

    async def at(self, host: str) -> Shop | None:
        """The shop of an address; None: it leads nowhere."""
        await self._look()
        if len(self._there.ids) > 1:
            # Where the database would not keep them apart, none of them is served: see `jutrel check`.
            site = self._there.addresses.get(host) if self._there.apart else None
            return self._of(site) if site is not None else None
        return self._of(self._there.ids[0]) if self._there.ids else self.first

    async def all(self) -> AsyncIterator[Shop]:
        """The shop of each site, one after the other; raises StoreAway or StoreBusy."""
        await self._ask()
        for site in self._there.ids:
            yield self._of(site)

    def knows(self, host: str) -> bool:
        """Whether an address was given to a site."""
        return host in self._there.addresses

    async def _look(self) -> None:
        if time.monotonic() < self._until:
            return
        self._until = time.monotonic() + KNOWN_S  # one looks; the others go by what was found last
        try:
            await self._ask()
        except (StoreAway, StoreBusy, StoreFault):
            # While the store is away what was known of it stands; whoever asks it for more is told that it is away.
            self._until = time.monotonic() + AGAIN_S

    async def _ask(self) -> None:
        async with self.first.store.driver() as driver:
            self._there = await sites_there(driver)

    def _of(self, site: str) -> Shop:
        if site not in self._by_site:
            shop = replace(self.first, store=self.first.store.of(site))
            # What the first has in mind is the only site's, from before there were others.
            if self._by_site:
                shop = replace(shop, books=self.first.books.beside(), turns=TakingTurns())
            self._by_site[site] = shop
        return self._by_site[site]
