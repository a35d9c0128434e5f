"""Passkeys beside the PIN: the public halves of people's own keys, and what they are asked to sign."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from jutrel.store.migrations.grants import free, grant

revision = "0027"
down_revision = "0026"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "passkey",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("id", sa.Text(), primary_key=True),
        sa.Column("person_id", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("public", sa.LargeBinary(), nullable=False),
        sa.Column("count", sa.BigInteger(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),
    )
    op.create_index("passkey_person", "passkey", ["site_id", "person_id"])
    op.create_table(
        "passkey_asked",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("challenge", sa.Text(), primary_key=True),
        sa.Column("person_id", sa.Text(), nullable=False),
        sa.Column("until", sa.DateTime(timezone=True), nullable=False),
    )
    grant(free("passkey", "passkey_asked"))


def downgrade() -> None:
    op.drop_table("passkey_asked")
    op.drop_table("passkey")
