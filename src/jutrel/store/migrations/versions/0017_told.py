"""Instruments speak for the site or for one machine; an entry keeps what they told where a hand said otherwise."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None

OF_A_MACHINE = "('slope-sensor', 'tyre-gauge', 'sound-meter')"


def upgrade() -> None:
    op.add_column("entry", sa.Column("told", JSONB))
    # Nobody knows of which machine these spoke: what they said is not taken for any.
    op.execute(f"delete from instrument where key in {OF_A_MACHINE}")
    op.add_column("instrument", sa.Column("machine", sa.Text, nullable=False, server_default=""))
    op.drop_constraint("instrument_pkey", "instrument", type_="primary")
    op.create_primary_key("instrument_pkey", "instrument", ["site_id", "machine", "key"])


def downgrade() -> None:
    op.execute("delete from instrument where machine <> ''")
    op.drop_constraint("instrument_pkey", "instrument", type_="primary")
    op.create_primary_key("instrument_pkey", "instrument", ["site_id", "key"])
    op.drop_column("instrument", "machine")
    op.drop_column("entry", "told")
