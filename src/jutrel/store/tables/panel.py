"""What machines tell over their bus."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Any

from sqlalchemy import DateTime, Double, ForeignKey, Index, Text, Uuid, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class PanelNowRow(Base):
    """A machine's panel as its reader said last."""

    __tablename__ = "panel_now"
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    machine_id: Mapped[str] = mapped_column(Text, primary_key=True)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    says: Mapped[dict[str, Any]] = mapped_column(JSONB)


class PanelToldRow(Base):
    """Something that a run goes by; added, never changed."""

    __tablename__ = "panel_told"
    __table_args__ = (
        Index("panel_told_by_time", "site_id", "machine_id", "at"),
        Index("panel_told_red", "site_id", "machine_id", "at", postgresql_where=text("colour = 'red'")),
        Index("panel_told_engine", "site_id", "machine_id", "at", postgresql_where=text("what = 'engine'")),
    )
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    machine_id: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[uuid.UUID] = mapped_column(Uuid, primary_key=True)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    what: Mapped[str] = mapped_column(Text)
    word: Mapped[str] = mapped_column(Text)
    colour: Mapped[str] = mapped_column(Text)
    value: Mapped[float | None] = mapped_column(Double)


class PanelSampleRow(Base):
    """Values of a moment; those in between go with age."""

    __tablename__ = "panel_sample"
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    machine_id: Mapped[str] = mapped_column(Text, primary_key=True)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True), primary_key=True)
    says: Mapped[dict[str, Any]] = mapped_column(JSONB)


class StandinOrderRow(Base):
    """What a person set the stand-in of a machine to do."""

    __tablename__ = "standin_order"
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    machine_id: Mapped[str] = mapped_column(Text, primary_key=True)
    orders: Mapped[dict[str, Any]] = mapped_column(JSONB)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    by: Mapped[str] = mapped_column(Text)
