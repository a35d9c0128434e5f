from __future__ import annotations

import asyncio
from collections.abc import Callable, Iterable, Iterator

import pytest

from jutrel.cluster import Cluster
from jutrel.core.clearance.answer import Clearance
from jutrel.service.context import Books
from jutrel.store.base import Store
from tests.clearance.oracle import Act
from tests.clearance.world import SMALL, Asked, World, found_site, run
from tests.conftest import _copy, _template

Told = Callable[[Iterable[Act], Iterable[Asked]], tuple[list[tuple[Asked, Clearance]], World]]


@pytest.fixture(scope="session")
def empty_template(cluster: Cluster) -> str:
    return _template(cluster, "empty", lambda url: None)


@pytest.fixture(scope="module")
def told(cluster: Cluster, empty_template: str) -> Iterator[Told]:
    """Tells the product a history and asks it: one database for a file, a machine for each history."""
    loop = asyncio.new_event_loop()
    store, books = Store(_copy(cluster, empty_template)), Books(SMALL)
    loop.run_until_complete(found_site(store, books))
    yield lambda acts, asked: run(loop, store, books, acts, asked)
    loop.run_until_complete(store.close())
    loop.close()
