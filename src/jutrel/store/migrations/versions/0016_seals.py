"""Pens that are key pairs, the seals of entries, and the site's own key that vouches for pens."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from jutrel.store.migrations.grants import grant, kept

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("pen", sa.Column("key", sa.Text, nullable=False, server_default=""))
    op.add_column("entry", sa.Column("seal", sa.Text))
    op.create_table(
        "site_key",
        sa.Column("site_id", sa.Text, sa.ForeignKey("site.id"), primary_key=True),
        sa.Column("private", sa.Text, nullable=False),
        sa.Column("public", sa.Text, nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
    )
    grant(kept("site_key"))


def downgrade() -> None:
    op.drop_table("site_key")
    op.drop_column("entry", "seal")
    op.drop_column("pen", "key")
