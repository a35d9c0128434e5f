"""Which site is asked for is worked out once a statement, not once a row."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from jutrel.store.migrations.grants import of_site

revision = "0032"
down_revision = "0031"
branch_labels = None
depends_on = None


def upgrade() -> None:
    tables = (
        op.get_bind().execute(sa.text("select tablename from pg_policies where policyname = 'of_one_site'")).scalars()
    )
    for table in tables.all():
        column = "id" if table == "site" else "site_id"
        op.execute(f'alter policy of_one_site on "{table}" using ({of_site(column)})')


def downgrade() -> None:
    """What the policy says stays the same."""
