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
GIVEN_BY_TWO = frozenset({Role.MECHANIC, Role.SUPERVISOR, Role.ADMINISTRATOR})
"""Roles that clear what holds a machine, accept its limits, or give such a role: two administrators give them."""
EDITORS = frozenset({Role.MECHANIC, Role.SUPERVISOR, Role.ADMINISTRATOR})
"""Who writes in a machine's file."""


class Right(StrEnum):
    """What somebody may do, by name: pages ask for these and know no roles."""

    WALK = "walk"
    """Walk round machines, read, sign, report, run."""
    EDIT_MACHINES = "edit-machines"
    """Write in a machine's file, take in models, set the site's units and place."""
    DECIDE_SCHOOLS = "decide-schools"
    """Say how a site does what good hands do differently."""
    TEACH = "teach"
    """Write down that somebody was shown something."""
    RUN_SITE = "run-site"
    """Say when shifts begin."""
    MANAGE = "manage"
    """People, devices, the rules in force."""


RIGHTS = {
    Right.WALK: WALKERS,
    Right.EDIT_MACHINES: EDITORS,
    Right.DECIDE_SCHOOLS: frozenset({Role.SUPERVISOR, Role.TRAINER, Role.ADMINISTRATOR}),
    Right.TEACH: frozenset({Role.TRAINER, Role.SUPERVISOR, Role.ADMINISTRATOR}),
    Right.RUN_SITE: frozenset({Role.SUPERVISOR, Role.ADMINISTRATOR}),
    Right.MANAGE: frozenset({Role.ADMINISTRATOR}),
}


def rights_of(role: Role) -> tuple[Right, ...]:
    """What a role may do.

    >>> [right.value for right in rights_of(Role.OPERATOR)]
    ['walk']
    """
    return tuple(right for right, roles in RIGHTS.items() if role in roles)


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
