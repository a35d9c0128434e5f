"""A machine's row that is written is told to whoever listens."""

from __future__ import annotations

from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "create function tell_yard() returns trigger language plpgsql as $$ "
        "begin perform pg_notify('yard', ''); return null; end $$"
    )
    op.execute(
        "create trigger machine_told after insert or update or delete on machine "
        "for each statement execute function tell_yard()"
    )


def downgrade() -> None:
    op.execute("drop trigger machine_told on machine")
    op.execute("drop function tell_yard()")
