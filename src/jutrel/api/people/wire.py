"""What goes over the wire: sessions and people."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import Field, StringConstraints

from jutrel.api.wire import NO_NUL, In, Out, Slug, Uuid
from jutrel.core.machine.unit import UnitSystem
from jutrel.core.people import Right, Role

Reason = Annotated[
    str,
    StringConstraints(pattern=NO_NUL, max_length=300),
    Field(description="Why one administrator alone gives a role that two should give; empty: another confirms it."),
]


class SignIn(In):
    """`key`: the public half of a key pair that this device made for the pen (P-256, SPKI in base64url)."""

    person: Uuid
    pin: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=20)]
    device: Slug
    new_pin: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=20)] = Field(
        default="", description="Their own PIN, in place of one that somebody else gave them."
    )
    key: Annotated[str, StringConstraints(max_length=300, pattern=r"^[A-Za-z0-9_-]*$")] = ""


class AccountLineOut(Out):
    """A line of the account: who changed what, about whom, when."""

    seq: int
    at: datetime
    by: str = Field(description="Who did it; empty: at the server's console.")
    says: str
    about: str
    details: dict[str, str]


class AccountOut(Out):
    lines: list[AccountLineOut]
    whole: bool = Field(description="Whether each line follows the one before. Newest lines cut off are not seen.")


class PinAgain(In):
    """The PIN given again by whoever wrote these entries; `person`: where it is not whoever is signed in."""

    person: Uuid | None = None
    pin: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=20)]
    entries: Annotated[list[Uuid], Field(min_length=1, max_length=50)]


class PersonOut(Out):
    id: str
    name: str
    role: Role
    active: bool = True
    language: str = Field(default="", description="The language they chose; empty: none.")


class RoleAskedOut(Out):
    """A role that waits for a second administrator: which, who asked for it, when, and whether this person may
    confirm it."""

    role: Role
    by: str
    at: datetime
    may_confirm: bool


class StaffOut(PersonOut):
    """A person as whoever looks after people sees them; `asked`: a role that waits for another administrator."""

    erased: bool = Field(default=False, description="Their name was erased: they are called by a number.")
    asked: RoleAskedOut | None = None


class RoleConfirmIn(In):
    """A role that another administrator asked for, confirmed with one's own PIN."""

    role: Role
    pin: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=20)]


class NewsOut(Out):
    """What others changed about the signed-in person, and what one administrator did alone; `seq`: of the last."""

    lines: list[AccountLineOut]
    seq: int


class NewsReadIn(In):
    """Up to which line of the account the signed-in person has read."""

    seq: Annotated[int, Field(ge=0, le=10**9)]


class DoorOut(Out):
    """What the sign-in page shows: the site and who may sign in."""

    site: str
    people: list[PersonOut]
    hint: str
    keys: bool = Field(default=False, description="Whether somebody may sign in with a key of their own here.")
    company: str = Field(default="", description="What the company's own sign-in is called; empty: there is none.")


class SessionOut(Out):
    person: PersonOut
    site: str
    zone: str
    units: UnitSystem = Field(description="What people of the site usually read.")
    may: list[Right] = Field(description="What this person may do; pages show what can be done by these.")
    numbers: list[tuple[str, str]] = Field(description="Whom they call in an emergency, and under which number.")
    now: datetime = Field(description="The server's clock, for the device to measure its own by.")


class SignedInLineOut(Out):
    """Somebody who is signed in on a device; `id`: by which it is ended, `own`: it is the one that asks."""

    id: str
    person: str
    name: str
    device: str
    since: datetime
    until: datetime
    own: bool


class PenOut(Out):
    """A pen: with its secret, entries of this person on this device can be sent later, by whoever is signed in."""

    id: str
    secret: str
    ends_at: datetime
    certificate: str = Field(description="The site's word for the pen's key, sealed by the site; empty: it has none.")


class SiteKeyOut(Out):
    """The public half of a site's key (P-256, SPKI in base64url)."""

    site: str
    key: str


class CertificateOut(Out):
    """A pen's certificate: a compact JWS (RFC 7515), ES256, by the site's key."""

    pen: str
    certificate: str


class SignedInOut(SessionOut):
    pen: PenOut
    tablet_key: str = Field(
        description="By which this tablet encrypts what it keeps of them when they sign out: 32 bytes."
    )


class LanguageIn(In):
    language: Slug


class NewPerson(In):
    id: Uuid
    name: Annotated[str, StringConstraints(min_length=1, max_length=80, pattern=NO_NUL)]
    role: Role
    pin: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=20)]
    reason: Reason = ""


class PersonChange(In):
    role: Role | None = None
    pin: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=20)] | None = None
    active: bool | None = None
    reason: Reason = ""


# --- the machine and what is open on it
