"""Under which address each site is reached, where one installation serves several."""

from __future__ import annotations

from sqlalchemy import ForeignKey, Text
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class SiteAddressRow(Base):
    """A host, such as `ridge.example`, and the site that it leads to."""

    __tablename__ = "site_address"
    host: Mapped[str] = mapped_column(Text, primary_key=True)
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"))
