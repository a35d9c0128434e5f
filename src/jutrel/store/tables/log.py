"""The log: one per machine, only ever added to; the serving role may insert and select, nothing else."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    Boolean,
    DateTime,
    ForeignKeyConstraint,
    Identity,
    Index,
    Integer,
    LargeBinary,
    Text,
    UniqueConstraint,
    Uuid,
    text,
)
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base

ID = Uuid(as_uuid=False)


class EntryRow(Base):
    """One entry, never changed. What is empty or follows from the rest takes no room.

    `names`: ids that it replaces, takes back or confirms; `sent_by`: None, if its author sent it. The hash of the
    entry before is that entry's. Broad columns of one length stand first.
    """

    __tablename__ = "entry"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    machine_id: Mapped[str] = mapped_column(Text, primary_key=True)
    seq: Mapped[int] = mapped_column(Integer, primary_key=True)
    stream_no: Mapped[int] = mapped_column(Integer)
    at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    received_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    heard_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    offset_ms: Mapped[int | None] = mapped_column(BigInteger)
    id: Mapped[str] = mapped_column(ID)
    by: Mapped[str] = mapped_column(ID)
    pen: Mapped[str | None] = mapped_column(ID)
    sent_by: Mapped[str | None] = mapped_column(Text)
    kind: Mapped[str] = mapped_column(Text)
    role: Mapped[str] = mapped_column(Text)
    device: Mapped[str] = mapped_column(Text)
    hash: Mapped[bytes] = mapped_column(LargeBinary)
    what: Mapped[dict[str, Any]] = mapped_column(JSONB)
    replaces: Mapped[list[str] | None] = mapped_column(ARRAY(ID))
    names: Mapped[list[str] | None] = mapped_column(ARRAY(ID))
    pins: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    stale: Mapped[bool] = mapped_column(Boolean, default=False, server_default="false")
    told: Mapped[dict[str, float] | None] = mapped_column(JSONB)
    came: Mapped[dict[str, Any] | None] = mapped_column(JSONB)
    seal: Mapped[str | None] = mapped_column(Text)

    __table_args__ = (
        ForeignKeyConstraint(["site_id", "machine_id"], ["machine.site_id", "machine.id"]),
        UniqueConstraint("site_id", "id", name="entry_id"),
        Index("entry_stream", "stream_no", "seq"),
        Index("entry_kind", "site_id", "machine_id", "kind"),
        Index(
            "entry_names",
            "names",
            postgresql_using="gin",
            postgresql_where=text("names is not null"),
            postgresql_with={"fastupdate": "off"},  # what waits to be put in order would be gone through by each tap
        ),
    )


class StreamRow(Base):
    """Which machine a stream belongs to: the first entry decides, for good. Entries name it by its number."""

    __tablename__ = "stream"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    no: Mapped[int] = mapped_column(Integer, Identity(always=True))
    machine_id: Mapped[str] = mapped_column(Text)

    __table_args__ = (UniqueConstraint("no", name="stream_no"),)


class EditionRow(Base):
    """Rules and a model as they were when first used, by the hash of their content."""

    __tablename__ = "edition"
    hash: Mapped[str] = mapped_column(Text, primary_key=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)
    first_used: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class RecordRow(Base):
    """What a signature stands for: the document and the verdict that was read, kept as they were."""

    __tablename__ = "record"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    signature: Mapped[str] = mapped_column(Text, primary_key=True)
    look: Mapped[str] = mapped_column(Text)
    document: Mapped[bytes] = mapped_column(LargeBinary)
    verdict: Mapped[dict[str, Any]] = mapped_column(JSONB)

    __table_args__ = (Index("record_look", "site_id", "look"),)


class PhotoRow(Base):
    """A picture, made small and without its location data. Two people's pictures never share a place."""

    __tablename__ = "photo"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    by: Mapped[str] = mapped_column(Text, primary_key=True)
    of: Mapped[str] = mapped_column(Text)
    mime: Mapped[str] = mapped_column(Text)
    sha256: Mapped[str] = mapped_column(Text)
    data: Mapped[bytes] = mapped_column(LargeBinary)
    received_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))

    __table_args__ = (Index("photo_received", "site_id", "received_at"),)
