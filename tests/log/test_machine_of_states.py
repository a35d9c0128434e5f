"""Three devices with drifting clocks, two operators and a mechanic, a network that loses, doubles, reorders and delays.

Whatever happens: no acknowledged Mend or worse disappears from the machine's state without an entitled entry
whose author had seen it. The oracle is written apart from the product: it keeps what was acknowledged and
asks of each report that is gone who set it aside, and by what right.

24 examples in `make test`, 2,000 in `make test-deep` (JUTREL_DEEP=1).
"""

from __future__ import annotations

import asyncio
import random
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import NAMESPACE_URL, uuid5

import pytest
from hypothesis import HealthCheck, Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule, run_state_machine_as_test

from jutrel.core.clearance.prove import clearance
from jutrel.core.defect.settle import Court
from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.kinds import Answered, Opened, Read, Signed, Undone
from jutrel.core.log.chain import verify
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import payload_of
from jutrel.core.machine.file import Filed
from jutrel.core.machine.incident import GRAVE, Examined, Incident
from jutrel.core.people import Role
from jutrel.demo.story import WHO
from jutrel.service.clearance.clearance import machine_now
from jutrel.service.context import Books, Here, here_of
from jutrel.service.ids import uuid7
from jutrel.service.inspection.look import open_defects, standing
from jutrel.service.intake import take
from jutrel.service.log.audit import folded, kept, verify_machine
from jutrel.service.log.sent import Sent
from jutrel.service.machine.file import write_file
from jutrel.service.people.people import Actor, Pen, Person
from jutrel.store.base import Store
from jutrel.store.queries import log as log_store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import people as people_store
from tests.conftest import CATALOG
from tests.deep import DEEP

START = datetime(2026, 5, 4, 6, 0, tzinfo=UTC)
PEOPLE = {"Mira": Role.OPERATOR, "Osk": Role.OPERATOR, "Dag": Role.MECHANIC}
POINTS = ("boom", "teeth", "engine-oil", "drive-covers")
FINDINGS: dict[str, list[dict[str, Any]]] = {
    "boom": [{"failure_mode": "crack", "attributes": {"crack_where": "parent"}}],
    "teeth": [{"failure_mode": "wear", "attributes": {"wear": "limit"}}],
    "engine-oil": [{"failure_mode": "level", "attributes": {"low_level": "very-low"}}],
    "drive-covers": [{"failure_mode": "leak", "attributes": {"leak_class": "III", "fluid": "gear-oil"}}],
}


EVENTS = (
    *["open"] * 1, *["answer"] * 6, *["read"] * 4, *["slip"] * 4, *["undo"] * 2, *["release"] * 2, *["recheck"] * 2,
    *["sign"] * 3, *["amend"] * 2, *["time"] * 1, *["refresh"] * 4, *["send"] * 9, *["incident"] * 1,
    *["examine"] * 1,
)  # fmt: skip


@dataclass
class Tablet:
    """A device: its clock, what it has seen of the server, and what waits on it."""

    drift: timedelta
    seen: dict[str, dict[str, list[str]]] = field(default_factory=dict)
    """By look and checkpoint: entries that its page showed when it last looked."""
    waits: list[tuple[str, str, Sent]] = field(default_factory=list)
    sent: list[tuple[str, str, Sent]] = field(default_factory=list)


class Crash(Exception):
    """The server stops here."""


