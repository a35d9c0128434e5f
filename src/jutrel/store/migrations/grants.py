"""What the role that serves may do: `jutrel_serve` is made with the cluster."""

from __future__ import annotations

from collections.abc import Sequence

import sqlalchemy as sa
from alembic import op

SERVING = "jutrel_serve"
_ALL = "select, insert, update, delete"
_ADD = "select, insert"


def kept(*tables: str) -> dict[str, str]:
    """Tables that it may add to and read, never change or take away."""
    return dict.fromkeys(tables, _ADD)


def free(*tables: str) -> dict[str, str]:
    """Tables that it may change."""
    return dict.fromkeys(tables, _ALL)


def grant(rights: dict[str, str], also: Sequence[str] = ()) -> None:
    """Grant exactly these rights on these tables, where there is such a role."""
    have = op.get_bind().execute(sa.text("select 1 from pg_roles where rolname = :name"), {"name": SERVING}).scalar()
    if not have:
        return
    for table, what in rights.items():
        op.execute(f"revoke all on {table} from {SERVING}")
        op.execute(f"grant {what} on {table} to {SERVING}")
    for statement in also:
        op.execute(statement)


def one_site(table: str, column: str = "site_id") -> None:
    """Have whoever serves a site see and write the rows of that one alone; the owner, who looks after all, is free."""
    op.execute(f"alter table {table} enable row level security")
    op.execute(f"create policy of_one_site on {table} using ({of_site(column)})")


def of_site(column: str) -> str:
    """That a row is of the site that is asked for.

    A check of each row that is found, and no way to find it: every query of ours names its site, and is planned by
    that. Written as an equality it was taken, before the tables were analysed, for one that leaves hardly a row. The
    site is worked out once a statement, by a question of its own; the function only where the connection names none.
    """
    mine = "(select coalesce(nullif(current_setting('jutrel.site', true), ''), jutrel_only_site()))"
    return f"case when {column} = {mine} then true else false end"
