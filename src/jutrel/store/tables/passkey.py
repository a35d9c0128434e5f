"""Passkeys of people, and challenges under way."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import BigInteger, DateTime, ForeignKeyConstraint, Index, LargeBinary, Text
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class PasskeyRow(Base):
    """The public half of a key that a person carries; `count`: how often it was used, where it counts."""

    __tablename__ = "passkey"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    person_id: Mapped[str] = mapped_column(Text)
    name: Mapped[str] = mapped_column(Text)
    public: Mapped[bytes] = mapped_column(LargeBinary)
    count: Mapped[int] = mapped_column(BigInteger)
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    used_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))

    __table_args__ = (
        ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),
        Index("passkey_person", "site_id", "person_id"),
    )


class PasskeyAskedRow(Base):
    """Chance that a key is to sign, once; `person_id`: who adds a key; empty: whoever signs in."""

    __tablename__ = "passkey_asked"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    challenge: Mapped[str] = mapped_column(Text, primary_key=True)
    person_id: Mapped[str] = mapped_column(Text)
    until: Mapped[datetime] = mapped_column(DateTime(timezone=True))
