"""Until when a site's backups reach, and which of its lives a database is in: what is put back begins another."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("site", sa.Column("epoch", sa.Text(), nullable=False, server_default=""))
    op.add_column("site", sa.Column("covered_at", sa.DateTime(timezone=True), nullable=True))


def downgrade() -> None:
    op.drop_column("site", "covered_at")
    op.drop_column("site", "epoch")
