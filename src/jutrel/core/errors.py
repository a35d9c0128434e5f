"""What the core says when it cannot take an input."""

from __future__ import annotations


class BadInput(ValueError):
    """An input cannot be used; names the field and says what to do.

    >>> str(BadInput("oil_c", "give the oil temperature in °C"))
    'oil_c: give the oil temperature in °C'
    """

    def __init__(self, field: str, says: str) -> None:
        super().__init__(f"{field}: {says}")
        self.field = field
        self.says = says

    def __reduce__(self) -> tuple[type[BadInput], tuple[str, str]]:
        """So that it comes whole out of another process."""
        return type(self), (self.field, self.says)
