"""The language that a person has chosen, empty: none yet; what entries name is put in order at once."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("person", sa.Column("language", sa.Text(), nullable=False, server_default=""))
    # Else what waits to be put in order would be gone through by each tap. What waits now is put in order here.
    op.execute("alter index entry_names set (fastupdate = off)")
    op.execute("select gin_clean_pending_list('entry_names')")


def downgrade() -> None:
    op.execute("alter index entry_names reset (fastupdate)")
    op.drop_column("person", "language")
