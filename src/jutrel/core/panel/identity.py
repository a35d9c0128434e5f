"""Which machine a bus says that it is: vehicle identification, told on request (from memory of SAE J1939-71)."""

from __future__ import annotations

from dataclasses import dataclass, field

IDENTIFICATION = 65260
"""The group that carries it: letters up to an asterisk, in pieces where they are more than eight."""
LONGEST = 60
"""Letters of it that are kept; the standard sets no bound, and a machine's plate has under twenty."""
FORGOTTEN_S = 200.0
"""A unit that says it no more, though it is asked each minute, is not on this bus any more."""
MOST_UNITS = 8


def identification_in(data: bytes) -> str:
    """What a message says; empty if it names nothing that can be read.

    >>> identification_in(b"JT48 0099*"), identification_in(bytes([255] * 8)), identification_in(b"jt48-0099")
    ('JT48 0099', '', 'JT48-0099')
    """
    said = data.split(b"*", 1)[0].strip(b" \x00")[:LONGEST]
    if not all(0x20 <= byte < 0x7F for byte in said):
        return ""
    return as_compared(said.decode("ascii"))


def as_compared(written: object) -> str:
    """As it is compared: capital letters, no space around; a file may hold digits alone as a number.

    >>> as_compared(" jt48-0099 "), as_compared(480099.0)
    ('JT48-0099', '480099')
    """
    text = str(int(written)) if isinstance(written, float) and written.is_integer() else str(written)
    return " ".join(text.upper().split())


@dataclass
class Identities:
    """What each unit of a bus said last of whose machine it is. `patience`: as of the reader."""

    patience: float = 1.0
    _said: dict[int, tuple[float, str]] = field(default_factory=dict)

    def take(self, at: float, source: int, data: bytes) -> None:
        """Take a message of a unit at a time [s]; one that names nothing takes nothing back."""
        said = identification_in(data)
        if said and (source in self._said or len(self._said) < MOST_UNITS):
            self._said[source] = at, said

    def holds(self, at: float) -> tuple[str, ...]:
        """Everything that units say at a time [s]; of one machine it is one.

        >>> who = Identities()
        >>> who.take(0.0, 0, b"JT48-0099*")
        >>> who.take(1.0, 3, b"JT48-0099*")
        >>> who.holds(2.0), who.holds(500.0)
        (('JT48-0099',), ())
        """
        return tuple(sorted({said for when, said in self._said.values() if at - when <= FORGOTTEN_S * self.patience}))
