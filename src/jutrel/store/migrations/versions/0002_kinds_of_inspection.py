"""Kinds of inspection: which one each was."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("inspection", sa.Column("kind", sa.Text(), nullable=False, server_default="pre-start"))
    op.alter_column("inspection", "kind", server_default=None)


def downgrade() -> None:
    op.drop_column("inspection", "kind")
