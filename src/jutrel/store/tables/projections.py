"""Projections: what the log amounts to, for lists. Written with each entry, and made anew from the log at will."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import Boolean, DateTime, ForeignKeyConstraint, Index, Integer, SmallInteger, Text, text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class LookRow(Base):
    """A look in a row. `data` is the core's summary; the other columns are what lists sort and pick by. `blind`: in
    it somebody could not see what a life depends on."""

    __tablename__ = "look"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    machine_id: Mapped[str] = mapped_column(Text)
    kind: Mapped[str] = mapped_column(Text)
    status: Mapped[str] = mapped_column(Text)
    begun_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    signed_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    data: Mapped[dict[str, Any]] = mapped_column(JSONB)
    blind: Mapped[bool] = mapped_column(Boolean, default=False, server_default="false")

    __table_args__ = (
        ForeignKeyConstraint(["site_id", "machine_id"], ["machine.site_id", "machine.id"]),
        Index("look_blind", "site_id", "machine_id", postgresql_where=text("blind")),
        Index(
            "look_looked",
            "site_id",
            "machine_id",
            "begun_at",
            postgresql_where=text("signed_at IS NOT NULL AND jsonb_array_length(data -> 'looked') > 0"),
        ),
        Index("look_machine", "site_id", "machine_id", "begun_at"),
        Index("look_begun", "site_id", "begun_at"),
        Index(
            "look_run_by", "site_id", text("(data ->> 'begun_by')"), "begun_at", postgresql_where=text("kind = 'run'")
        ),
    )


class ReportRow(Base):
    """A report of a defect, and the act that set it aside, if one did."""

    __tablename__ = "report"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    entry: Mapped[str] = mapped_column(Text, primary_key=True)
    index: Mapped[int] = mapped_column(Integer, primary_key=True)
    machine_id: Mapped[str] = mapped_column(Text)
    look: Mapped[str] = mapped_column(Text)
    open: Mapped[bool] = mapped_column(Boolean)
    data: Mapped[dict[str, Any]] = mapped_column(JSONB)
    settled: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))

    __table_args__ = (
        ForeignKeyConstraint(["site_id", "machine_id"], ["machine.site_id", "machine.id"]),
        Index("report_open", "site_id", "machine_id", postgresql_where=text("open")),
        Index("report_look", "site_id", "look"),
    )


class OpenDefectRow(Base):
    """A defect that is open, as the list of all orders and picks it; `id`: its first report, `duty`: what fails."""

    __tablename__ = "open_defect"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    machine_id: Mapped[str] = mapped_column(Text)
    grade: Mapped[int] = mapped_column(SmallInteger)
    since: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    duty: Mapped[str] = mapped_column(Text)

    __table_args__ = (
        ForeignKeyConstraint(["site_id", "machine_id"], ["machine.site_id", "machine.id"]),
        Index("open_defect_order", "site_id", text("grade DESC"), "since", "id"),
        Index("open_defect_machine", "site_id", "machine_id"),
    )
