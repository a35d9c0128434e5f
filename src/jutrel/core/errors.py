"""What the core says when it cannot take an input."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from jutrel.core.wording import Said


class Unreadable(ValueError):
    """Plain data that cannot be a sentence."""


class BadInput(ValueError):
    """An input cannot be used; names the field and says what to do, as a sentence with its values.

    >>> str(BadInput("oil_c", "give the oil temperature in {unit}", unit="°C"))
    'oil_c: give the oil temperature in °C'
    """

    def __init__(self, field: str, says: str | Said, **values: Any) -> None:
        from jutrel.core.wording import Said

        self.field = field
        self.says = Said(says, tuple(values.items())) if isinstance(says, str) else says
        super().__init__(f"{field}: {self.says}")

    def __reduce__(self) -> tuple[type[BadInput], tuple[str, Said]]:
        """So that it comes whole out of another process."""
        return type(self), (self.field, self.says)
