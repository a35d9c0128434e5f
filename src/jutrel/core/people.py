"""Who does what on a site."""

from __future__ import annotations

from enum import StrEnum


class Role(StrEnum):
    """What a person may do."""

    OPERATOR = "operator"
    MECHANIC = "mechanic"
    SUPERVISOR = "supervisor"
    TRAINER = "trainer"
    ADMINISTRATOR = "administrator"


WALKERS = frozenset({Role.OPERATOR, Role.MECHANIC, Role.SUPERVISOR, Role.TRAINER})
"""Who walks round machines and reports."""
EDITORS = frozenset({Role.MECHANIC, Role.SUPERVISOR, Role.ADMINISTRATOR})
"""Who writes in a machine's file."""
