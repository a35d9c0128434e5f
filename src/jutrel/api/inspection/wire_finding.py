"""What goes over the wire: what the approach says, and what was found."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, StringConstraints

from jutrel.api.wire import AttributeValue, Finite, In, Prose, Slug

Gap = Annotated[float | None, Field(ge=0, le=30, allow_inf_nan=False)]


class ConditionsIn(In):
    """What the approach says. Gaps: metres to what stands beside it; null: nothing does."""

    air_c: Finite = Field(default=15.0, ge=-60, le=60)
    pitch_deg: Finite = Field(default=0.0, ge=-45, le=45)
    roll_deg: Finite = Field(default=0.0, ge=-45, le=45)
    dark: bool = False
    rain: bool = False
    people_on_foot: bool = False
    shift_hours: Finite = Field(default=10.0, ge=0.5, le=24)
    moved: bool = False
    serviced: bool = False
    transported: bool = False
    frost: bool = False
    gap_left: Gap = None
    gap_right: Gap = None
    gap_rear: Gap = None
    gap_front: Gap = None


class PutRightIn(In):
    done: Annotated[str, StringConstraints(min_length=1, max_length=400, pattern=r"^[^\x00]*$")]
    amount: Annotated[str, StringConstraints(max_length=80, pattern=r"^[^\x00]*$")] = ""


class FindingIn(In):
    failure_mode: Slug
    attributes: dict[Slug, AttributeValue] = Field(default={}, max_length=24)
    note: Prose = ""
    put_right: PutRightIn | None = None
