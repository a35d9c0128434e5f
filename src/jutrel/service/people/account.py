"""The account of a site: writing it, reading it, checking that it is whole."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from jutrel.core.account import START, AccountChange, AccountLine, broken_at, line_hash
from jutrel.service.context import Here
from jutrel.store.queries import account as store

MOST_LINES = 100


async def note(here: Here, by: str, what: AccountChange, about: str, details: Mapping[str, str] | None = None) -> None:
    """Write a line of the account, in the transaction of what it tells of.

    `by`: a person's id, or the console; `about`: the id of a person, device or model.
    """
    last = await store.last_line(here.db, here.site.id)
    seq, prev = (last.seq + 1, last.hash) if last else (1, START)
    line = AccountLine(seq, here.now, by, what, about, dict(details or {}), prev)
    await store.add_line(here.db, here.site.id, replace(line, hash=line_hash(line)))


async def account(here: Here, before: int | None = None, most: int | None = MOST_LINES) -> list[AccountLine]:
    """The lines, the newest first; for whoever may read them."""
    return await store.lines(here.db, here.site.id, before, most)


async def account_broken_at(here: Here) -> int | None:
    """The first line that is not what was written; None: the account is whole."""
    return broken_at(reversed(await store.lines(here.db, here.site.id)))
