"""Who does what on a site."""

from __future__ import annotations

from enum import StrEnum

from jutrel.core.wording import Said, say


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

_SAID = {
    Role.OPERATOR: say("Operator", context="role"),
    Role.MECHANIC: say("Mechanic", context="role"),
    Role.SUPERVISOR: say("Supervisor", context="role"),
    Role.TRAINER: say("Trainer", context="role"),
    Role.ADMINISTRATOR: say("Administrator", context="role"),
}


def role_said(role: Role) -> Said:
    """A role for people."""
    return _SAID[role]
