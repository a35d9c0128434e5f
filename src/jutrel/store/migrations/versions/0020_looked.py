"""When what is looked at by interval was looked at last is found by an index."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    where = sa.text("signed_at IS NOT NULL AND jsonb_array_length(data -> 'looked') > 0")
    op.create_index("look_looked", "look", ["site_id", "machine_id", "begun_at"], postgresql_where=where)


def downgrade() -> None:
    op.drop_index("look_looked", "look")
