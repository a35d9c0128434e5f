"""Entries in less room, and the looks that a machine's row points at.

Ids become uuids, hashes bytes, streams numbers; what is empty or the same as elsewhere is left out. No entry says
anything else than before.
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

from jutrel.store.migrations.grants import grant, kept

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

POINTERS = ("newest", "cleared", "ended", "walking")


def upgrade() -> None:
    op.add_column("stream", sa.Column("no", sa.Integer(), sa.Identity(always=True), nullable=False))
    op.create_unique_constraint("stream_no", "stream", ["no"])
    op.rename_table("entry", "entry_before")
    for index in ("entry_stream", "entry_kind", "entry_names"):
        op.drop_index(index, "entry_before")
    op.drop_constraint("entry_id", "entry_before")
    op.execute("alter table entry_before drop constraint entry_pkey")
    at = sa.DateTime(timezone=True)
    op.create_table(
        "entry",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("machine_id", sa.Text(), primary_key=True),
        sa.Column("seq", sa.Integer(), primary_key=True),
        sa.Column("stream_no", sa.Integer(), nullable=False),
        sa.Column("at", at, nullable=False),
        sa.Column("received_at", at, nullable=False),
        sa.Column("heard_at", at, nullable=False),
        sa.Column("offset_ms", sa.BigInteger(), nullable=True),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("by", sa.Uuid(), nullable=False),
        sa.Column("pen", sa.Uuid(), nullable=True),
        sa.Column("sent_by", sa.Text(), nullable=True),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("device", sa.Text(), nullable=False),
        sa.Column("hash", sa.LargeBinary(), nullable=False),
        sa.Column("what", JSONB(), nullable=False),
        sa.Column("replaces", ARRAY(sa.Uuid()), nullable=True),
        sa.Column("names", ARRAY(sa.Uuid()), nullable=True),
        sa.Column("pins", JSONB(), nullable=True),
        sa.ForeignKeyConstraint(["site_id", "machine_id"], ["machine.site_id", "machine.id"]),
    )
    op.execute(
        'insert into entry (site_id, machine_id, seq, stream_no, at, received_at, heard_at, offset_ms, id, "by", pen, '
        "sent_by, kind, role, device, hash, what, replaces, names, pins) "
        "select e.site_id, e.machine_id, e.seq, s.no, e.at, e.received_at, e.heard_at, e.offset_ms, e.id::uuid, "
        'e."by"::uuid, nullif(e.pen, \'\')::uuid, nullif(e.sent_by, e."by"), e.kind, e.role, e.device, '
        "decode(e.hash, 'hex'), e.what, nullif(e.replaces, '{}')::uuid[], nullif(e.names, '{}')::uuid[], e.pins "
        "from entry_before e join stream s on s.site_id = e.site_id and s.id = e.stream"
    )
    op.create_unique_constraint("entry_id", "entry", ["site_id", "id"])
    op.create_index("entry_stream", "entry", ["stream_no", "seq"])
    op.create_index("entry_kind", "entry", ["site_id", "machine_id", "kind"])
    op.create_index(
        "entry_names", "entry", ["names"], postgresql_using="gin", postgresql_where=sa.text("names is not null")
    )
    op.drop_table("entry_before")
    for column in POINTERS:
        op.add_column("machine", sa.Column(column, sa.Text(), nullable=True))
    _point()
    grant(kept("entry"))


def _point() -> None:
    """Let each machine's row point at its newest looks."""
    picks = {
        "newest": "signed_at is not null",
        "cleared": "signed_at is not null and (data->>'clears')::boolean",
        "ended": "(data->>'ends')::boolean",
        "walking": "status = 'walking'",
    }
    for column, where in picks.items():
        op.execute(
            f'update machine m set "{column}" = (select l.id from look l where l.site_id = m.site_id '
            f"and l.machine_id = m.id and {where} order by l.begun_at desc, l.id desc limit 1)"
        )


def downgrade() -> None:
    raise NotImplementedError("There is no way back to the roomier entries: restore the backup of before.")
