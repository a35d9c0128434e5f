"""On which tablets a person has signed in: there wrong PINs that were tried elsewhere make nobody wait."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from jutrel.store.migrations.grants import free, grant

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "own_tablet",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("person_id", sa.Text(), primary_key=True),
        sa.Column("tablet", sa.Text(), primary_key=True),
        sa.Column("wrong_pins", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("wait_until", sa.DateTime(timezone=True), nullable=True),
        sa.Column("last_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),
    )
    grant(free("own_tablet"))


def downgrade() -> None:
    op.drop_table("own_tablet")
