"""The one door for entries: who wrote each and by what right, checked, and chained to the log before it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from datetime import timedelta

from jutrel.core.edition import Edition
from jutrel.core.grading.taken import judged
from jutrel.core.grading.verdict import OUTCOMES, Outcome
from jutrel.core.inspection.hear import as_if_signed
from jutrel.core.inspection.kinds import (
    MOST_AT_ONE,
    MOST_FINDINGS,
    MOST_IN_LOOK,
    Answered,
    AnyRead,
    Opened,
    Signed,
)
from jutrel.core.inspection.look import Status, lapsed, pins_of
from jutrel.core.log.chain import START, chained
from jutrel.core.log.entry import Entry, heard_time
from jutrel.core.log.kinds import StreamKind, kind_of
from jutrel.core.machine.file import with_own_limits
from jutrel.core.machine.unit import Unit
from jutrel.core.people import role_said
from jutrel.core.procedure.kinds import RUN
from jutrel.core.reading.bound import inputs_at
from jutrel.core.reading.instrument import otherwise
from jutrel.core.wording import NOTHING, Said, say
from jutrel.service.context import Here
from jutrel.service.inspection import look as look_service
from jutrel.service.inspection.look_checks import check_look
from jutrel.service.log.hands import ANSWERS_FOR, check_hand, check_signature
from jutrel.service.log.seal import holds
from jutrel.service.log.sent import No, Sent
from jutrel.service.machine.models import unit_model
from jutrel.service.people.pens import pen_for
from jutrel.service.people.people import Actor, Pen
from jutrel.service.site.instruments import told_now
from jutrel.service.site.schools import schools_of

GIVES = (Signed, *ANSWERS_FOR)
"""Kinds of entries that do nothing but clear, accept or release."""
DEFECT_PREFIX, FILE_PREFIX = "defect.", "file."


class Door:
    """One batch on its way into one machine's log."""

    def __init__(
        self, here: Here, actor: Actor, unit: Unit, stream: str, pens: Sequence[Pen], entries: Sequence[Entry]
    ) -> None:
        self.here, self.actor, self.unit, self.stream, self.pens = here, actor, unit, stream, pens
        self.entries = list(entries)
        self.fresh: list[Entry] = []
        self.pinned = any(e.pins for e in entries)
        self.opened = any(isinstance(e.what, Opened) for e in entries)
        self.edition: Edition | None = None
        self.answers: Counter[str] | None = None
        """How many there are at each checkpoint, once somebody asked."""
        self.kept: look_service.Kept | None = None
        if stream.startswith(FILE_PREFIX):
            self.kind = StreamKind.FILE
        elif stream.startswith(DEFECT_PREFIX):
            self.kind = StreamKind.DEFECT
        else:
            self.kind = StreamKind.LOOK

    def entry(self, sent: Sent) -> Entry:
        """The entry with everything the server adds but its place in the chain."""
        pen = self._sealing(sent) if sent.seal else None
        pen = pen or pen_for(self.pens, sent.by, sent.at + timedelta(milliseconds=sent.offset_ms or 0))
        if pen is None or (sent.seal and pen.id != sent.pen):
            raise No(
                "unknown-pen",
                "Whoever wrote this is not known on this device: they sign in here once, then it is sent.",
                again=True,
            )
        unsealed = bool(pen.key) and not sent.seal and not sent.form
        if unsealed and isinstance(sent.what, GIVES):
            raise No("no-seal", "This was not signed by the device on which it was done. Sign in there, do it again.")
        return Entry(
            id=sent.id,
            machine=self.unit.id,
            stream=self.stream,
            by=sent.by,
            at=sent.at,
            what=sent.what,
            replaces=sent.replaces,
            offset_ms=sent.offset_ms,
            role=pen.role,
            pen=pen.id,
            device=pen.device,
            sent_by=self.actor.person.id,
            received_at=self.here.now,
            stale=unsealed or pen.ends_at <= self.here.now,
            seal=sent.seal,
            heard_at=heard_time(sent.at, sent.offset_ms, pen.given_at, max(self.here.now, pen.given_at)),
        )

    def _sealing(self, sent: Sent) -> Pen | None:
        """The pen by which an entry is sealed, its seal checked; None: nobody here knows that pen."""
        pen = next((p for p in self.pens if p.id == sent.pen), None)
        if pen is None:
            return None
        if pen.person != sent.by or not pen.key or not holds(sent.seal, pen.key):
            raise No("bad-seal", "This was changed after it was signed, or another device signed it. Do it again.")
        if sent.meant != (self.unit.id, self.stream):
            raise No("other-machine", "This was signed for some other machine or inspection, and stays there.")
        return pen

    async def take(self, entry: Entry) -> None:
        """Check an entry and put it at the end of the log."""
        kind = kind_of(entry.what)
        if kind.stream is not self.kind:
            raise No("wrong-stream", "An entry of the kind '{name}' does not belong here.", name=kind.name)
        if entry.role not in kind.roles:
            roles = tuple(role_said(r) for r in sorted(kind.roles))
            raise No(
                "not-your-role",
                "This is written by: {roles}. It was written as {role}.",
                roles=roles,
                role=role_said(entry.role),
            )
        if entry.stale and isinstance(entry.what, GIVES):
            raise No(
                "pen-ended",
                "Whoever wrote this has signed out since, or their shift is over. They sign in and do it again.",
            )
        await check_hand(self.here, self.unit, entry)
        if full := self._full(entry):
            raise No("look-full", "One look holds {full} at most: sign it and begin another.", full=full)
        if self.kind is StreamKind.LOOK:
            if not self.pinned:
                pins = await look_service.pins_kept(self.here, self.unit)
                if not isinstance(entry.what, Opened) or entry.what.purpose == RUN:
                    model = await unit_model(self.here, self.unit)
                    pins = replace(pins, schools=await schools_of(self.here, model))
                entry = replace(entry, pins=pins)
            if self.edition is None:
                self.edition = await look_service.edition_of(self.here, [*self.entries, entry])
            check_look(entry, self.edition, self.entries, self.opened)
            entry = self._judged(await self._beside(entry))
        linked = chained(entry, self.unit.seq + 1, self.unit.head or START)
        if isinstance(entry.what, Signed):
            self.kept = await self._signed(linked)
        self.pinned = self.pinned or linked.pins is not None
        self.opened = self.opened or isinstance(linked.what, Opened)
        self.unit = replace(self.unit, seq=linked.seq, head=linked.hash)
        if self.answers is not None and isinstance(linked.what, (Answered, AnyRead)):
            self.answers[linked.what.checkpoint] += 1
        self.entries.append(linked)
        self.fresh.append(linked)

    async def _beside(self, entry: Entry) -> Entry:
        """The entry with what the machine's own devices told of its inputs, where the hand says otherwise."""
        if not isinstance(entry.what, AnyRead):
            return entry
        told = await told_now(self.here, self.unit.id)
        return replace(entry, told=otherwise(inputs_at(entry.what.reading), entry.what.given, told, entry.time))

    def _judged(self, entry: Entry) -> Entry:
        """A reading with what it comes to by the rules of its look, which stays whatever the rules become."""
        if not isinstance(entry.what, AnyRead):
            return entry
        assert self.edition is not None
        own = pins_of([*self.entries, entry]).own_limits
        edition = replace(self.edition, model=with_own_limits(self.edition.model, own))
        return judged(entry, look_service.walk_of_everything(edition))

    def _full(self, entry: Entry) -> Said:
        """What a look has no more room for; empty if it has."""
        if len(self.entries) >= MOST_IN_LOOK:
            return say("{n} entries", n=MOST_IN_LOOK)
        if not isinstance(entry.what, (Answered, AnyRead)):
            return NOTHING
        if self.answers is None:
            self.answers = Counter(e.what.checkpoint for e in self.entries if isinstance(e.what, (Answered, AnyRead)))
        if self.answers[entry.what.checkpoint] >= MOST_AT_ONE:
            return say("{n} answers at one checkpoint", n=MOST_AT_ONE)
        more = len(getattr(entry.what, "findings", ()))
        if more and sum(len(getattr(e.what, "findings", ())) for e in self.entries) + more > MOST_FINDINGS:
            return say("{n} findings", n=MOST_FINDINGS)
        return NOTHING

    async def _signed(self, signature: Entry) -> look_service.Kept:
        """A signature must cover exactly what there is, and the verdict it names must be the one it leads to."""
        assert isinstance(signature.what, Signed)
        covers = signature.what.covers
        there = {e.id for e in self.entries if not isinstance(e.what, Signed)}
        if covers - there:
            raise No("entries-missing", "Some entries of this look have not arrived yet.", again=True)
        if there - covers:
            raise No("more-entries", "Another device added to this look: read the verdict again, then sign.")
        if not self.opened:
            raise No("entries-missing", "The opening of this look has not arrived yet.", again=True)
        known = (
            self.here.books.shelf.at(self.here.where, self.unit).get(f"look {self.stream}") if not self.fresh else None
        )
        if known is None:
            case = await look_service.case_of(self.here, self.unit, self.stream, self.entries)
        else:
            case = known.heard.case
        heard = as_if_signed(case, signature)
        outcome = heard.verdict.outcome
        if heard.look.abandoned is not None:
            raise No("abandoned", "This look was ended: begin a new one. What it found stays.")
        begun = heard.look.opening.time if heard.look.opening else None
        if lapsed(Status.WALKING, begun, self.here.now) is not Status.WALKING:
            raise No("lapsed", "This look was begun more than ten hours ago: begin a new one. What it found stays.")
        if outcome is Outcome.INCOMPLETE:
            raise No("incomplete", "Mandatory checkpoints not looked at yet: {n}.", n=len(heard.verdict.left))
        if outcome != signature.what.outcome:
            raise No(
                "other-verdict", "The verdict is now '{outcome}': read it again, then sign.", outcome=OUTCOMES[outcome]
            )
        await check_signature(self.here, signature, heard)
        return look_service.Kept(signature, heard)
