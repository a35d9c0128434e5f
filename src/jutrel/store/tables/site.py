"""How a site does what good hands do differently, and who was shown what; added, never changed."""

from __future__ import annotations

import uuid
from datetime import datetime

from sqlalchemy import BigInteger, DateTime, ForeignKey, Identity, Index, Text, Uuid
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class SchoolChoiceRow(Base):
    """A choice of the site; the newest of a school is in force."""

    __tablename__ = "school_choice"
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    id: Mapped[uuid.UUID] = mapped_column(Uuid, primary_key=True)
    no: Mapped[int] = mapped_column(BigInteger, Identity(always=True))
    school: Mapped[str] = mapped_column(Text)
    choice: Mapped[str] = mapped_column(Text)
    by: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class TrainingRow(Base):
    """That a person was shown something; `withdraws` names one that was written down wrongly."""

    __tablename__ = "training"
    __table_args__ = (Index("training_person", "site_id", "person_id"),)
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    id: Mapped[uuid.UUID] = mapped_column(Uuid, primary_key=True)
    person_id: Mapped[str] = mapped_column(Text)
    taught: Mapped[str] = mapped_column(Text)
    model_id: Mapped[str] = mapped_column(Text)
    note: Mapped[str] = mapped_column(Text)
    by: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    withdraws: Mapped[uuid.UUID | None] = mapped_column(Uuid)
