"""Who may set aside what: one table, used when entries come in, when they are folded, and on the page.

A right is looked for in the order of the table. What no right covers is kept and does not count.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from enum import StrEnum

from jutrel.core.grading.grade import Grade
from jutrel.core.people import WALKERS, Role
from jutrel.core.wording import NOTHING, say


class SetAsideBy(StrEnum):
    """By what right a report is set aside."""

    LOOKED_AGAIN = "looked-again"
    OWN_SLIP = "own-slip"
    PUT_RIGHT = "put-right"
    RELEASE = "release"


@dataclass(frozen=True, slots=True)
class AuthorityRow:
    """One row: who has it, up to which grade, and from which grade another person must confirm it."""

    ground: SetAsideBy
    roles: frozenset[Role]
    up_to: Grade
    second_from: Grade | None
    reason_from: Grade | None
    says: str


RIGHTS: tuple[AuthorityRow, ...] = (
    AuthorityRow(
        SetAsideBy.LOOKED_AGAIN,
        WALKERS,
        Grade.WATCH,
        None,
        None,
        "Whoever looks again and finds it sound closes a Watch.",
    ),
    AuthorityRow(
        SetAsideBy.OWN_SLIP,
        WALKERS,
        Grade.HOLD,
        None,
        Grade.MEND,
        "One's own slip, not signed and not seen by another person; from Mend upward with a reason.",
    ),
    AuthorityRow(
        SetAsideBy.PUT_RIGHT,
        WALKERS,
        Grade.HOLD,
        None,
        None,
        "What is the operator's own to put right: what was done is written down, and it stays a Watch.",
    ),
    AuthorityRow(
        SetAsideBy.RELEASE,
        frozenset({Role.MECHANIC}),
        Grade.HOLD,
        Grade.HOLD,
        None,
        "A mechanic releases it; a Hold only together with another person's signature.",
    ),
)
RELEASERS = frozenset(role for right in RIGHTS if right.ground is SetAsideBy.RELEASE for role in right.roles)
SLIP_WITHIN = timedelta(hours=10)
"""After ten hours the look has lapsed and nothing in it is a slip any more."""

NEEDED = {
    Grade.SOUND: NOTHING,
    Grade.WATCH: say("Whoever looks again and finds it sound closes it."),
    Grade.MEND: say("A mechanic releases it."),
    Grade.LIMIT: say("A mechanic releases it."),
    Grade.HOLD: say("A mechanic releases it and another person signs."),
}


@dataclass(frozen=True, slots=True)
class Deed:
    """An attempt to set a report aside, as the table sees it.

    `own`: the report's author, in the same look and within its ten hours. `bound`: signed, or seen by
    another person. `reason`: one was given. `put_right`: it says what was done. `may_put_right`: that is
    the operator's own here. `same_or_worse`: it reports the same again, no milder. `takes_back`: it is
    an undo, which says nothing of the thing itself.
    """

    role: Role
    own: bool
    bound: bool
    reason: bool
    put_right: bool
    may_put_right: bool
    same_or_worse: bool
    takes_back: bool


def right_for(deed: Deed, grade: Grade) -> AuthorityRow | None:
    """The right by which a deed sets a report of this grade aside, or None.

    >>> stranger = Deed(Role.OPERATOR, False, False, True, False, False, False, False)
    >>> right_for(stranger, Grade.HOLD) is None, right_for(stranger, Grade.WATCH).ground.value
    (True, 'looked-again')
    """
    for right in RIGHTS:
        if deed.role not in right.roles or grade > right.up_to:
            continue
        match right.ground:
            case SetAsideBy.LOOKED_AGAIN:
                holds = not deed.takes_back
            case SetAsideBy.OWN_SLIP:
                lowers = right.reason_from is not None and grade >= right.reason_from and not deed.same_or_worse
                holds = deed.own and not deed.bound and (deed.reason or not lowers)
            case SetAsideBy.PUT_RIGHT:
                holds = deed.put_right and deed.may_put_right and not deed.takes_back
            case SetAsideBy.RELEASE:
                holds = not deed.takes_back
        if holds:
            return right
    return None


class Clear(StrEnum):
    """What it takes of the person who asks to clear something."""

    FREE = "free"
    REASON = "reason"
    PUT_RIGHT = "put-right"
    SECOND = "second"
    MECHANIC = "mechanic"


def what_it_takes(deed: Deed, grade: Grade) -> Clear:
    """What a person in this position has to bring to set a report of this grade aside."""
    for reason, put_right, answer in ((False, False, Clear.FREE), (True, False, Clear.REASON)):
        asked = Deed(deed.role, deed.own, deed.bound, reason, put_right, deed.may_put_right, False, deed.takes_back)
        if right := right_for(asked, grade):
            if right.second_from is not None and grade >= right.second_from:
                return Clear.SECOND
            return answer
    return Clear.PUT_RIGHT if deed.may_put_right and deed.role in WALKERS else Clear.MECHANIC
