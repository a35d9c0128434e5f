"""The four grades, and Sound below them."""

from __future__ import annotations

from enum import IntEnum

from jutrel.core.wording import Said, say


class Grade(IntEnum):
    """Ordered: a worse grade is a larger number.

    >>> Grade.HOLD > Grade.MEND, Grade.WATCH.raised(), Grade.HOLD.raised()
    (True, <Grade.MEND: 2>, <Grade.HOLD: 4>)
    """

    SOUND = 0
    WATCH = 1
    MEND = 2
    LIMIT = 3
    HOLD = 4

    def raised(self) -> Grade:
        """One step worse; Hold stays Hold."""
        return Grade(min(self + 1, Grade.HOLD))

    @property
    def word(self) -> str:
        """The grade's name as it is written in files: 'watch', 'mend' …"""
        return self.name.lower()

    @property
    def name_said(self) -> Said:
        """The grade's name for people."""
        return GRADE_NAMES[self]

    @classmethod
    def of(cls, word: str) -> Grade:
        """The grade named by `word`."""
        return cls[word.upper()]


GRADE_NAMES = {
    Grade.SOUND: say("Sound", context="grade"),
    Grade.WATCH: say("Watch", context="grade"),
    Grade.MEND: say("Mend", context="grade"),
    Grade.LIMIT: say("Limit", context="grade"),
    Grade.HOLD: say("Hold", context="grade"),
}
