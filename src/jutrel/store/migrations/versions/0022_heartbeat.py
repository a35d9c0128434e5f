"""A row that is written now and then, so that a database that takes nothing any more is found before somebody taps."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from jutrel.store.migrations.grants import grant

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "heartbeat",
        sa.Column("one", sa.Boolean(), primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.CheckConstraint("one", name="heartbeat_one"),
    )
    grant({"heartbeat": "select, insert, update"})
    op.create_index("photo_received", "photo", ["site_id", "received_at"])


def downgrade() -> None:
    op.drop_index("photo_received", "photo")
    op.drop_table("heartbeat")
