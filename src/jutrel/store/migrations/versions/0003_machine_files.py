"""Machine files, own model files, hour meters that were replaced, and what changed at a look."""

from __future__ import annotations

import hashlib
import json
import uuid
from datetime import UTC, datetime

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("machine", sa.Column("own_limits", JSONB(), nullable=False, server_default="{}"))
    op.add_column("machine", sa.Column("meter_offset", sa.Float(), nullable=False, server_default="0"))
    op.add_column("machine", sa.Column("active", sa.Boolean(), nullable=False, server_default="true"))
    op.add_column("machine", sa.Column("photo", sa.Text(), nullable=True))
    op.add_column("inspection", sa.Column("changed", JSONB(), nullable=False, server_default="[]"))
    for table, column in (("machine", "own_limits"), ("machine", "meter_offset"), ("machine", "active")):
        op.alter_column(table, column, server_default=None)
    op.alter_column("inspection", "changed", server_default=None)
    op.create_table(
        "machine_entry",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("id", sa.Text(), primary_key=True),
        sa.Column("machine_id", sa.Text(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("what", JSONB(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("device", sa.Text(), nullable=False),
        sa.Column("digest", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["site_id", "machine_id"], ["machine.site_id", "machine.id"]),
    )
    op.create_index("machine_entry_machine", "machine_entry", ["site_id", "machine_id", "id"])
    op.create_table(
        "model_file",
        sa.Column("site_id", sa.Text(), sa.ForeignKey("site.id"), primary_key=True),
        sa.Column("model_id", sa.Text(), primary_key=True),
        sa.Column("edition", sa.Integer(), primary_key=True),
        sa.Column("id", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("by", sa.Text(), nullable=False),
        sa.UniqueConstraint("site_id", "id", name="model_file_id"),
    )
    _write_down_what_is_there()


def _write_down_what_is_there() -> None:
    """Every machine of before gets the first entry of its file."""
    db = op.get_bind()
    now = datetime.now(UTC)
    rows = db.execute(sa.text("select site_id, id, name, model_id, options, bay from machine order by site_id, id"))
    for number, row in enumerate(rows.mappings().all()):
        what = {
            "name": row["name"],
            "model_id": row["model_id"],
            "options": sorted(row["options"]),
            "own_limits": {},
            "bay": row["bay"],
            "note": "",
            "active": True,
        }
        made = uuid.UUID(int=int(now.timestamp() * 1000) << 80 | 7 << 76 | 2 << 62 | number)
        db.execute(
            sa.text(
                "insert into machine_entry (site_id, id, machine_id, kind, what, at, by, device, digest) values "
                "(:site, :id, :machine, 'filed', cast(:what as jsonb), :at, 'update', 'server', :digest)"
            ),
            {
                "site": row["site_id"],
                "id": str(made),
                "machine": row["id"],
                "what": json.dumps(what),
                "at": now,
                "digest": hashlib.sha256(json.dumps([row["id"], "filed", what], sort_keys=True).encode()).hexdigest(),
            },
        )


def downgrade() -> None:
    op.drop_table("model_file")
    op.drop_table("machine_entry")
    op.drop_column("inspection", "changed")
    for column in ("photo", "active", "meter_offset", "own_limits"):
        op.drop_column("machine", column)
