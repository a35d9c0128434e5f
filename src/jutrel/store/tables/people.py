"""People of a site and their sessions."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import Boolean, DateTime, ForeignKey, ForeignKeyConstraint, Index, Integer, Text, false
from sqlalchemy.orm import Mapped, mapped_column

from jutrel.store.base import Base


class PersonRow(Base):
    """A person; the PIN is kept only as an argon2 hash. Wrong tries make the next one wait. `pin_once`: somebody
    else gave it, and it is good for choosing one's own. `told_seq`: up to which line of the account they know what
    was changed about them; `erased_as`: the number by which records name them since their name was erased;
    `documents_done`: since then the kept documents of looks do so, too."""

    __tablename__ = "person"
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    name: Mapped[str] = mapped_column(Text)
    role: Mapped[str] = mapped_column(Text)
    pin_hash: Mapped[str] = mapped_column(Text)
    pin_set_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    pin_set_by: Mapped[str | None] = mapped_column(Text)
    pin_once: Mapped[bool] = mapped_column(Boolean, default=False, server_default=false())
    active: Mapped[bool] = mapped_column(Boolean, default=True)
    language: Mapped[str] = mapped_column(Text, default="", server_default="")
    wrong_pins: Mapped[int] = mapped_column(Integer, default=0)
    wait_until: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    told_seq: Mapped[int] = mapped_column(Integer, default=0, server_default="0")
    left_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    erased_as: Mapped[int | None] = mapped_column(Integer)
    documents_done: Mapped[bool] = mapped_column(Boolean, default=False, server_default="false")


class RoleAskedRow(Base):
    """A role that an administrator wants to give and that waits for another one."""

    __tablename__ = "role_asked"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    person_id: Mapped[str] = mapped_column(Text, primary_key=True)
    role: Mapped[str] = mapped_column(Text)
    asked_by: Mapped[str] = mapped_column(Text)
    asked_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))

    __table_args__ = (ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),)


class OwnTabletRow(Base):
    """A tablet on which a person has signed in, by the hash of what it was given then, and the wrong tries on it."""

    __tablename__ = "own_tablet"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    person_id: Mapped[str] = mapped_column(Text, primary_key=True)
    tablet: Mapped[str] = mapped_column(Text, primary_key=True)
    wrong_pins: Mapped[int] = mapped_column(Integer, default=0, server_default="0")
    wait_until: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    last_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))

    __table_args__ = (ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),)


class PinGivenRow(Base):
    """A person gave the PIN again for one entry that clears, accepts, releases or lowers."""

    __tablename__ = "pin_given"
    site_id: Mapped[str] = mapped_column(Text, primary_key=True)
    entry_id: Mapped[str] = mapped_column(Text, primary_key=True)
    person_id: Mapped[str] = mapped_column(Text, primary_key=True)
    device: Mapped[str] = mapped_column(Text)
    given_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))

    __table_args__ = (ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),)


class PenRow(Base):
    """The right to write entries as a person on a device, from signing in to its end. Only the secret's hash is kept.

    `key`: the public half of the pair that the device made, by which its entries are sealed; empty: it has none, and
    with the secret, entries made in that time can be sent later by whoever carries the tablet.
    """

    __tablename__ = "pen"
    id: Mapped[str] = mapped_column(Text, primary_key=True)
    secret_hash: Mapped[str] = mapped_column(Text, unique=True)
    site_id: Mapped[str] = mapped_column(Text)
    person_id: Mapped[str] = mapped_column(Text)
    role: Mapped[str] = mapped_column(Text)
    device: Mapped[str] = mapped_column(Text)
    given_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    ends_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    key: Mapped[str] = mapped_column(Text, default="", server_default="")

    __table_args__ = (
        ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),
        Index("pen_person", "site_id", "person_id"),
    )


class SiteKeyRow(Base):
    """The key pair with which a site vouches for its pens."""

    __tablename__ = "site_key"
    site_id: Mapped[str] = mapped_column(ForeignKey("site.id"), primary_key=True)
    private: Mapped[str] = mapped_column(Text)
    public: Mapped[str] = mapped_column(Text)
    made_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))


class SessionRow(Base):
    """A signed-in person on a device. Only the hash of the token is kept. `used_at`: about when it was used last."""

    __tablename__ = "session"
    token_hash: Mapped[str] = mapped_column(Text, primary_key=True)
    site_id: Mapped[str] = mapped_column(Text)
    person_id: Mapped[str] = mapped_column(Text)
    pen_id: Mapped[str] = mapped_column(Text)
    opened_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    ends_at: Mapped[datetime] = mapped_column(DateTime(timezone=True))
    used_at: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))

    __table_args__ = (ForeignKeyConstraint(["site_id", "person_id"], ["person.site_id", "person.id"]),)
