"""Devices of a site and what they said last."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from jutrel.store.migrations.grants import grant

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "instrument",
        sa.Column("site_id", sa.Text, sa.ForeignKey("site.id"), primary_key=True),
        sa.Column("key", sa.Text, primary_key=True),
        sa.Column("on", sa.Boolean, nullable=False),
        sa.Column("says", JSONB, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("by", sa.Text, nullable=False),
        sa.Column("simulated", sa.Boolean, nullable=False),
    )
    grant({"instrument": "select, insert, update"})


def downgrade() -> None:
    op.drop_table("instrument")
