"""What a service function needs to know of where it runs: the transaction, the site, the catalog, the time."""

from __future__ import annotations

import asyncio
from collections import OrderedDict
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import Any, TypeVar
from weakref import WeakValueDictionary

from jutrel.catalog.build_drawing import redrawn
from jutrel.catalog.compile import Editions, editions_under
from jutrel.catalog.whole import Catalog
from jutrel.core.edition import Edition, load_edition
from jutrel.core.machine.model import Model
from jutrel.core.machine.unit import SiteInfo
from jutrel.service.log.log_cache import Shelf
from jutrel.service.people.site_keys import SiteKeys
from jutrel.service.problem import NotFound
from jutrel.service.site.languages import Languages
from jutrel.service.worker_pool import SECONDS, Aside
from jutrel.store.base import Db, Store, driver_of
from jutrel.store.live import Live
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries.sites import sites_there

__all__ = ["Books", "Catalog", "Here", "Shop", "TakingTurns", "here_of"]
KEPT_EDITIONS = 64
T = TypeVar("T")


class Books:
    """The catalog in force, and earlier editions as they are asked for."""

    def __init__(self, catalog: Catalog, texts: Path | None = None, site_keys: SiteKeys | None = None) -> None:
        self.catalog = catalog
        self.site_keys = site_keys or SiteKeys()
        self.texts = texts
        self.languages = Languages(texts)
        self._under: dict[str, Editions] = {}
        self.shelf = Shelf()
        self._ones: dict[type, Any] = {}
        self.last_known: dict[str, Model] = {}
        """Models as they were last looked up, for readings while the store is away."""
        self._loaded: OrderedDict[str, Edition] = OrderedDict()

    def beside(self) -> Books:
        """The same catalog and languages with nothing kept yet of a site: for another one."""
        other = Books(self.catalog, self.texts, self.site_keys)
        other.languages, other._under, other._loaded = self.languages, self._under, self._loaded
        return other

    def under(self, regime: str) -> Editions:
        """The catalog under a regime, and its editions."""
        if regime not in self._under:
            self._under[regime] = editions_under(self.catalog, regime)
        return self._under[regime]

    def one(self, kind: type[T]) -> T:
        """The one thing of a kind that is kept with the books."""
        made: T = self._ones.setdefault(kind, kind())
        return made

    async def edition(self, db: Db, name: str) -> Edition:
        """An edition by its hash; NotFound if it was never kept."""
        if name in self._loaded:
            self._loaded.move_to_end(name)
            return self._loaded[name]
        self._loaded[name] = redrawn(self.catalog.drawings, load_edition(await self.edition_content(db, name)))
        if len(self._loaded) > KEPT_EDITIONS:
            self._loaded.popitem(last=False)
        return self._loaded[name]

    async def edition_content(self, db: Db, name: str) -> bytes:
        """An edition's compiled form; NotFound if it was never kept."""
        made = (content for editions in self._under.values() if (content := editions.content(name)))
        content = next(made, None) or await log_store.edition_content(db, name)
        if content is None:
            raise NotFound("no-edition", "The rules that this look was judged by are not kept here.")
        return content


class TakingTurns:
    """One writer a machine, one PIN a person, at a time in this process.

    Who waits, waits without a connection to the store.
    """

    def __init__(self) -> None:
        self._locks: WeakValueDictionary[str, asyncio.Lock] = WeakValueDictionary()

    def of(self, what: str) -> asyncio.Lock:
        """The lock of a machine, or of something else; it goes when nobody holds it."""
        return self._locks.setdefault(what, asyncio.Lock())


@dataclass(frozen=True)
class Shop:
    """What lives as long as the server: the store, the books, the turns, the processes beside it."""

    store: Store
    books: Books
    turns: TakingTurns
    aside: Aside
    live: Live

    @classmethod
    def open(
        cls,
        url: str,
        catalog: Catalog,
        texts: Path | None = None,
        beside_s: float = SECONDS,
        key_file: Path | None = None,
    ) -> Shop:
        """Open on a database address.

        Parameters
        ----------
        texts
            A folder of languages of the site's own.
        beside_s
            What one piece of work beside the server may take [s].
        key_file
            The file that encrypts the site's own key; None: it is kept as it is.
        """
        books = Books(catalog, texts, SiteKeys(key_file))
        return cls(Store(url), books, TakingTurns(), Aside(seconds=beside_s), Live(url))

    async def close(self) -> None:
        """Let go of everything."""
        self.aside.close()
        await self.live.close()
        await self.store.close()


class NothingAsked(Exception):
    """Something was asked of the store by a piece of work that has no transaction: it needs one."""


@dataclass(frozen=True)
class Here:
    """One piece of work on the site, at a time: in a transaction, or by what this process knows already."""

    transaction: Db | None
    site: SiteInfo
    books: Books
    now: datetime
    asked: dict[str, Any] = field(default_factory=dict, compare=False, repr=False)
    """What was read in this transaction already and nobody writes in it."""

    @property
    def db(self) -> Db:
        """The transaction under way; raises NothingAsked where there is none."""
        if self.transaction is None:
            raise NothingAsked
        return self.transaction

    @property
    def where(self) -> str:
        """By which this process keeps what it worked out: the site, with the shifts that it was worked out by."""
        return f"{self.site.id} {self.site.shifts}"

    @property
    def catalog(self) -> Catalog:
        """The catalog in force on this site."""
        return self.editions.catalog

    @property
    def editions(self) -> Editions:
        """The editions of the catalog in force on this site."""
        return self.books.under(self.site.regime)


async def here_of(db: Db, books: Books, now: datetime) -> Here:
    """The site that is asked for, or the only one; NotFound before it was set up, and where several could be meant."""
    site = await machine_store.only_site(db)
    if site is None and (there := (await sites_there(await driver_of(db))).ids):
        raise NotFound(
            "which-site", "There are several sites here. Say which with JUTREL_SITE: {those}.", those=", ".join(there)
        )
    if site is None:
        raise NotFound(
            "no-site",
            "No site has been set up yet: `jutrel site code` gives a code for its page, "
            "`make demo` shows an invented one.",
        )
    return Here(db, site, books, now)
