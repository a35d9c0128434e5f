"""What a reader has to tell and the server has not taken yet: what matters most goes first and is dropped last."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable
from typing import Any

from jutrel.core.panel.told import PanelEventKind
from jutrel.core.procedure.kinds import Colour

Word = dict[str, Any]
MOST_WORDS = 20_000
MOST_OF_ALL = 200_000
"""Of the engine and of red there is no such limit; at this one the computer itself would fail."""


def rank(word: Word) -> int:
    """How much it matters: the engine and red, what came to stand, values that went and came, the rest.

    >>> rank({"what": "engine"}), rank({"what": "alert", "colour": "red"}), rank({"what": "alert", "colour": "amber"})
    (0, 0, 3)
    """
    match word["what"]:
        case PanelEventKind.ENGINE:
            return 0
        case PanelEventKind.ALERT if word["colour"] == Colour.RED:
            return 0
        case PanelEventKind.STOOD:
            return 1
        case PanelEventKind.SILENT | PanelEventKind.HEARD:
            return 2
    return 3


class Waiting:
    """Words in the order in which they are to be told. `lost`: how many could not be kept, since somebody asked last.

    `lost_red`: whether one of the engine or of red was among them.
    """

    def __init__(self, most: int = MOST_WORDS) -> None:
        self.most, self.lost, self.lost_red = most, 0, False
        self._queues: tuple[deque[Word], ...] = tuple(deque() for _ in range(4))

    def __len__(self) -> int:
        return sum(map(len, self._queues))

    def add(self, word: Word) -> None:
        """Keep a word; where there are too many, the oldest of what matters least is let go."""
        self._queues[rank(word)].append(word)
        while len(self) > self.most:
            least = next(n for n in (3, 2, 1, 0) if self._queues[n])
            if least == 0 and len(self) <= MOST_OF_ALL:
                return
            self._queues[least].popleft()
            self.lost += 1
            self.lost_red = self.lost_red or least == 0

    def next(self, many: int) -> list[Word]:
        """The words to be told now."""
        out: list[Word] = []
        for queue in self._queues:
            for word in queue:
                if len(out) == many:
                    return out
                out.append(word)
        return out

    def gone(self, words: Iterable[Word]) -> None:
        """They were taken, or never will be: they are not kept any longer."""
        for word in words:
            queue = self._queues[rank(word)]
            if queue and queue[0] is word:
                queue.popleft()
