"""What goes over the wire: words that every body uses."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from jutrel.api.derived import Derived

Uuid = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$")]
Uuid7 = Annotated[
    str, StringConstraints(pattern=r"^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$")
]
UUID7 = "^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$"


Slug = Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9][A-Za-z0-9_.-]{0,59}$")]


NO_NUL = r"^[^\x00]*$"
"""What any text may hold: PostgreSQL has no place for a NUL."""


Prose = Annotated[str, StringConstraints(max_length=2000, pattern=NO_NUL)]


GradeWord = Literal["sound", "watch", "mend", "limit", "hold"]


Finite = Annotated[float, Field(allow_inf_nan=False)]


AttributeValue = bool | Finite | Annotated[str, StringConstraints(max_length=60, pattern=NO_NUL)]


class In(BaseModel, metaclass=Derived):
    """A request; unknown fields are refused. `comes_in`: what is derived for it keeps the core's bounds."""

    comes_in: ClassVar[bool] = True
    model_config = ConfigDict(extra="forbid")


class Out(BaseModel, metaclass=Derived):
    """A response."""

    model_config = ConfigDict(from_attributes=True)


class ProblemOut(Out):
    """A problem document (RFC 9457)."""

    type: str
    title: str
    status: int
    detail: str
    field: str | None = None
    wait_s: int | None = None
    line: int | None = Field(default=None, description="Of a file that was sent in.")
    roles: list[str] = Field(default=[], description="Who may, where whoever is signed in may not.")


class PickOut(Out):
    """Something that can be chosen, by its id, with what people call it."""

    id: str
    name: str


class HealthOut(Out):
    database: bool
    version: str


class ReadyOut(Out):
    """`amiss`: what keeps this server from being relied on, each with a sentence for whoever looks after it."""

    ready: bool
    amiss: dict[str, str]


# --- people


class MachineOut(Out):
    id: str
    name: str
    model: str
    maker: str
    family: str
    hour_meter: float = Field(description="What it has run in all, over all meters.")
    meter_offset: float = Field(description="What earlier meters had run up: the meter shows the difference.")
    bay: int


class KindOut(Out):
    """A kind of inspection; `clears`: a good verdict lets the machine work."""

    id: str
    name: str
    says: str
    clears: bool
