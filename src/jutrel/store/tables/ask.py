"""What somebody asks of those who may do it."""

from __future__ import annotations

import uuid
from datetime import datetime

from sqlalchemy import DateTime, ForeignKeyConstraint, Index, Text, Uuid, text
from sqlalchemy.dialects.postgresql import ARRAY
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class AskRow(Base):
    """Somebody was refused something on a page, and asks one of these roles to see to it."""

    __tablename__ = "ask"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[uuid.UUID] = mapped_column(Uuid, primary_key=True)
    by: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    path: Mapped[str] = mapped_column(Text)
    note: Mapped[str] = mapped_column(Text)
    roles: Mapped[list[str]] = mapped_column(ARRAY(Text))
    done_by: Mapped[str | None] = mapped_column(Text)
    done_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))

    __table_args__ = (
        ForeignKeyConstraint(["site_id", "by"], ["person.site_id", "person.id"]),
        Index("ask_open", "site_id", "at", postgresql_where=text("done_at is null")),
    )
