"""Devices of a site and what they said last."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import Boolean, DateTime, ForeignKey, Text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class InstrumentRow(Base):
    """A device; `machine`: for which it speaks, empty: for the site; `simulated`: a person set what it says."""

    __tablename__ = "instrument"
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    machine: Mapped[str] = mapped_column(Text, primary_key=True, default="")
    key: Mapped[str] = mapped_column(Text, primary_key=True)
    on: Mapped[bool] = mapped_column(Boolean)
    says: Mapped[dict[str, float]] = mapped_column(JSONB)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    by: Mapped[str] = mapped_column(Text)
    simulated: Mapped[bool] = mapped_column(Boolean)
