"""The log of entries, and the projections written with it."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import DateTime, Float, ForeignKeyConstraint, Index, Integer, LargeBinary, Text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class EntryRow(Base):
    """One entry, never changed. `digest` tells a repeated entry from another one with its id.

    Keyed by site and a UUIDv7, which carries the time, so that it can be partitioned
    by site and month.
    """

    __tablename__ = "entry"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    inspection_id: Mapped[str] = mapped_column(Text)
    machine_id: Mapped[str] = mapped_column(Text)
    kind: Mapped[str] = mapped_column(Text)
    what: Mapped[dict[str, Any]] = mapped_column(JSONB)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    by: Mapped[str] = mapped_column(Text)
    role: Mapped[str] = mapped_column(Text)
    sent_by: Mapped[str] = mapped_column(Text)
    device: Mapped[str] = mapped_column(Text)
    received_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    digest: Mapped[str] = mapped_column(Text)

    __table_args__ = (
        ForeignKeyConstraint(["site_id", "machine_id"], ["machine.site_id", "machine.id"]),
        Index("entry_inspection", "site_id", "inspection_id", "id"),
    )


class InspectionRow(Base):
    """A projection: what the fold and the verdict say, for lists. Can be made anew from the log."""

    __tablename__ = "inspection"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    machine_id: Mapped[str] = mapped_column(Text)
    kind: Mapped[str] = mapped_column(Text, default="pre-start")
    status: Mapped[str] = mapped_column(Text)
    opened_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    opened_by: Mapped[str] = mapped_column(Text)
    last_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    last_by: Mapped[str] = mapped_column(Text)
    signed_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    signed_by: Mapped[str | None] = mapped_column(Text)
    outcome: Mapped[str] = mapped_column(Text)
    why: Mapped[str] = mapped_column(Text)
    hour_meter: Mapped[float] = mapped_column(Float)
    valid_until: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    valid_until_hour: Mapped[float | None] = mapped_column(Float)
    answered: Mapped[int] = mapped_column(Integer)
    planned: Mapped[int] = mapped_column(Integer)
    limits: Mapped[list[Any]] = mapped_column(JSONB)
    open_findings: Mapped[list[Any]] = mapped_column(JSONB)
    changed: Mapped[list[Any]] = mapped_column(JSONB, default=list)
    rulebook: Mapped[str] = mapped_column(Text)

    __table_args__ = (
        ForeignKeyConstraint(["site_id", "machine_id"], ["machine.site_id", "machine.id"]),
        Index("inspection_machine", "site_id", "machine_id", "opened_at"),
    )


class PhotoRow(Base):
    """A picture, made small and without its location data before it is kept."""

    __tablename__ = "photo"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    inspection_id: Mapped[str] = mapped_column(Text)
    mime: Mapped[str] = mapped_column(Text)
    sha256: Mapped[str] = mapped_column(Text)
    data: Mapped[bytes] = mapped_column(LargeBinary)
    by: Mapped[str] = mapped_column(Text)
    received_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
