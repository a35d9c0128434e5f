"""How a checkpoint looks when it is sound, as the site photographed it; a site's usual units, its numbers
for emergencies."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from jutrel.store.migrations.grants import grant

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("site", sa.Column("units", sa.Text, nullable=False, server_default="metric"))
    op.add_column("site", sa.Column("numbers", JSONB, nullable=False, server_default="[]"))
    op.create_table(
        "good_picture",
        sa.Column("site_id", sa.Text, sa.ForeignKey("site.id"), primary_key=True),
        sa.Column("machine_id", sa.Text, primary_key=True),
        sa.Column("checkpoint", sa.Text, primary_key=True),
        sa.Column("whole_model", sa.Boolean, primary_key=True),
        sa.Column("photo", sa.Text),
        sa.Column("by", sa.Text, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )
    grant({"good_picture": "select, insert, update, delete"})


def downgrade() -> None:
    op.drop_table("good_picture")
    op.drop_column("site", "numbers")
    op.drop_column("site", "units")
