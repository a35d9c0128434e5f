"""Accounts that people have at their company, and sign-ins by them that are under way."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import DateTime, ForeignKeyConstraint, Index, Text
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class CompanyAccountRow(Base):
    """Who somebody is at their company: `issuer` says so, and calls them `subject`."""

    __tablename__ = "company_account"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    issuer: Mapped[str] = mapped_column(Text, primary_key=True)
    subject: Mapped[str] = mapped_column(Text, primary_key=True)
    person_id: Mapped[str] = mapped_column(Text)
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    used_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))

    __table_args__ = (
        ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),
        Index("company_account_person", "site_id", "person_id"),
    )


class CompanyAskedRow(Base):
    """A browser that went to the company's page, once; `person_id`: who adds an account; empty: whoever signs in.

    `state` and `browser` are kept as hashes.
    """

    __tablename__ = "company_asked"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    state: Mapped[str] = mapped_column(Text, primary_key=True)
    browser: Mapped[str] = mapped_column(Text)
    person_id: Mapped[str] = mapped_column(Text)
    nonce: Mapped[str] = mapped_column(Text)
    verifier: Mapped[str] = mapped_column(Text)
    begun_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
