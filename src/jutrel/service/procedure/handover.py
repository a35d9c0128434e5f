"""The hand-over of a run on paper: what is read at the next sign-in, for a mechanic who has no tablet."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path

from jutrel.core.inspection.kinds import HandedOver, Opened
from jutrel.core.machine.model import Model
from jutrel.core.procedure.state import Stand
from jutrel.core.wording import NOTHING, Said, Wording, as_written, say, together
from jutrel.exchange.sheet import HandOver, Open
from jutrel.service.context import Here
from jutrel.service.inspection.look import open_defects
from jutrel.service.inspection.paper import languages_of
from jutrel.service.inspection.record import CAUTION
from jutrel.service.people.people import names_of
from jutrel.service.problem import NotFound
from jutrel.service.procedure.run import machine_run

STANDS = {
    Stand.SECURED: say("Secured: engine off, tool down, keys away."),
    Stand.ENDED: say("This run was ended with a reason."),
}
NOT_SECURED = say("It was not secured by this run.")


@dataclass(frozen=True, slots=True)
class HandOverPaper:
    """All that it is made of, as it is sent to the process that makes it."""

    told: HandOver
    model: Model
    language: str
    texts: Path | None


def printed_handover(paper: HandOverPaper) -> bytes:
    """A hand-over on paper; what draws it is loaded where it is printed."""
    from jutrel.exchange.handover import handover_pdf

    return handover_pdf(paper.told, paper.model, languages_of(paper.texts).wording(paper.language))


async def handover_of(here: Here, machine: str, run: str, stale: timedelta, wording: Wording) -> HandOverPaper:
    """What a run leaves, in a reader's language.

    Raises
    ------
    NotFound
        If there is no such run of this machine.
    """
    r = await machine_run(here, machine, run, stale)
    opening = next((e for e in r.entries if isinstance(e.what, Opened)), None)
    if opening is None or not isinstance(opening.what, Opened):
        raise NotFound("no-run", "There is no such run of this machine.")
    names = await names_of(here)
    handed = next((e for e in reversed(r.entries) if isinstance(e.what, HandedOver)), None)
    note = handed.what.note if handed is not None and isinstance(handed.what, HandedOver) else ""
    book, places = here.catalog.rulebook, {c.id: c for c in r.model.family.checkpoints}
    opened = []
    for d in sorted(await open_defects(here, r.unit), key=lambda d: -d.grade):
        place, mode = places.get(d.key[0]), book.modes.get(d.key[1])
        where = Said(place.name, (), "checkpoint") if place else as_written(d.key[0])
        what = Said(mode.name, (), "failure") if mode else as_written(d.key[1])
        seen = d.latest.finding.note
        says = [say("{name}: {what}.", name=where, what=what), as_written(seen) if seen else NOTHING, *d.limits]
        opened.append(Open(d.grade.word, d.key[0], wording.say(together(says))))
    schools = []
    for s in here.catalog.schools:
        if s.id in r.schools and (not s.families or r.model.family.id in s.families):
            asks, chosen = wording.word("school", s.asks), wording.word("school", s.choice(r.schools[s.id]).name)
            schools.append(f"{asks} {chosen}")
    told = HandOver(
        run=run,
        machine=r.unit.name,
        family=wording.word("family", r.model.family.name),
        site=here.site.name,
        zone=here.site.zone,
        stand=wording.say(STANDS.get(r.state.stand, NOT_SECURED)),
        by=names.get(opening.by, opening.by),
        begun=opening.time,
        handed=handed.time if handed else None,
        meter=opening.what.hour_meter,
        note=note,
        lines=tuple((wording.say(x.says).strip(), x.urgent) for x in r.lines),
        open=tuple(opened),
        counted=tuple(wording.say(x) for x in (r.counted.says if r.counted else ())),
        schools=tuple(schools),
        caution=wording.say(CAUTION),
    )
    return HandOverPaper(told, r.model, wording.language, here.books.texts)
