"""What every catalog file goes by: unknown fields are refused."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Id = Annotated[str, Field(pattern=r"^[A-Za-z0-9][A-Za-z0-9_.-]*$", max_length=60)]
Text = Annotated[str, Field(min_length=1, max_length=400)]
Metres = Annotated[float, Field(gt=0, le=60)]
Share = Annotated[float, Field(ge=0, le=1)]
GradeWord = Annotated[str, Field(pattern="^(watch|mend|limit|hold)$")]
Fact = bool | float | str
Place = Annotated[float, Field(ge=-60, le=60)]
Degrees = Annotated[int, Field(ge=0, le=360)]
Seconds = Annotated[float, Field(gt=0, le=300)]


class Document(BaseModel):
    """Unknown fields are refused: a typing error must not become a silent default."""

    model_config = ConfigDict(extra="forbid", frozen=True)
