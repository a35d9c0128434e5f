from __future__ import annotations

import asyncio
from collections.abc import Iterable, Iterator

import pytest

from jutrel.cluster import Cluster
from jutrel.core.clearance.answer import Clearance
from jutrel.service.context import Books
from jutrel.store.base import Store
from tests.clearance.oracle import Act
from tests.clearance.world import SMALL, Asked, World, as_folded, found_site, run
from tests.conftest import _copy, _template


class Told:
    """Tells the product histories and asks it: one database for a file, a machine for each history."""

    def __init__(self, url: str) -> None:
        self.loop = asyncio.new_event_loop()
        self.store, self.books = Store(url), Books(SMALL)
        self.loop.run_until_complete(found_site(self.store, self.books))

    def __call__(
        self, acts: Iterable[Act], asked: Iterable[Asked]
    ) -> tuple[list[tuple[Asked, Clearance]], World]:  # fmt: skip
        return run(self.loop, self.store, self.books, acts, asked)

    def folded(self, world: World) -> bool:
        return self.loop.run_until_complete(as_folded(world))

    def close(self) -> None:
        self.loop.run_until_complete(self.store.close())
        self.loop.close()


@pytest.fixture(scope="session")
def empty_template(cluster: Cluster) -> str:
    return _template(cluster, "empty", lambda url: None)


@pytest.fixture(scope="module")
def told(cluster: Cluster, empty_template: str) -> Iterator[Told]:
    made = Told(_copy(cluster, empty_template))
    yield made
    made.close()
