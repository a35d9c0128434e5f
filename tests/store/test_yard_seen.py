"""The yard's version is worked out anew whenever anything was written, and only then.

How it could hurt: a machine that is held now, shown as ready, because nobody looked whether its row was written.
"""

from __future__ import annotations

import asyncio
from datetime import UTC, datetime
from typing import Any

import psycopg

from jutrel.store.base import Store
from jutrel.store.queries.yard import Seen, yard_version
from tests.conftest import Cluster, owner_of, sql

NOW = datetime.now(UTC)


def test_what_is_seen_changes_with_whatever_is_committed_and_with_nothing_else(bare: str, cluster: Cluster) -> None:
    name = bare.rsplit("/", 1)[1]
    sql(
        cluster,
        "insert into pen (id, site_id, person_id, role, device, secret_hash, given_at, ends_at) "
        "select gen_random_uuid(), site_id, id, role, 'tab', 'x', now(), now() from person where name like 'Mira%'; "
        "insert into session (token_hash, site_id, person_id, pen_id, opened_at, ends_at) "
        "select 'a-hash', site_id, person_id, id, now(), now() + interval '1 day' from pen where secret_hash = 'x'",
        name,
    )

    async def looks() -> None:
        store = Store(bare)

        async def seen(before: Seen) -> Seen:
            async with store.driver() as driver:
                found = await yard_version(driver, "a-hash", NOW, before)
            assert found is not None
            return found[2]

        first = await seen(Seen())
        assert first.version
        # Nothing was written: the very same is given back, unread. A transaction that wrote nothing yet is none.
        assert await seen(first) is first
        assert (await seen(Seen(first.seen, "known"))).version == "known"
        owner = owner_of(bare).replace("+psycopg", "")
        async with await psycopg.AsyncConnection.connect(owner) as other:
            await other.execute("update machine set name = name where id = 'ex-01'")
            during = await seen(first)
            assert during.version == first.version, "it is not committed"
            # What was seen while it went on is not taken for what is seen after it.
            await other.commit()
        after = await seen(during)
        assert after.version not in (first.version, during.version)
        assert (await seen(Seen(during.seen, "old"))).version == after.version
        # Two rows in one transaction, a row that goes, a savepoint, a machine of a name that was there.
        last = after
        for change in (
            "update machine set name = name where id in ('ex-01', 'ex-02')",
            "begin; savepoint a; update machine set name = name where id = 'gr-09'; release a; commit",
            "begin; update machine set name = 'x'; rollback; update machine set bay = bay where id = 'ex-01'",
        ):
            async with await psycopg.AsyncConnection.connect(owner, autocommit=True) as other:
                await other.execute(change)
            now = await seen(last)
            assert now.version != last.version, change
            last = now
        await store.close()

    asyncio.run(looks())


def test_another_database_or_another_server_never_looks_the_same(bare: str, empty: str, cluster: Cluster) -> None:
    """Put back from a backup, a database may stand at the very transaction of the one before."""

    def at(url: str) -> Any:
        asked = "select pg_postmaster_start_time(), (select oid from pg_database where datname = current_database())"
        return sql(cluster, asked, url.rsplit("/", 1)[1])[0]

    assert at(bare) != at(empty)
    assert at(bare)[0] == at(empty)[0]
