"""What a service says when it will not do something. The API turns it into a problem document."""

from __future__ import annotations

from typing import Any

from jutrel.core.wording import Said


def _again(kind: type[Problem], args: tuple[Any, ...], state: dict[str, Any]) -> Problem:
    made = kind.__new__(kind)
    made.args = args
    vars(made).update(state)
    return made


class Problem(Exception):
    """A refusal with a stable `kind`, a sentence for people and, for forms, the field."""

    status = 400
    line: int | None = None
    """Of a file that was sent in."""
    roles: tuple[str, ...] = ()
    """Who may, where whoever is signed in may not."""

    def __init__(
        self, kind: str, says: str | Said, field: str | None = None, wait_s: int | None = None, **values: Any
    ) -> None:
        self.says = Said(says, tuple(values.items())) if isinstance(says, str) else says
        super().__init__(str(self.says))
        self.kind, self.field, self.wait_s = kind, field, wait_s

    def __reduce__(self) -> Any:
        """So that it comes whole out of a process beside the server."""
        return _again, (type(self), self.args, dict(vars(self)))


class NotFound(Problem):
    """There is no such thing on this site."""

    status = 404


class NotSignedIn(Problem):
    """Nobody is signed in on this device, or the PIN was wrong."""

    status = 401


class NotAllowed(Problem):
    """The person's role does not do this."""

    status = 403


class TooSoon(Problem):
    """Wait and try again."""

    status = 429


class Unavailable(Problem):
    """The server cannot do it now: something of its installation is missing."""

    status = 503


class Conflict(Problem):
    """It clashes with what is already recorded."""

    status = 409
