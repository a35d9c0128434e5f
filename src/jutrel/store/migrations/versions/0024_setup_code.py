"""The code by which a new installation is set up on its page: given at the console, once, for an hour."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from jutrel.store.migrations.grants import grant

revision = "0024"
down_revision = "0023"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "setup_code",
        sa.Column("hash", sa.Text(), primary_key=True),
        sa.Column("ends_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("wrong", sa.Integer(), nullable=False, server_default="0"),
    )
    # Whoever serves may try and use one up; only the console gives one.
    grant({"setup_code": "select, update, delete"})


def downgrade() -> None:
    op.drop_table("setup_code")
