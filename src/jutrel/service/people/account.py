"""The account of a site: writing it, reading it, checking that it is whole."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from jutrel.core.account import OF_ONESELF, START, AccountChange, AccountLine, broken_at, line_hash
from jutrel.core.people import Right, rights_of
from jutrel.service.context import Here
from jutrel.store.queries import account as store
from jutrel.store.queries import people as people_store
from jutrel.store.queries.people import Person

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


async def news_for(here: Here, who: Person) -> list[AccountLine]:
    """What others changed about a person since they read it last, the oldest first; and, for those who run the site,
    what one administrator did alone."""
    alone = AccountChange.ROLE_ALONE
    runs = Right.RUN_SITE in rights_of(who.role)

    def is_news(line: AccountLine) -> bool:
        if line.by == who.id:
            return False
        of_me = line.about == who.id and line.what in OF_ONESELF | {alone}
        return of_me or (runs and line.what is alone)

    read = await people_store.told_up_to(here.db, here.site.id, who.id)
    return [line for line in await store.lines_after(here.db, here.site.id, read, who.id, alone) if is_news(line)]


async def read_news(here: Here, who: Person, seq: int) -> None:
    """Note that a person read what was changed, up to a line; never beyond the last that there is."""
    last = await store.newest_seq(here.db, here.site.id)
    await people_store.note_told(here.db, here.site.id, who.id, min(seq, last))
