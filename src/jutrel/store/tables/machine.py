"""Sites, the machines that stand on them, and the site's own model files."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import (
    Boolean,
    DateTime,
    Float,
    ForeignKey,
    Integer,
    Text,
    UniqueConstraint,
)
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class SiteRow(Base):
    """A job. Times are stored in UTC and shown in `zone`; `shift_hours` is the usual shift, `units` what its people
    usually read: metric or us, `numbers` whom they call in an emergency, `shifts` when they begin and how long they
    last [h]. `epoch` is another one after a backup was put back; what was written until `covered_at` is in a backup.
    `erase_after_days`: so long after somebody left their name is erased; none: nobody's is by itself."""

    __tablename__ = "site"
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    zone: Mapped[str] = mapped_column(Text, default="UTC")
    regime: Mapped[str] = mapped_column(Text, default="house")
    shift_hours: Mapped[float] = mapped_column(Float, default=10.0)
    units: Mapped[str] = mapped_column(Text, default="metric", server_default="metric")
    numbers: Mapped[list[list[str]]] = mapped_column(JSONB, default=list, server_default="[]")
    shifts: Mapped[list[list[Any]]] = mapped_column(JSONB, default=list, server_default="[]")
    epoch: Mapped[str] = mapped_column(Text, default="", server_default="")
    covered_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    erase_after_days: Mapped[int | None] = mapped_column(Integer)


class MachineRow(Base):
    """One unit today: a projection of its log. Its row is the lock under which the log is written.

    `hour_meter` [h] is what it has run in all, `meter_offset` [h] what earlier meters had run up;
    `seq` and `head` are the last link of its log. `newest`, `cleared`, `ended`, `walking`: the newest look that was
    signed, that cleared it, that ended what cleared it, and that is under way; `whole`: the newest whole one that
    cleared it.
    """

    __tablename__ = "machine"
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    model_id: Mapped[str] = mapped_column(Text)
    options: Mapped[list[str]] = mapped_column(ARRAY(Text), default=list)
    hour_meter: Mapped[float] = mapped_column(Float, default=0.0)
    bay: Mapped[int] = mapped_column(Integer, default=0)
    own_limits: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)
    meter_offset: Mapped[float] = mapped_column(Float, default=0.0)
    active: Mapped[bool] = mapped_column(Boolean, default=True)
    photo: Mapped[str | None] = mapped_column(Text)
    standing: Mapped[dict[str, Any]] = mapped_column(JSONB, default=dict)
    seq: Mapped[int] = mapped_column(Integer, default=0)
    head: Mapped[str] = mapped_column(Text, default="")
    newest: Mapped[str | None] = mapped_column(Text)
    cleared: Mapped[str | None] = mapped_column(Text)
    ended: Mapped[str | None] = mapped_column(Text)
    walking: Mapped[str | None] = mapped_column(Text)
    whole: Mapped[str | None] = mapped_column(Text)


class GoodPictureRow(Base):
    """How a checkpoint looks when it is sound, as one machine's file shows it, of that unit or of its whole model.

    A projection of the file's log. `photo` is null where the picture was taken away.
    """

    __tablename__ = "good_picture"
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    machine_id: Mapped[str] = mapped_column(Text, primary_key=True)
    checkpoint: Mapped[str] = mapped_column(Text, primary_key=True)
    whole_model: Mapped[bool] = mapped_column(Boolean, primary_key=True)
    photo: Mapped[str | None] = mapped_column(Text)
    by: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class ModelFileRow(Base):
    """One edition of a model file that the site wrote itself, never changed; the newest counts."""

    __tablename__ = "model_file"
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    model_id: Mapped[str] = mapped_column(Text, primary_key=True)
    edition: Mapped[int] = mapped_column(Integer, primary_key=True)
    id: Mapped[str] = mapped_column(Text)
    name: Mapped[str] = mapped_column(Text)
    text: Mapped[str] = mapped_column(Text)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    by: Mapped[str] = mapped_column(Text)

    __table_args__ = (UniqueConstraint("site_id", "id", name="model_file_id"),)
