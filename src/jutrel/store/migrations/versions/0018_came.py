"""An entry keeps what a reading came to when it came in."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("entry", sa.Column("came", JSONB))


def downgrade() -> None:
    op.drop_column("entry", "came")