class Yard(RuleBasedStateMachine):
    """One machine, one log, three tablets."""

    url = ""
    count = 0
    loop: asyncio.AbstractEventLoop
    store: Store

    @initialize(
        seed=st.integers(0, 2**32),
        drifts=st.lists(st.sampled_from([0, -86400, 7, 3600, 86400 * 3650]), min_size=3, max_size=3),
    )
    def begin(self, seed: int, drifts: list[int]) -> None:
        self.rng = random.Random(seed)
        # The same example run again must not meet its own earlier entries in the database.
        Yard.count += 1
        self.machine = f"m-{Yard.count}"
        self.now = START
        self.tablets = [Tablet(timedelta(seconds=d)) for d in drifts]
        self.looks: list[str] = []
        self.acknowledged: set[str] = set()
        self.run(self._file())

    def run(self, work: Any) -> Any:
        return self.loop.run_until_complete(work)

    async def _file(self) -> None:
        async with self.store.transaction() as db:
            here = await self._here(db)
            pell = self.actor("Pell", Role.SUPERVISOR)
            await write_file(
                here,
                pell,
                self.machine,
                self.new_id(START),
                Filed(self.machine, "tolvane-e24", frozenset(), {}, 1, hours=1.0),
            )

    async def _here(self, db: Any) -> Here:
        return await here_of(db, Yard.books, self.now)

    books: Books

    def actor(self, who: str, role: Role | None = None) -> Actor:
        mine = role or PEOPLE[who]
        given, ends = START - timedelta(hours=1), START + timedelta(days=30)
        pen = Pen(str(uuid5(NAMESPACE_URL, who)), WHO[who], mine, "tab", given, ends)
        return Actor("quillmere", Person(WHO[who], who, mine), pen)

    def new_id(self, at: datetime) -> str:
        return uuid7(max(at, datetime(1971, 1, 1, tzinfo=UTC)), self.rng.getrandbits(50) << 24 | Yard.count)

    @rule(event=st.sampled_from(EVENTS), seed=st.integers(0, 2**32))
    def something_happens(self, event: str, seed: int) -> None:
        """One rule, so that no example leaves a kind of event out; the details come from the seed."""
        pick = random.Random(seed)
        t, who, point, at = pick.randrange(3), pick.choice(sorted(PEOPLE)), pick.choice(POINTS), pick.randrange(30)
        if pick.random() < 0.6:
            t, at = 0, -1  # mostly one tablet and the newest look, so that things meet
        if not self.looks:
            self.open_a_look(t, who, pick.uniform(1, 9))
        match event:
            case "open" if len(self.looks) < 4:
                self.open_a_look(t, who, pick.uniform(1, 9))
            case "answer":
                word = pick.choice(["sound", "sound", "defect", "defect", "defect", "unseen", "put-right"])
                self.answer(t, who, point, word, pick.choice(["", "looked again"]), pick.random() < 0.3, at)
            case "read":
                seen = pick.choice([-0.5, -0.5, 0.6, 0.6])
                done, why = pick.random() < 0.3, pick.choice(["", "", "stick was not wiped"])
                self.read(t, who, seen, why, done, pick.random() < 0.3, at)
            case "slip":
                reason, undone = pick.choice(["", "slip", "slip"]), pick.random() < 0.3
                self.slip(t, reason, undone, at, who if pick.random() < 0.6 else "")
            case "undo":
                self.undo(t, pick.choice(["", "slip"]), pick.randint(1, 6), pick.random() < 0.2)
            case "release":
                self.release(t, pick.choice(["Dag", "Dag", "Mira"]), at)
            case "recheck":
                self.recheck(t, who, at)
            case "sign":
                self.sign(t, who, at)
            case "amend":
                self.amend(t, who, point, at)
            case "incident":
                what = {"what": pick.choice(["tipped", "fire", "struck", "sunk"])}
                self.write(self.tablets[t], who, f"defect.{self.new_id(self.now)}", "incident", what)
            case "examine":
                self.examine(t, pick.choice(["Dag", "Dag", "Mira"]), at)
            case "time":
                self.time_passes(pick.choice([0.1, 0.5, 3, 14]))
            case "refresh":
                self.page_is_refreshed(t)
            case "send":
                how = pick.choice(["all", "all", "some", "twice", "shuffled", "lost answer", "crash"])
                self.batch_goes_out(t, how, who)

    # --- what people do on their tablets

    def write(
        self, tablet: Tablet, who: str, look: str, kind: str, what: dict[str, Any], names: Sequence[str] = ()
    ) -> Sent:
        at = self.now + tablet.drift
        made = Sent(self.new_id(at), kind, WHO[who], at, payload_of(kind, what), frozenset(names))
        tablet.waits.append((who, look, made))
        return made

    def open_a_look(self, t: int, who: str, meter: float) -> None:
        look = self.new_id(self.now)
        self.looks.append(look)
        self.write(self.tablets[t], who, look, "opened", {"hour_meter": meter, "options": []})

    def answer(self, t: int, who: str, point: str, word: str, reason: str, blind: bool, at: int) -> None:
        if not self.looks:
            return
        tablet, look = self.tablets[t], self.looks[at % len(self.looks)]
        names = [] if blind else self.shown(tablet, look, point)
        findings = [dict(f) for f in FINDINGS[point]] if word in ("defect", "put-right") else []
        if word == "put-right":
            findings = [f | {"put_right": {"done": "done"}} for f in findings]
        answer = "defect" if findings else word
        self.write(
            tablet,
            who,
            look,
            "answered",
            {"checkpoint": point, "answer": answer, "findings": findings, "reason": reason},
            names,
        )

    def read(self, t: int, who: str, seen: float, reason: str, filled: bool, blind: bool, at: int) -> None:
        """The oil is measured; perhaps over what an eye found there, or another's figure."""
        tablet, look = self.tablets[t], self.looks[at % len(self.looks)]
        what: dict[str, Any] = {
            "checkpoint": "engine-oil",
            "reading": "engine-oil",
            "given": {"seen": seen, "minutes": 600.0},
            "reason": reason,
            "put_right": {"done": "filled"} if filled else None,
        }
        names = [] if blind else self.shown(tablet, look, "engine-oil")
        self.write(tablet, who, look, "read", what, names)

    def shown(self, tablet: Tablet, look: str, point: str) -> list[str]:
        """What the page of this tablet shows at a checkpoint: what it last heard, and its own taps since."""
        heard = [e for at in tablet.seen.values() for e in at.get(point, ())]
        own = [
            s.id
            for _, where, s in (*tablet.waits, *tablet.sent)
            if where == look and isinstance(s.what, (Answered, Read)) and s.what.checkpoint == point
        ]
        return list(dict.fromkeys([*heard, *own]))

    def slip(self, t: int, reason: str, undone: bool, index: int, other: str) -> None:
        """Somebody takes back what they reported in the same look: perhaps after it was signed, or `other` saw it."""
        tablet = self.tablets[t]
        mine = [w for w in (*tablet.sent, *tablet.waits) if isinstance(w[2].what, Answered) and w[2].what.findings]
        if not mine:
            return
        who, look, made = mine[index % len(mine)]
        assert isinstance(made.what, Answered)
        if other:
            what = {"checkpoint": made.what.checkpoint, "answer": "sound", "reason": ""}
            self.write(tablet, other, look, "answered", what, [made.id])
        if undone:
            self.write(tablet, who, look, "undone", {"target": made.id, "reason": reason}, [made.id])
        else:
            what = {"checkpoint": made.what.checkpoint, "answer": "sound", "reason": reason}
            self.write(tablet, who, look, "answered", what, [made.id])

    def undo(self, t: int, reason: str, back: int, forged: bool) -> None:
        tablet = self.tablets[t]
        mine = [*tablet.sent, *tablet.waits][-back:]
        if mine:
            who, look, target = mine[0]
            by = self.rng.choice(sorted(PEOPLE)) if forged else who
            self.write(tablet, by, look, "undone", {"target": target.id, "reason": reason}, [target.id])

    def release(self, t: int, who: str, index: int) -> None:
        defects = self.run(self._defects())
        if defects:
            d = defects[index % len(defects)]
            what = {"checkpoint": d.key[0], "failure_mode": d.key[1], "done": "mended"}
            self.write(self.tablets[t], who, f"defect.{d.id}", "released", what, [r.entry for r in d.reports])

    def recheck(self, t: int, who: str, index: int) -> None:
        releases = [(look, s) for x in self.tablets for _, look, s in x.sent if s.kind == "released"]
        if releases:
            look, s = releases[index % len(releases)]
            self.write(self.tablets[t], who, look, "rechecked", {"release": s.id}, [s.id])

    def examine(self, t: int, who: str, index: int) -> None:
        told = [s for x in self.tablets for _, _, s in [*x.sent, *x.waits] if s.kind == "incident"]
        if told:
            what = {"incident": told[index % len(told)].id, "found": "looked all over it"}
            self.write(self.tablets[t], who, f"defect.{self.new_id(self.now)}", "examined", what)

    def sign(self, t: int, who: str, at: int) -> None:
        """By what the server says now; the signature may arrive much later."""
        if self.looks:
            look = self.looks[at % len(self.looks)]
            covers, outcome = self.run(self._signable(look))
            self.write(self.tablets[t], who, look, "signed", {"covers": covers, "outcome": outcome})

    def amend(self, t: int, who: str, point: str, at: int) -> None:
        if self.looks:
            look = self.looks[at % len(self.looks)]
            names = self.shown(self.tablets[t], look, point)
            self.write(
                self.tablets[t],
                who,
                look,
                "answered",
                {"checkpoint": point, "answer": "sound", "amends": "again", "reason": "again"},
                names,
            )

    # --- the network, the clock, the server

    def time_passes(self, hours: float) -> None:
        self.now += timedelta(hours=hours)

    def page_is_refreshed(self, t: int) -> None:
        self.tablets[t].seen = self.run(self._page())

    def batch_goes_out(self, t: int, how: str, carrier: str) -> None:
        tablet = self.tablets[t]
        going = tablet.waits[:]
        if how == "some":
            going = [w for w in going if self.rng.random() < 0.5]
        if how == "shuffled":
            self.rng.shuffle(going)
        for look in dict.fromkeys(w[1] for w in going):
            mine = [w for w in going if w[1] == look]
            if self.rng.random() < 0.6:
                # Each person sends their own, tap by tap, as on a tablet with a good network.
                carrier = mine[0][0]
                mine = [w for w in mine if w[0] == carrier][: self.rng.randint(1, 3)]
            for _ in range(2 if how == "twice" else 1):
                done = self.run(self._deliver(carrier, look, [w[2] for w in mine], how == "crash"))
            if done is None or how == "lost answer":
                continue  # nobody told the tablet: it all waits still
            stored, gone = done
            self.acknowledged |= stored
            for w in mine:
                if w[2].id in stored or w[2].id in gone:
                    tablet.waits.remove(w)
                    if w[2].id in stored:
                        tablet.sent.append(w)

    async def _deliver(
        self, carrier: str, look: str, batch: list[Sent], crash: bool
    ) -> tuple[set[str], set[str]] | None:
        pens = {who: self.actor(who).pen for who in PEOPLE}
        try:
            async with self.store.transaction() as db:
                here = await self._here(db)
                sender = self.actor(carrier)
                taken = await _take_with(here, sender, self.machine, look, batch, list(pens.values()))
                if crash and self.rng.random() < 0.7:
                    raise Crash
        except Crash:
            return None
        return {*taken.stored, *taken.known}, {r.id for r in taken.refused if not r.again}

    # --- what the server says

    async def _defects(self) -> Any:
        async with self.store.transaction() as db:
            here = await self._here(db)
            unit = await machine_store.unit(db, "quillmere", self.machine)
            assert unit is not None
            return await open_defects(here, unit)

    async def _signable(self, look: str) -> tuple[list[str], str]:
        async with self.store.transaction() as db:
            here = await self._here(db)
            if await log_store.machine_of_stream(db, "quillmere", look) is None:
                return [], "ready"
            s = await standing(here, look)
            return [e.id for e in s.entries if not isinstance(e.what, Signed)], s.heard.verdict.outcome.value

    async def _page(self) -> dict[str, dict[str, list[str]]]:
        out: dict[str, dict[str, list[str]]] = {}
        async with self.store.transaction() as db:
            here = await self._here(db)
            unit = await machine_store.unit(db, "quillmere", self.machine)
            assert unit is not None
            for d in await open_defects(here, unit):
                out.setdefault("open", {}).setdefault(d.key[0], []).extend(r.entry for r in d.reports)
            for look in self.looks:
                if await log_store.machine_of_stream(db, "quillmere", look):
                    found = (await standing(here, look)).heard.look
                    for point, heads in found.heads.items():
                        out.setdefault(look, {})[point] = [e.id for e in heads]
                    for (point, _), heads in found.readings.items():
                        out.setdefault(look, {}).setdefault(point, []).extend(e.id for e in heads)
        return out

    @invariant()
    def now_and_then(self) -> None:
        self.steps = getattr(self, "steps", 0) + 1
        if self.steps % 12 == 0:
            self.nothing_disappears()

    def teardown(self) -> None:
        if hasattr(self, "machine"):
            self.nothing_disappears()

    def nothing_disappears(self) -> None:
        log, now, again, whole = self.run(self._everything())
        assert whole is None
        assert now == again, "made anew from the log it is the same"
        assert self.acknowledged <= {e.id for e in log}
        by_id = {e.id: e for e in log}
        reports = {k: r for k, (r, _) in now.reports.items()}
        found = {e.id for e in log if isinstance(e.what, Answered) and e.what.findings}
        found |= {e.id for e in log if isinstance(e.what, Read) and (is_low(e) or e.what.put_right)}
        assert {r.entry for r in reports.values()} == found, "every finding that was stored is a report"
        for key, (report, settled) in now.reports.items():
            if report.as_found < Grade.MEND or (settled is None or settled.pending):
                continue
            if report.grade < Grade.MEND:
                continue  # put right where it may be: told as a Watch
            entitled(by_id, report, by_id[settled.act], log)
            assert key in again.reports
        self.nothing_works_on_after_an_incident(log, now.unit)
        # All replicas agree: the log in any order comes to the same.
        mixed = log[:]
        self.rng.shuffle(mixed)
        court, other = Court(log, reports.values()), Court(mixed, reports.values())
        assert court.settled == other.settled

    def nothing_works_on_after_an_incident(self, log: list[Entry], unit: Any) -> None:
        """No clock here was ever measured: then only what arrived after an incident is good again."""
        told = [e for e in log if isinstance(e.what, Incident)]
        examined = {e.what.incident for e in log if isinstance(e.what, Examined) and e.role is Role.MECHANIC}
        waits = {e.id for e in told if e.what.what in GRAVE} - examined  # type: ignore[attr-defined]
        standing = unit.standing.incidents
        assert {h.id for h in standing.waiting} == waits if standing else not told
        opened = {e.stream: e for e in log if isinstance(e.what, Opened)}
        if clearance(self.run(self._machine(unit)), self.now).start.may:
            assert not waits
            began = opened[unit.newest.whole]
            assert all(e.seq < began.seq for e in told), "walked before it happened, or nobody knows"

    async def _machine(self, unit: Any) -> Any:
        async with self.store.transaction() as db:
            return await machine_now(await self._here(db), unit)

    async def _everything(self) -> tuple[list[Entry], Any, Any, Any]:
        async with self.store.transaction() as db:
            here = await self._here(db)
            unit = await machine_store.unit(db, "quillmere", self.machine)
            assert unit is not None
            log = [e async for e in log_store.log_of(db, "quillmere", self.machine)]
            assert verify(log) is None
            return log, await kept(here, unit), await folded(here, unit), (await verify_machine(here, unit)).broken


