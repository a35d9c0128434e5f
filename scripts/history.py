"""`make weeks`: the demo's twelve weeks lived anew, about six minutes, and written down as the file that ships."""

from __future__ import annotations

import asyncio
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import psycopg

from jutrel.catalog import catalog
from jutrel.cluster import Cluster
from jutrel.core.log.entry import Entry
from jutrel.demo.history_file import FILE, write_history
from jutrel.demo.make_history import make_history
from jutrel.demo.story import MACHINES, SITE
from jutrel.service.site.upgrade import bring_up
from jutrel.store.base import Store
from jutrel.store.migrate import newest_revision
from jutrel.store.queries.log import log_of

ROOT = Path(__file__).resolve().parents[1]


async def _entries(url: str) -> list[Entry]:
    store = Store(url)
    try:
        async with store.transaction() as db:
            return [e for m in MACHINES async for e in log_of(db, SITE[0], m.id)]
    finally:
        await store.close()


def plain(url: str) -> str:
    """The address of a database as the driver takes it."""
    return url.replace("postgresql+psycopg", "postgresql")


def main(last: int, path: Path) -> None:
    cluster = Cluster(ROOT / ".jutrel" / "weeks", durable=False)
    cluster.drop()
    cluster.make()
    cluster.start()
    try:
        bring_up(cluster.url, catalog())
        begun = time.perf_counter()
        make_history(cluster.serve_url, catalog(), last=last)
        entries: Iterator[Entry] = iter(asyncio.run(_entries(cluster.serve_url)))
        with psycopg.connect(plain(cluster.url)) as db:
            write_history(db, entries, newest_revision(), path)
        took = time.perf_counter() - begun
        print(f"{path.name}: {path.stat().st_size / 1e6:.1f} MB, {took:.0f} s")
    finally:
        cluster.stop()
        cluster.drop()


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 1, Path(sys.argv[2]) if len(sys.argv) > 2 else FILE)
