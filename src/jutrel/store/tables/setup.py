"""The code by which an installation is set up."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import DateTime, Integer, Text
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class SetupCodeRow(Base):
    """A code that the console gave, as a hash; `wrong`: how often somebody tried another."""

    __tablename__ = "setup_code"
    hash: Mapped[str] = mapped_column(Text, primary_key=True)
    ends_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    wrong: Mapped[int] = mapped_column(Integer, default=0, server_default="0")
