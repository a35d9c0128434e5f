"""What to look at after a stop, before the machine works on: what is open, what was noticed, what is new on it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from jutrel.core.defect.defect import Defect
from jutrel.core.grading.rulebook import Rulebook
from jutrel.core.log.entry import Entry
from jutrel.core.machine.model import Model, checkpoint_of
from jutrel.core.procedure.handover import remark_said
from jutrel.core.procedure.kinds import Colour, Remarked
from jutrel.core.wording import Said, say


@dataclass(frozen=True, slots=True)
class Again:
    """One thing to look at again. `station`: where, if somebody said."""

    says: Said
    station: str = ""


def look_again(
    defects: Iterable[Defect], entries: Iterable[Entry], changed: Mapping[str, Said], model: Model, book: Rulebook
) -> tuple[Again, ...]:
    """What this machine needs to be looked at before it works on after a stop.

    `defects`: what is open on it; `entries`: the run's; `changed`: what was otherwise than before, by checkpoint, as
    the run began. A wheel that was changed lately, an open weep, what somebody heard: the rest is the once-over's.
    """
    out = []
    for e in entries:
        if isinstance(e.what, Remarked) and e.what.colour is not Colour.NONE:
            out.append(Again(remark_said(e.what, model), e.what.station))
    open_at = set()
    for d in defects:
        c = checkpoint_of(model, d.key[0])
        mode = book.modes.get(d.key[1])
        name, what = Said(c.name, (), "checkpoint"), Said(mode.name if mode else d.key[1], (), "failure")
        open_at.add(c.id)
        out.append(Again(say("{name}: {what}. No worse than before?", name=name, what=what), c.station))
    for at, says in changed.items():
        if at not in open_at:
            out.append(Again(says, checkpoint_of(model, at).station))
    return tuple(out)