def seen_by(by_id: dict[str, Entry], entry: Entry) -> set[str]:
    """Ids that an entry's author had seen, also through what those had seen."""
    saw: set[str] = set()
    todo = list(entry.replaces)
    while todo:
        one = todo.pop()
        if one not in saw:
            saw.add(one)
            todo.extend(by_id[one].replaces if one in by_id else ())
    return saw


def is_low(entry: Entry) -> bool:
    """Whether an entry measured too little oil."""
    return isinstance(entry.what, Read) and float(entry.what.given["seen"]) < 0  # type: ignore[arg-type]


def puts_right(entry: Entry) -> bool:
    """Whether an entry says that something was done about it on the spot."""
    what = entry.what
    if isinstance(what, Read):
        return what.put_right is not None and not is_low(entry)
    return isinstance(what, Answered) and any(f.put_right for f in what.findings)


def entitled(by_id: dict[str, Entry], report: Any, act: Entry, log: list[Entry]) -> None:
    """The oracle: had the author seen it, and had they a right to it?"""
    assert report.entry in seen_by(by_id, act), "who sets it aside had seen it"
    if isinstance(act.what, Read):
        assert isinstance(by_id[report.entry].what, Read), "a figure says nothing of what an eye found"
    if act.role is Role.MECHANIC and not isinstance(act.what, Undone):
        if report.grade is Grade.HOLD and act.by != report.by:
            second = [
                e
                for e in log
                if (isinstance(e.what, Signed) and act.id in e.what.covers) or getattr(e.what, "release", "") == act.id
            ]
            slip = act.by == report.by
            assert slip or puts_right(act) or any(e.by != act.by for e in second), "a Hold takes another person"
        return
    if puts_right(act) and report.checkpoint == "engine-oil":
        return
    assert act.by == report.by, "an operator sets aside their own only"
    assert act.stream == report.look
    said = act.what
    again = (isinstance(said, Answered) and bool(said.findings)) or is_low(act)
    assert again or getattr(said, "reason", "") or getattr(said, "amends", ""), "and says why"
    for e in log:
        if isinstance(e.what, Signed) and report.entry in e.what.covers:
            assert act.id in e.what.covers, "and not after it was signed"
        if e.by != report.by and report.entry in e.replaces:
            assert act.id in seen_by(by_id, e), "and not after another person had seen it"


