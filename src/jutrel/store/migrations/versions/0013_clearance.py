"""When the shifts of a site begin; in which looks somebody could not see what a life depends on; entries that came in
when their pen had ended."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("site", sa.Column("shifts", JSONB, nullable=False, server_default="[]"))
    op.add_column("look", sa.Column("blind", sa.Boolean, nullable=False, server_default="false"))
    op.add_column("entry", sa.Column("stale", sa.Boolean, nullable=False, server_default="false"))
    op.create_index("look_blind", "look", ["site_id", "machine_id"], postgresql_where=sa.text("blind"))


def downgrade() -> None:
    op.drop_index("look_blind", "look")
    op.drop_column("entry", "stale")
    op.drop_column("look", "blind")
    op.drop_column("site", "shifts")
