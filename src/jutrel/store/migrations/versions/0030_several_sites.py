"""Several sites in one database: whoever serves one of them sees and writes that one alone, whatever is asked.

A connection says for which site it asks (`jutrel.site`). One that says none is asked for the only site, where there is
but one: an earlier release that still serves goes on. Where there are several, it sees nothing.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from jutrel.store.migrations.grants import grant, one_site

revision = "0030"
down_revision = "0029"
branch_labels = None
depends_on = None

TABLES = (
    "account", "ask", "device", "entry", "good_picture", "instrument", "look", "machine", "model_file", "open_defect",
    "own_tablet", "panel_now", "panel_sample", "panel_told", "passkey", "passkey_asked", "pen", "person", "photo",
    "pin_given", "record", "report", "role_asked", "school_choice", "session", "site_key", "standin_order",
    "stream", "training",
)  # fmt: skip
SECOND = "language sql stable security definer set search_path = pg_catalog, public"


def upgrade() -> None:
    op.execute(
        f"create function jutrel_only_site() returns text {SECOND} as "
        "$$ select min(id) from public.site having count(*) = 1 $$"
    )
    op.execute(f"create function jutrel_sites() returns setof text {SECOND} as $$ select id from public.site $$")
    op.create_table(
        "site_address",
        sa.Column("host", sa.Text(), primary_key=True),
        sa.Column("site_id", sa.Text(), sa.ForeignKey("site.id"), nullable=False),
    )
    grant({"site_address": "select"})
    for table in TABLES:
        one_site(table)
    one_site("site", "id")
    # The bell of the yard says whose it is.
    op.execute(
        "create or replace function tell_yard() returns trigger language plpgsql as $$ begin "
        "perform pg_notify('yard', coalesce(current_setting('jutrel.site', true), '')); return null; end $$"
    )


def downgrade() -> None:
    op.execute(
        "create or replace function tell_yard() returns trigger language plpgsql as $$ "
        "begin perform pg_notify('yard', ''); return null; end $$"
    )
    for table in (*TABLES, "site"):
        op.execute(f"drop policy of_one_site on {table}")
        op.execute(f"alter table {table} disable row level security")
    op.drop_table("site_address")
    op.execute("drop function jutrel_sites()")
    op.execute("drop function jutrel_only_site()")
