"""A role that clears machines waits for a second administrator; no role changes without a line of the account; people
can be erased; sessions that nobody uses end."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from jutrel.store.migrations.grants import SERVING, free, grant

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None

# A row that this very transaction wrote has its number: nothing older can vouch for a change.
TOLD = f"""
create function person_told() returns trigger language plpgsql as $$
begin
  if current_user = '{SERVING}' and not exists (
    select 1 from account a where a.site_id = new.site_id and a.about = new.id
      and a.xmin::text = (txid_current() % 4294967296)::text
      and a.what in ('person-added', 'role-asked', 'role-changed', 'person-left', 'person-back', 'person-erased')
  ) then
    raise exception 'a person is changed without a line of the account' using errcode = '42501';
  end if;
  return null;
end $$
"""


def upgrade() -> None:
    op.create_table(
        "role_asked",
        sa.Column("site_id", sa.Text(), primary_key=True),
        sa.Column("person_id", sa.Text(), primary_key=True),
        sa.Column("role", sa.Text(), nullable=False),
        sa.Column("asked_by", sa.Text(), nullable=False),
        sa.Column("asked_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),
    )
    op.add_column("person", sa.Column("told_seq", sa.Integer(), nullable=False, server_default="0"))
    op.add_column("person", sa.Column("left_at", sa.DateTime(timezone=True), nullable=True))
    op.add_column("person", sa.Column("erased_as", sa.Integer(), nullable=True))
    op.add_column("session", sa.Column("used_at", sa.DateTime(timezone=True), nullable=True))
    op.add_column("site", sa.Column("erase_after_days", sa.Integer(), nullable=True))
    op.execute(TOLD)
    for name, when in (("person_added", "insert"), ("person_changed", "update")):
        changed = "when (" + " or ".join(f"old.{c} is distinct from new.{c}" for c in ("role", "active", "name")) + ")"
        op.execute(
            f"create constraint trigger {name} after {when} on person deferrable initially deferred "
            f"for each row {changed if when == 'update' else ''} execute function person_told()"
        )
    grant(free("role_asked"))


def downgrade() -> None:
    op.execute("drop trigger person_added on person")
    op.execute("drop trigger person_changed on person")
    op.execute("drop function person_told()")
    op.drop_column("site", "erase_after_days")
    op.drop_column("session", "used_at")
    op.drop_column("person", "erased_as")
    op.drop_column("person", "left_at")
    op.drop_column("person", "told_seq")
    op.drop_table("role_asked")
