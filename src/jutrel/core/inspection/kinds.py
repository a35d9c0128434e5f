"""The entries of a look. An entry is made once, on the device, and never changed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Annotated

from jutrel.core.inspection.finding import Answer, Conditions, Degrees, Finding, Hours, Prose, PutRight, Word
from jutrel.core.log.codec import Between, EntryId, Most, Slug, Text
from jutrel.core.log.kinds import StreamKind, kind
from jutrel.core.people import WALKERS

MOST_IN_LOOK = 4000
"""Entries that one look can hold: a signature has to name each of them."""
MOST_AT_ONE, MOST_FINDINGS = 80, 400
"""Answers at one checkpoint of a look, and findings in all: far more than any walk has."""


@kind("opened", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Opened:
    """The look begins. `hour_meter` [h] as read; `options` are what the device knew the unit to have.

    `knew` is the place in the machine's log up to which the device knew it, and `head` the hash of the entry there:
    only what stands there is known to have happened before the look.
    """

    hour_meter: Hours
    conditions: Conditions = field(default_factory=Conditions)
    options: Annotated[frozenset[Slug], Most(60)] = frozenset()
    purpose: Slug = "pre-start"
    knew: Annotated[int, Between(0, 2**31 - 1)] = 0
    head: Annotated[str, Text(64, 0, r"([0-9a-f]{64})?")] = ""


@kind("answered", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Answered:
    """A checkpoint's answer. `reason`: why unseen, or why an earlier answer is put right.

    `amends` is the reason of a change after the signature. `together`: one of several found sound by one tap,
    which only what no life depends on can be.
    """

    checkpoint: Slug
    answer: Answer
    findings: Annotated[tuple[Finding, ...], Most(12)] = ()
    reason: Prose = ""
    amends: Prose = ""
    together: bool = False


HYDRAULIC_LEVEL = "hydraulic-level"
"""The reading that is itself the answer at its checkpoint: no eye says more of a level than the glass."""
OUT = "out."
"""Before a group of rods: how far it is out, among the inputs of the hydraulic level."""


class AnyRead:
    """A reading taken at a checkpoint, in whichever form its entry has."""

    __slots__ = ()
    if TYPE_CHECKING:

        @property
        def checkpoint(self) -> str: ...
        @property
        def reading(self) -> str: ...
        @property
        def given(self) -> Mapping[str, bool | float | str | tuple[float, ...]]: ...
        @property
        def told(self) -> Mapping[str, float]: ...
        @property
        def reason(self) -> str: ...
        @property
        def amends(self) -> str: ...
        @property
        def put_right(self) -> PutRight | None: ...

    @property
    def answers(self) -> bool:
        """Whether it is the answer at its checkpoint; else it stands beside what was answered there."""
        return self.reading == HYDRAULIC_LEVEL


@kind("measured", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Measured(AnyRead):
    """The form in which a hydraulic level was sent and kept before it was a reading like the others.

    Seen 0 (low mark) to 1 (full mark), oil [°C], rods 0 to 1 out. It is read on for as long as logs hold it.

    >>> Measured("hydraulic-level", 0.4, 12.0, 0.0, 1.0, {"boom": 0.5}).given
    {'seen': 0.4, 'oil_c': 12.0, 'pitch_deg': 0.0, 'roll_deg': 1.0, 'out.boom': 0.5}
    """

    checkpoint: Slug
    seen: Annotated[float, Between(-1.5, 2.5)]
    oil_c: Annotated[float, Between(-273, 400)]
    pitch_deg: Degrees
    roll_deg: Degrees
    extensions: Annotated[Mapping[Slug, Annotated[float, Between(0, 1)]], Most(8)]
    reason: Prose = ""
    amends: Prose = ""
    put_right: PutRight | None = None

    @property
    def reading(self) -> str:
        """Which reading it is."""
        return HYDRAULIC_LEVEL

    @property
    def given(self) -> Mapping[str, float]:
        """Its inputs as the reading takes them."""
        figures = {k: getattr(self, k) for k in ("seen", "oil_c", "pitch_deg", "roll_deg")}
        return {**figures, **{f"{OUT}{rods}": out for rods, out in self.extensions.items()}}

    @property
    def told(self) -> Mapping[str, float]:
        """What an instrument told where the hand changed it: this form kept none."""
        return {}


@kind("read", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Read(AnyRead):
    """A reading taken at a checkpoint: which one, and its inputs in the units of the list of readings.

    It stands beside what was answered there and never in its place: a good figure says nothing of what an eye saw.
    The hydraulic level alone is the answer.
    `put_right` says what was done before it read so. `told`: what an instrument told, where a hand changed it.
    """

    checkpoint: Slug
    reading: Slug
    given: Annotated[Mapping[Slug, bool | float | Word | tuple[float, ...]], Most(40)]
    reason: Prose = ""
    amends: Prose = ""
    put_right: PutRight | None = None
    told: Annotated[Mapping[Slug, float], Most(12)] = field(default_factory=dict)


@kind("arrived", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Arrived:
    """The person stands at a station."""

    station: Slug


@kind("noted", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Noted:
    """A remark on a checkpoint, or on the whole look if `checkpoint` is empty."""

    text: Prose
    checkpoint: Annotated[str, Text(60, 0, r"([A-Za-z0-9][A-Za-z0-9_.-]*)?")] = ""


@kind("photographed", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Photographed:
    """A picture, kept under `photo`."""

    photo: EntryId
    checkpoint: Slug


@kind("undone", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Undone:
    """Takes one earlier entry of the same person back; `reason` is needed from Mend upward."""

    target: EntryId
    reason: Prose = ""


@kind("signed", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Signed:
    """The person stands by the entries in `covers` and read the verdict `outcome`, in `language`."""

    covers: Annotated[frozenset[EntryId], Most(MOST_IN_LOOK)]
    outcome: Slug
    language: Slug = "en"


@kind("joined", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Joined:
    """Another person takes part in the look."""


@kind("handed-over", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class HandedOver:
    """The person leaves the look to whoever comes, with what they should know."""

    note: Annotated[str, Text(2000, 1)]


@kind("abandoned", StreamKind.LOOK, WALKERS)
@dataclass(frozen=True, slots=True)
class Abandoned:
    """Nobody goes on with this look; what it found stays."""

    reason: Annotated[str, Text(2000, 3)]
