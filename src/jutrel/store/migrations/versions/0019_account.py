"""A PIN that somebody else gave is for the first time only; an account of who changed people and the site."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

from jutrel.store.migrations.grants import grant, kept

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("person", sa.Column("pin_once", sa.Boolean, nullable=False, server_default=sa.false()))
    op.create_table(
        "account",
        sa.Column("site_id", sa.Text, sa.ForeignKey("site.id"), primary_key=True),
        sa.Column("seq", sa.Integer, primary_key=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("by", sa.Text, nullable=False),
        sa.Column("what", sa.Text, nullable=False),
        sa.Column("about", sa.Text, nullable=False),
        sa.Column("details", JSONB, nullable=False),
        sa.Column("prev", sa.Text, nullable=False),
        sa.Column("hash", sa.Text, nullable=False),
    )
    grant(kept("account"))


def downgrade() -> None:
    op.drop_table("account")
    op.drop_column("person", "pin_once")
