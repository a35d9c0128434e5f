"""Accounts that people have at their company (OpenID Connect), and sign-ins by them that are under way."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from jutrel.store.migrations.grants import free, grant, one_site

revision = "0031"
down_revision = "0030"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "company_account",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("issuer", sa.Text(), primary_key=True),
        sa.Column("subject", sa.Text(), primary_key=True),
        sa.Column("person_id", sa.Text(), nullable=False),
        sa.Column("made_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),
    )
    op.create_index("company_account_person", "company_account", ["site_id", "person_id"])
    op.create_table(
        "company_asked",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("state", sa.Text(), primary_key=True),
        sa.Column("browser", sa.Text(), nullable=False),
        sa.Column("person_id", sa.Text(), nullable=False),
        sa.Column("nonce", sa.Text(), nullable=False),
        sa.Column("verifier", sa.Text(), nullable=False),
        sa.Column("begun_at", sa.DateTime(timezone=True), nullable=False),
    )
    grant(free("company_account", "company_asked"))
    one_site("company_account")
    one_site("company_asked")


def downgrade() -> None:
    op.drop_table("company_asked")
    op.drop_table("company_account")
