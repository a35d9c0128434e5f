"""What somebody asks of those who may do it."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY

from jutrel.store.migrations.grants import free, grant

revision = "0028"
down_revision = "0027"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "ask",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("by", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("path", sa.Text(), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("roles", ARRAY(sa.Text()), nullable=False),
        sa.Column("done_by", sa.Text(), nullable=True),
        sa.Column("done_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["site_id", "by"], ["person.site_id", "person.id"]),
    )
    op.create_index("ask_open", "ask", ["site_id", "at"], postgresql_where=sa.text("done_at is null"))
    grant(free("ask"))


def downgrade() -> None:
    op.drop_table("ask")
