"""Where a machine that starts or moves pinches, crushes or strikes: areas on its own plan."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from jutrel.core.wording import Words


@dataclass(frozen=True, slots=True)
class Zone:
    """An area that nobody stands in: its outline [m] in the machine's frame."""

    id: str
    name: Annotated[str, Words("zone")]
    outline: tuple[tuple[float, float], ...]
