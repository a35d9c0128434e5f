"""What is open on the machines of a site, in the order of its list, with what it is picked by."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from jutrel.store.migrations.grants import free, grant

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "open_defect",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("id", sa.Text(), primary_key=True),
        sa.Column("machine_id", sa.Text(), nullable=False),
        sa.Column("grade", sa.SmallInteger(), nullable=False),
        sa.Column("since", sa.DateTime(timezone=True), nullable=False),
        sa.Column("duty", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(["site_id", "machine_id"], ["machine.site_id", "machine.id"]),
    )
    op.create_index("open_defect_order", "open_defect", ["site_id", sa.text("grade DESC"), "since", "id"])
    op.create_index("open_defect_machine", "open_defect", ["site_id", "machine_id"])
    grant(free("open_defect"))
    # Its rows are written when a machine is judged: each is judged anew when the server starts.
    op.execute("update machine set standing = jsonb_set(standing, '{judged_by}', '\"\"') where standing ? 'judged_by'")


def downgrade() -> None:
    op.drop_table("open_defect")
