"""What machines tell over their bus: as of now, what happened, and samples that thin out with age."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from jutrel.store.migrations.grants import grant

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def _of_machine() -> list[sa.Column[str]]:
    return [
        sa.Column("site_id", sa.Text, sa.ForeignKey("site.id"), primary_key=True),
        sa.Column("machine_id", sa.Text, primary_key=True),
    ]


def upgrade() -> None:
    op.create_table(
        "panel_now",
        *_of_machine(),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("says", JSONB, nullable=False),
    )
    op.create_table(
        "panel_told",
        *_of_machine(),
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("what", sa.Text, nullable=False),
        sa.Column("word", sa.Text, nullable=False),
        sa.Column("colour", sa.Text, nullable=False),
        sa.Column("value", sa.Double, nullable=True),
    )
    op.create_index("panel_told_by_time", "panel_told", ["site_id", "machine_id", "at"])
    for name, which in (("panel_told_red", "colour = 'red'"), ("panel_told_engine", "what = 'engine'")):
        op.create_index(name, "panel_told", ["site_id", "machine_id", "at"], postgresql_where=sa.text(which))
    op.create_table(
        "panel_sample",
        *_of_machine(),
        sa.Column("at", sa.DateTime(timezone=True), primary_key=True),
        sa.Column("says", JSONB, nullable=False),
    )
    op.create_table(
        "standin_order",
        *_of_machine(),
        sa.Column("orders", JSONB, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("by", sa.Text, nullable=False),
    )
    grant(
        {
            "panel_now": "select, insert, update",
            "panel_told": "select, insert",
            "panel_sample": "select, insert, delete",
            "standin_order": "select, insert, update",
        }
    )


def downgrade() -> None:
    for table in ("standin_order", "panel_sample", "panel_told", "panel_now"):
        op.drop_table(table)
