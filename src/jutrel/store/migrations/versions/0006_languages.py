"""The language that a person has chosen; empty: none yet."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("person", sa.Column("language", sa.Text(), nullable=False, server_default=""))


def downgrade() -> None:
    op.drop_column("person", "language")
