"""A key for each device, with the machines and instruments that it may tell of."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY

from jutrel.store.migrations.grants import free, grant

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "device",
        sa.Column("site_id", sa.Text, sa.ForeignKey("site.id"), primary_key=True),
        sa.Column("id", sa.Text, primary_key=True),
        sa.Column("key_hash", sa.Text, nullable=False),
        sa.Column("machines", ARRAY(sa.Text), nullable=False),
        sa.Column("instruments", ARRAY(sa.Text), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("made_by", sa.Text, nullable=False),
        sa.Column("ended_at", sa.DateTime(timezone=True)),
    )
    op.create_index("device_by_key", "device", ["site_id", "key_hash"], unique=True)
    grant(free("device"))


def downgrade() -> None:
    op.drop_table("device")