async def _take_with(here: Here, sender: Actor, machine: str, look: str, batch: list[Sent], pens: list[Pen]) -> Any:
    """As `take` does, with the secrets of all three pens on every tablet."""
    from jutrel.service import intake

    async def shown(*_: Any) -> list[Pen]:
        return [sender.pen, *pens]

    before = intake.pens_shown
    intake.pens_shown = shown  # type: ignore[assignment]
    try:
        for s in batch:
            await people_store.note_pin(here.db, here.site.id, s.by, [s.id], "", here.now)
        return await take(here, sender, machine, look, batch)
    finally:
        intake.pens_shown = before


@pytest.fixture
def yard(bare: str) -> Iterator[type[Yard]]:
    loop = asyncio.new_event_loop()
    Yard.loop, Yard.url, Yard.store, Yard.books = loop, bare, Store(bare), Books(CATALOG)
    yield Yard
    loop.run_until_complete(Yard.store.close())
    loop.close()


@pytest.mark.timeout(7200 if DEEP else 900)
def test_no_acknowledged_mend_disappears(yard: type[Yard]) -> None:
    run_state_machine_as_test(
        yard,
        settings=settings(
            max_examples=2000 if DEEP else 24,
            stateful_step_count=40 if DEEP else 30,
            deadline=None,
            suppress_health_check=list(HealthCheck),
            database=None,
            derandomize=not DEEP,
            print_blob=True,
            phases=(Phase.explicit, Phase.generate, Phase.shrink) if DEEP else (Phase.explicit, Phase.generate),
        ),
    )
