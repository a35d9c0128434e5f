"""One log per machine: entries chained, pens, editions, records, reports of defects.

The tables of the second release are set aside under `second_*`; `jutrel migrate` then moves their content
into the log, because that needs the rules. There is no way back: keep a backup.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

SERVING = "jutrel_serve"
KEPT = ("entry", "edition", "record", "photo")
"""What the serving role may add to and read, never change or take away."""


def upgrade() -> None:
    for table in ("entry", "inspection", "machine_entry", "photo"):
        op.rename_table(table, f"second_{table}")
        op.execute(f'alter index "{table}_pkey" rename to "second_{table}_pkey"')
    op.drop_table("session")
    op.add_column("machine", sa.Column("standing", JSONB(), nullable=False, server_default="{}"))
    op.add_column("machine", sa.Column("seq", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("machine", sa.Column("head", sa.Text(), nullable=False, server_default=""))
    for column in ("standing", "seq", "head"):
        op.alter_column("machine", column, server_default=None)
    at = sa.DateTime(timezone=True)
    machine = sa.ForeignKeyConstraint(["site_id", "machine_id"], ["machine.site_id", "machine.id"])
    op.create_table(
        "entry",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("machine_id", sa.Text(), primary_key=True),
        sa.Column("seq", sa.Integer(), primary_key=True),
        sa.Column("id", sa.Text(), nullable=False),
        sa.Column("stream", sa.Text(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("what", JSONB(), nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("at", at, nullable=False),
        sa.Column("replaces", ARRAY(sa.Text()), nullable=False),
        sa.Column("names", ARRAY(sa.Text()), nullable=False),
        sa.Column("offset_ms", sa.BigInteger(), nullable=True),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("pen", sa.Text(), nullable=False),
        sa.Column("device", sa.Text(), nullable=False),
        sa.Column("sent_by", sa.Text(), nullable=False),
        sa.Column("received_at", at, nullable=False),
        sa.Column("heard_at", at, nullable=False),
        sa.Column("pins", JSONB(), nullable=True),
        sa.Column("prev", sa.Text(), nullable=False),
        sa.Column("hash", sa.Text(), nullable=False),
        machine,
        sa.UniqueConstraint("site_id", "id", name="entry_id"),
    )
    op.create_index("entry_stream", "entry", ["site_id", "stream", "seq"])
    op.create_index("entry_kind", "entry", ["site_id", "machine_id", "kind"])
    op.create_index("entry_names", "entry", ["names"], postgresql_using="gin")
    op.create_table(
        "stream",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("id", sa.Text(), primary_key=True),
        sa.Column("machine_id", sa.Text(), nullable=False),
    )
    op.create_table(
        "edition",
        sa.Column("hash", sa.Text(), primary_key=True),
        sa.Column("content", sa.LargeBinary(), nullable=False),
        sa.Column("first_used", at, nullable=False),
    )
    op.create_table(
        "record",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("signature", sa.Text(), primary_key=True),
        sa.Column("look", sa.Text(), nullable=False),
        sa.Column("document", sa.LargeBinary(), nullable=False),
        sa.Column("verdict", JSONB(), nullable=False),
    )
    op.create_index("record_look", "record", ["site_id", "look"])
    op.create_table(
        "photo",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("id", sa.Text(), primary_key=True),
        sa.Column("by", sa.Text(), primary_key=True),
        sa.Column("of", sa.Text(), nullable=False),
        sa.Column("mime", sa.Text(), nullable=False),
        sa.Column("sha256", sa.Text(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        sa.Column("received_at", at, nullable=False),
    )
    op.execute(
        'insert into photo (site_id, id, "by", "of", mime, sha256, data, received_at) '
        'select site_id, id, "by", inspection_id, mime, sha256, data, received_at from second_photo'
    )
    op.drop_table("second_photo")
    op.create_table(
        "look",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("id", sa.Text(), primary_key=True),
        sa.Column("machine_id", sa.Text(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("status", sa.Text(), nullable=False),
        sa.Column("begun_at", at, nullable=False),
        sa.Column("signed_at", at, nullable=True),
        sa.Column("data", JSONB(), nullable=False),
        sa.ForeignKeyConstraint(["site_id", "machine_id"], ["machine.site_id", "machine.id"]),
    )
    op.create_index("look_machine", "look", ["site_id", "machine_id", "begun_at"])
    op.create_index("look_begun", "look", ["site_id", "begun_at"])
    op.create_table(
        "report",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("entry", sa.Text(), primary_key=True),
        sa.Column("index", sa.Integer(), primary_key=True),
        sa.Column("machine_id", sa.Text(), nullable=False),
        sa.Column("look", sa.Text(), nullable=False),
        sa.Column("open", sa.Boolean(), nullable=False),
        sa.Column("data", JSONB(), nullable=False),
        sa.Column("settled", JSONB(), nullable=True),
        sa.ForeignKeyConstraint(["site_id", "machine_id"], ["machine.site_id", "machine.id"]),
    )
    op.create_index("report_open", "report", ["site_id", "machine_id"], postgresql_where=sa.text("open"))
    op.create_index("report_look", "report", ["site_id", "look"])
    op.create_table(
        "pen",
        sa.Column("id", sa.Text(), primary_key=True),
        sa.Column("secret_hash", sa.Text(), nullable=False, unique=True),
        sa.Column("site_id", sa.Text(), nullable=False),
        sa.Column("person_id", sa.Text(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("device", sa.Text(), nullable=False),
        sa.Column("given_at", at, nullable=False),
        sa.Column("ends_at", at, nullable=False),
        sa.ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),
    )
    op.create_index("pen_person", "pen", ["site_id", "person_id"])
    op.create_table(
        "session",
        sa.Column("token_hash", sa.Text(), primary_key=True),
        sa.Column("site_id", sa.Text(), nullable=False),
        sa.Column("person_id", sa.Text(), nullable=False),
        sa.Column("pen_id", sa.Text(), nullable=False),
        sa.Column("opened_at", at, nullable=False),
        sa.Column("ends_at", at, nullable=False),
        sa.ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),
    )
    _grant()


def _grant() -> None:
    """What the serving role may do, where there is one: `jutrel_serve` is made with the cluster."""
    have = op.get_bind().execute(sa.text("select 1 from pg_roles where rolname = :name"), {"name": SERVING}).scalar()
    if not have:
        return
    op.execute(f"grant usage on schema public to {SERVING}")
    op.execute(f"grant select, insert, update, delete on all tables in schema public to {SERVING}")
    for table in KEPT:
        op.execute(f"revoke update, delete, truncate on {table} from {SERVING}")
    op.execute(f"revoke insert, update, delete on alembic_version from {SERVING}")


def downgrade() -> None:
    raise NotImplementedError("There is no way back from one log per machine: restore the backup of before.")
