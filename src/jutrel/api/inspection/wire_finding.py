"""What goes over the wire: what the approach says, and what was found."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from jutrel.api.wire import In
from jutrel.core.inspection.finding import Conditions, Finding, PutRight

Gap = Annotated[float | None, Field(ge=0, le=30, allow_inf_nan=False)]


class ConditionsIn(In, of=Conditions):
    """What the approach says. Gaps: metres to what stands beside it; null: nothing does."""


class PutRightIn(In, of=PutRight):
    pass


class FindingIn(In, of=Finding):
    pass
