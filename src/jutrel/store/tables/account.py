"""The account of a site: only ever added to."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import DateTime, ForeignKey, Integer, Text
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class AccountRow(Base):
    """A line of a site's account, chained to the one before."""

    __tablename__ = "account"
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    seq: Mapped[int] = mapped_column(Integer, primary_key=True)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    by: Mapped[str] = mapped_column(Text)
    what: Mapped[str] = mapped_column(Text)
    about: Mapped[str] = mapped_column(Text)
    details: Mapped[dict[str, str]] = mapped_column(JSONB)
    prev: Mapped[str] = mapped_column(Text)
    hash: Mapped[str] = mapped_column(Text)
