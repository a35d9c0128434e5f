"""The PIN given again for what clears, accepts, releases or lowers; since when a PIN stands, and who set it."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from jutrel.store.migrations.grants import grant, kept

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("person", sa.Column("pin_set_at", sa.DateTime(timezone=True)))
    op.add_column("person", sa.Column("pin_set_by", sa.Text))
    op.create_table(
        "pin_given",
        sa.Column("site_id", sa.Text, primary_key=True),
        sa.Column("entry_id", sa.Text, primary_key=True),
        sa.Column("person_id", sa.Text, primary_key=True),
        sa.Column("device", sa.Text, nullable=False),
        sa.Column("given_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),
    )
    grant(kept("pin_given"))


def downgrade() -> None:
    op.drop_table("pin_given")
    op.drop_column("person", "pin_set_by")
    op.drop_column("person", "pin_set_at")
