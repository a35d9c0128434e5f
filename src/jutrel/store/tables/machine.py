"""Sites and the machines that stand on them."""

from __future__ import annotations

from sqlalchemy import Float, ForeignKey, Integer, Text
from sqlalchemy.dialects.postgresql import ARRAY
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class SiteRow(Base):
    """A job. Times are stored in UTC and shown in `zone`; `shift_hours` is the usual shift."""

    __tablename__ = "site"
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    zone: Mapped[str] = mapped_column(Text, default="UTC")
    regime: Mapped[str] = mapped_column(Text, default="house")
    shift_hours: Mapped[float] = mapped_column(Float, default=10.0)


class MachineRow(Base):
    """One unit: its model, its options, the last known hour meter, its place in the parking line."""

    __tablename__ = "machine"
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    model_id: Mapped[str] = mapped_column(Text)
    options: Mapped[list[str]] = mapped_column(ARRAY(Text), default=list)
    hour_meter: Mapped[float] = mapped_column(Float, default=0.0)
    bay: Mapped[int] = mapped_column(Integer, default=0)
