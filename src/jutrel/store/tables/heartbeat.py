"""The row by which a server finds out whether its database still takes anything."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import Boolean, CheckConstraint, DateTime
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class HeartbeatRow(Base):
    """One row; `at`: when it was written last, by the database's clock."""

    __tablename__ = "heartbeat"
    __table_args__ = (CheckConstraint("one", name="heartbeat_one"),)
    one: Mapped[bool] = mapped_column(Boolean, primary_key=True)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
