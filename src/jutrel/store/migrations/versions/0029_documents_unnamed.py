"""Whether the documents of signed looks still name somebody whose name was erased."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0029"
down_revision = "0028"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("person", sa.Column("documents_done", sa.Boolean(), nullable=False, server_default="false"))


def downgrade() -> None:
    op.drop_column("person", "documents_done")
