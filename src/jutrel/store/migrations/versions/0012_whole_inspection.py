"""Which whole inspection a machine goes on: a short one clears it only while that one holds."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("machine", sa.Column("whole", sa.Text, nullable=True))
    # What cleared machines until now went by rules that knew no difference.
    op.execute("update machine set whole = cleared")


def downgrade() -> None:
    op.drop_column("machine", "whole")
