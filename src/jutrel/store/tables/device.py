"""Devices that may tell something: readers of a bus, instruments."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import DateTime, ForeignKey, Index, Text
from sqlalchemy.dialects.postgresql import ARRAY
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class DeviceRow(Base):
    """A device, the machines and instruments that it may tell of, and the hash of its key."""

    __tablename__ = "device"
    __table_args__ = (Index("device_by_key", "site_id", "key_hash", unique=True),)
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    key_hash: Mapped[str] = mapped_column(Text)
    machines: Mapped[list[str]] = mapped_column(ARRAY(Text))
    instruments: Mapped[list[str]] = mapped_column(ARRAY(Text))
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    made_by: Mapped[str] = mapped_column(Text)
    ended_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
