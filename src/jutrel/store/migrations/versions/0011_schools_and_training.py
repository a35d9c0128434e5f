"""How a site does what good hands do differently, and who was shown what."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from jutrel.store.migrations.grants import grant, kept

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "school_choice",
        sa.Column("site_id", sa.Text, sa.ForeignKey("site.id"), primary_key=True),
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("no", sa.BigInteger, sa.Identity(always=True), nullable=False),
        sa.Column("school", sa.Text, nullable=False),
        sa.Column("choice", sa.Text, nullable=False),
        sa.Column("by", sa.Text, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_table(
        "training",
        sa.Column("site_id", sa.Text, sa.ForeignKey("site.id"), primary_key=True),
        sa.Column("id", sa.Uuid, primary_key=True),
        sa.Column("person_id", sa.Text, nullable=False),
        sa.Column("taught", sa.Text, nullable=False),
        sa.Column("model_id", sa.Text, nullable=False),
        sa.Column("note", sa.Text, nullable=False),
        sa.Column("by", sa.Text, nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("withdraws", sa.Uuid, nullable=True),
    )
    op.create_index("training_person", "training", ["site_id", "person_id"])
    by = sa.text("(data ->> 'begun_by')")
    op.create_index("look_run_by", "look", ["site_id", by, "begun_at"], postgresql_where=sa.text("kind = 'run'"))
    grant(kept("school_choice", "training"))


def downgrade() -> None:
    op.drop_index("look_run_by", "look")
    for table in ("training", "school_choice"):
        op.drop_table(table)
