"""What a life depends on and nobody could see: it stands like a defect until somebody has seen it, whatever became of
the look in which it was said."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from jutrel.core.edition import Edition
from jutrel.core.inspection.finding import Answer
from jutrel.core.inspection.kinds import Answered, AnyRead, Signed
from jutrel.core.inspection.look import Look
from jutrel.core.inspection.occasion import walk_on
from jutrel.core.log.entry import Entry, Limit
from jutrel.core.machine.file import with_own_limits
from jutrel.core.machine.model import walk_of
from jutrel.core.machine.state import LookSummary, Unseen


def unseen_left(looks: Iterable[LookSummary], log: Iterable[Entry]) -> tuple[Unseen, ...]:
    """What nobody has seen since, oldest first, each place once.

    `log`: answers and signatures of the machine. It was seen when somebody answered there later in another way, and
    that answer was signed.
    """
    entries = sorted({e.id: e for e in log}.values(), key=lambda e: e.seq)
    signed = {i for e in entries if isinstance(e.what, Signed) for i in e.what.covers}
    last: dict[str, int] = {}
    for e in entries:
        match e.what:
            case Answered(checkpoint=at, answer=answer) if answer is not Answer.UNSEEN and e.id in signed:
                last[at] = e.seq
            case AnyRead(checkpoint=at) if e.what.answers and e.id in signed:
                last[at] = e.seq
            case _:
                pass
    found = sorted((u for look in looks for u in look.unseen), key=lambda u: u.seq)
    left: dict[str, Unseen] = {}
    for u in found:
        if last.get(u.checkpoint, 0) < u.seq:
            left.setdefault(u.checkpoint, u)
    return tuple(left.values())


def missing_in(
    look: Look, edition: Edition, options: frozenset[str], own_limits: dict[str, Limit]
) -> tuple[str, ...]:  # fmt: skip
    """What a whole inspection did not look at and this unit as it is now has, by the rules in force now: names."""
    model = with_own_limits(edition.model, own_limits)
    whole = walk_of(model, options)
    walk = walk_on(whole, look.opened, look.pins, edition.kinds, edition.questions, frozenset(), frozenset(look.heads))
    return tuple(c.name for c in walk.checkpoints if c.mandatory and c.id not in look.heads)


def newest_of_log(log: Sequence[Entry]) -> Entry | None:
    """The entry that came in last, of those that can say something of clearance; a sound tap alone says nothing."""
    said = [e for e in log if e.received_at is not None and not _plain(e)]
    return max(said, key=lambda e: (e.received_at, e.seq), default=None)


def _plain(e: Entry) -> bool:
    return isinstance(e.what, Answered) and not e.what.findings and e.what.answer is Answer.SOUND
