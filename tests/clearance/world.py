"""Histories told to the product as people, tablets and clocks would, and read from words."""

from __future__ import annotations

import asyncio
import re
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from itertools import count
from pathlib import Path
from typing import Any
from uuid import uuid4

from jutrel.core.account import CONSOLE
from jutrel.core.clearance.answer import Clearance
from jutrel.core.clearance.prove import Machine
from jutrel.core.inspection.kinds import Opened
from jutrel.core.log.kinds import payload_of
from jutrel.core.machine.file import Filed
from jutrel.core.machine.lock import Locked, Unlocked
from jutrel.core.machine.unit import SiteInfo
from jutrel.core.people import Role
from jutrel.service.clearance.clearance import clearance_of, machine_now
from jutrel.service.context import Books, Here, here_of
from jutrel.service.ids import uuid7
from jutrel.service.inspection.look import open_defects, standing
from jutrel.service.intake import take
from jutrel.service.log.audit import rebuild_machine
from jutrel.service.log.sent import Sent
from jutrel.service.machine.file import write_file
from jutrel.service.machine.judge_anew import waiting
from jutrel.service.machine.standing import judged_anew
from jutrel.service.people.changes import enrol
from jutrel.service.people.people import Actor, Pen, Person
from jutrel.service.route.walk import machine_walk
from jutrel.store.base import Db, Store
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import people as people_store
from tests.clearance.oracle import Act
from tests.conftest import CATALOG

MODEL = "tolvane-e24"
PLACES = {
    "boom": "boom", "lock": "lock-lever", "coupler": "coupler-lock", "horn": "horn-button", "links": "links-left",
    "teeth": "teeth", "door": "door",
}  # fmt: skip
FOUND: dict[str, tuple[str, dict[str, str]]] = {
    "boom": ("crack", {"crack_where": "parent"}),
    "links": ("pin-out", {"pin_out": "proud"}),
    "horn": ("inoperative", {"works": "weak"}),
}
ROLES = {"Mira": Role.OPERATOR, "Osk": Role.OPERATOR, "Ines": Role.OPERATOR, "Dag": Role.MECHANIC,
         "Pell": Role.SUPERVISOR, "Rolf": Role.ADMINISTRATOR}  # fmt: skip
KINDS = {"whole": "pre-start", "short": "change-of-operator", "stop": "once-over", "end": "end-of-shift"}
SITE = "levee"
SHIFTS = (("06:00", 8.0), ("14:00", 8.0), ("22:00", 8.0))
MIDNIGHT = datetime(2026, 5, 4, tzinfo=UTC)
WALK_MIN = 10


def small() -> Any:
    """The catalog with one excavator of seven checkpoints: as much as a history needs."""
    model = CATALOG.models[MODEL]
    keep = set(PLACES.values())
    family = replace(model.family, checkpoints=tuple(c for c in model.family.checkpoints if c.id in keep))
    return replace(CATALOG, families={family.id: family}, models={MODEL: replace(model, family=family)})


SMALL = small()


def at(minutes: float) -> datetime:
    return MIDNIGHT + timedelta(minutes=minutes)


# --- words


@dataclass(frozen=True)
class Asked:
    """Somebody asks, and what may be done: start, work."""

    when: int
    who: str
    start: bool
    work: bool


@dataclass(frozen=True)
class History:
    """What was done and asked, in order, with the reason of the answers."""

    name: str
    acts: tuple[Act, ...]
    asked: tuple[Asked, ...]
    why: str


def minutes_of(text: str) -> int:
    day, _, clock = text.rpartition(" ")
    hours, minutes = clock.split(":")
    return (int(day or 0)) * 1440 + int(hours) * 60 + int(minutes)


LINE = re.compile(r"((?:\+\d )?\d\d:\d\d) (\w+) (.*)")
GIVEN = re.compile(r"(\w+)=((?:\+\d )?[\w:-]+)")


def histories() -> list[History]:
    """The histories that were judged by hand."""
    out = []
    text = (Path(__file__).parent / "histories.txt").read_text()
    for part in text.split("== ")[1:]:
        name, *lines = part.strip().splitlines()
        acts: list[Act] = []
        asked: list[Asked] = []
        why = ""
        for line in lines:
            if line.startswith("why: "):
                why = line[5:]
                continue
            found = LINE.fullmatch(line)
            assert found, line
            when, who, rest = minutes_of(found[1]), found[2], found[3]
            if rest.startswith("?"):
                asked.append(Asked(when, who, "start" in rest, "work" in rest))
            else:
                acts.append(act_of(when, who, rest, acts))
        assert why, name
        out.append(History(name, tuple(acts), tuple(asked), why))
    return out


def act_of(when: int, who: str, rest: str, before: Iterable[Act]) -> Act:
    """An act from its words."""
    given = dict(GIVEN.findall(rest))
    plain = GIVEN.sub("", rest).split()
    what, on = plain[0], " ".join(p for p in plain[1:] if p != "unsigned")
    come = minutes_of(given["at"]) if "at" in given else when
    return made(
        when, who, what, on, come, before, clock=given.get("clock") != "no", unsigned="unsigned" in plain,
        knew=minutes_of(given["knew"]) if "knew" in given else when,
        signed=minutes_of(given["signed"]) if "signed" in given else None,
        missing=frozenset(given.get("missing", "").split()), hold=given.get("hold", ""), limit=given.get("limit", ""),
        unseen=given.get("unseen", ""), hours=float(given.get("hours", 100)),
    )  # fmt: skip


def made(
    when: int, who: str, what: str, on: str, come: int, before: Iterable[Act], *, clock: bool = True,
    unsigned: bool = False, knew: int | None = None, signed: int | None = None, **more: Any,
) -> Act:  # fmt: skip
    """An act with what follows from it: when its signature came in, when it can have been done at the earliest."""
    walk = what in KINDS
    if walk and not unsigned and signed is None:
        signed = max(come, when + WALK_MIN)
    earliest = when if clock else max((a.when for a in before if a.who == who and a.what == "signs-in"), default=when)
    return Act(when, who, what, on, come, when if knew is None else knew, earliest, signed, **more)


# --- the product


@dataclass
class World:
    """One machine of one site, told what is done minute by minute."""

    store: Store
    books: Books
    machine: str
    now: int = 0
    pens: dict[str, Pen] = field(default_factory=dict)
    looks: dict[str, str] = field(default_factory=dict)
    """By person: the look they began last."""
    incidents: list[str] = field(default_factory=list)
    releases: dict[str, str] = field(default_factory=dict)
    locks: dict[str, list[str]] = field(default_factory=dict)
    refused: list[str] = field(default_factory=list)
    seen: list[tuple[Machine, datetime, str]] = field(default_factory=list)
    """What clearance was made of, each time that somebody asked."""

    def new_id(self) -> str:
        return uuid7(at(self.now), next(_noise))

    async def actor(self, db: Db, who: str) -> Actor:
        person = Person(PEOPLE[who], who, ROLES[who])
        pen = self.pens.get(who)
        if pen is None or pen.ends_at <= at(self.now):
            pen = Pen(str(uuid4()), person.id, person.role, f"tab-{who}", at(self.now), at(self.now + 3 * 1440))
            await people_store.give_pen(db, SITE, pen, uuid4().hex, None)
            self.pens[who] = pen
        return Actor(SITE, person, pen)

    async def here(self, db: Db) -> Here:
        return await here_of(db, self.books, at(self.now))

    async def play(self, acts: Iterable[Act], asked: Iterable[Asked]) -> list[tuple[Asked, Clearance]]:
        """Everything in order of time; what each who asks is told."""
        todo: list[tuple[int, int, str, Any]] = []
        for n, a in enumerate(acts):
            todo.append((a.when, 0, f"{n:03}", a))
        for n, q in enumerate(asked):
            todo.append((q.when, 2, f"{n:03}", q))
        out = []
        late: list[tuple[int, Any]] = []
        for when, _, _, one in sorted(todo, key=lambda x: x[:3]):
            await self._deliver(late, when)
            self.now = when
            async with self.store.transaction() as db:
                if isinstance(one, Asked):
                    here = await self.here(db)
                    unit = await machine_store.unit(db, SITE, self.machine)
                    assert unit is not None
                    machine = await machine_now(here, unit)
                    self.seen.append((machine, here.now, PEOPLE[one.who]))
                    out.append((one, await clearance_of(here, unit, PEOPLE[one.who])))
                else:
                    late += await self._do(db, one)
            await self._deliver(late, when)
        await self._deliver(late, 10**6)
        return out

    async def _deliver(self, late: list[tuple[int, Any]], until: int) -> None:
        for come, send in sorted([x for x in late if x[0] <= until], key=lambda x: x[0]):
            late.remove((come, send))
            self.now = max(self.now, come)
            async with self.store.transaction() as db:
                await send(db)

    async def _do(self, db: Db, a: Act) -> list[tuple[int, Any]]:
        """Do something; what comes in later is given back with its time."""
        me = await self.actor(db, a.who)
        here = await self.here(db)
        unit = await machine_store.unit(db, SITE, self.machine)
        assert unit is not None
        match a.what:
            case "whole" | "short" | "stop" | "end":
                return await self._walk(db, here, me, a, unit)
            case "abandons":
                return [(a.at, self._sender(me, self.looks[a.who], "abandoned", {"reason": "called away"}))]
            case "incident":
                return [(a.at, self._sender(me, f"defect.{self.new_id()}", "incident", {"what": a.on}, self.incidents))]
            case "done":
                return [(a.at, self._sender(me, f"defect.{self.new_id()}", "worked-on", {"what": a.on}))]
            case "examines":
                what = {"incident": self.incidents[-1], "found": "looked all over it"}
                return [(a.at, self._sender(me, f"defect.{self.new_id()}", "examined", what))]
            case "releases" | "accepts":
                place, mode = PLACES[a.on], FOUND[a.on][0]
                seen = [r.entry for d in await open_defects(here, unit) if d.key[0] == place for r in d.reports]
                what = {"checkpoint": place, "failure_mode": mode}
                what |= {"done": "mended"} if a.what == "releases" else {"reason": "one shift only"}
                kind = "released" if a.what == "releases" else "accepted"
                into: list[str] = []
                send = self._sender(me, f"defect.{self.new_id()}", kind, what, into, frozenset(seen))
                self.releases[a.on] = into[0]
                return [(a.at, send)]
            case "checks":
                release = self.releases[a.on]
                stream = f"defect.{self.new_id()}"
                return [(a.at, self._sender(me, stream, "rechecked", {"release": release}, None, frozenset({release})))]
            case "fits":
                await self._filed(here, me, options=unit.options | {"quick-coupler"}, active=unit.active)
            case "sends-off" | "takes-back":
                await self._filed(here, me, options=unit.options, active=a.what == "takes-back")
            case "locks":
                entry = self.new_id()
                self.locks.setdefault(a.who, []).append(entry)
                await write_file(here, me, self.machine, entry, Locked("greasing the pins"))
            case "unlocks":
                for lock in self.locks.pop(a.who, []):
                    await write_file(here, me, self.machine, self.new_id(), Unlocked(lock))
            case "rules":
                await machine_store.set_regime(db, SITE, {"strict": "us-construction"}.get(a.on, "house"))
                here = await self.here(db)
                for machine in await waiting(here):
                    if machine == self.machine:
                        await judged_anew(here, unit)
            case "signs-in":
                pass
            case "signs-out":
                self.pens[a.who] = replace(me.pen, ends_at=at(self.now))
            case _:
                raise AssertionError(a.what)
        return []

    async def _filed(self, here: Here, me: Actor, options: frozenset[str], active: bool = True) -> None:
        await write_file(
            here, me, self.machine, self.new_id(), Filed(self.machine, MODEL, options, {}, 1, active=active)
        )

    def _sender(
        self, me: Actor, stream: str, kind: str, what: dict[str, Any], into: list[str] | None = None,
        seen: frozenset[str] = frozenset(),
    ) -> Any:  # fmt: skip
        sent = Sent(self.new_id(), kind, me.person.id, at(self.now), payload_of(kind, what), seen, 0)
        if into is not None:
            into.append(sent.id)
        return lambda db: self._send(db, me, stream, [sent])

    async def _send(self, db: Db, me: Actor, stream: str, batch: list[Sent]) -> None:
        # The pen may have ended since: who sends shows the one it was written with.
        pen = self.pens.get(me.person.name, me.pen)
        pen = pen if pen.id == me.pen.id else replace(me.pen, ends_at=min(me.pen.ends_at, at(self.now)))
        await people_store.note_pin(db, SITE, me.person.id, [s.id for s in batch], "", at(self.now))
        taken = await take(await self.here(db), replace(me, pen=pen), self.machine, stream, batch)
        self.refused += [r.kind for r in taken.refused]

    async def _walk(self, db: Db, here: Here, me: Actor, a: Act, unit: Any) -> list[tuple[int, Any]]:
        look = self.looks[a.who] = self.new_id()
        knows = unit.options if not a.missing else frozenset()
        given: dict[str, Any] = {"hour_meter": a.hours, "options": sorted(knows), "purpose": KINDS[a.what]}
        if a.knew >= a.when:
            given |= {"knew": unit.seq, "head": unit.head}
        opened = payload_of("opened", given)
        assert isinstance(opened, Opened)
        w = await machine_walk(here, self.machine, opened)
        seen: dict[str, frozenset[str]] = {}
        for d in w.defects:
            seen[d.key[0]] = seen.get(d.key[0], frozenset()) | {r.entry for r in d.reports}
        offset = 0 if a.earliest == a.when else None
        batch = [Sent(self.new_id(), "opened", me.person.id, at(a.when), opened, frozenset(), offset)]
        for c in w.walk.checkpoints:
            name = next(k for k, v in PLACES.items() if v == c.id)
            if name in a.missing:
                continue
            what: dict[str, Any] = {"checkpoint": c.id, "answer": "sound"}
            if name in (a.hold, a.limit):
                mode, attributes = FOUND[name]
                finding = {"failure_mode": mode, "attributes": attributes, "note": ""}
                what = {"checkpoint": c.id, "answer": "defect", "findings": [finding]}
            if name == a.unseen:
                what = {"checkpoint": c.id, "answer": "unseen", "reason": "dark and under snow"}
            names = seen.get(c.id, frozenset())
            batch.append(
                Sent(self.new_id(), "answered", me.person.id, at(a.when), payload_of("answered", what), names, offset)
            )
        out: list[tuple[int, Any]] = [(a.at, lambda db: self._send(db, me, look, batch))]
        if a.signed is not None:
            out.append((a.signed, lambda db: self._sign(db, me, look, [s.id for s in batch], a, offset)))
        return out

    async def _sign(self, db: Db, me: Actor, look: str, covers: list[str], a: Act, offset: int | None) -> None:
        outcome = (await standing(await self.here(db), look)).verdict.outcome.value
        what = payload_of("signed", {"covers": covers, "outcome": outcome})
        when = min(self.now, max(a.when + WALK_MIN, a.signed or 0))
        sent = Sent(self.new_id(), "signed", me.person.id, at(when), what, frozenset(), offset)
        await self._send(db, me, look, [sent])


async def as_folded(world: World) -> bool:
    """Whether what was written step by step is what the whole log amounts to, folded at once."""
    async with world.store.transaction() as db:
        return await rebuild_machine(await world.here(db), world.machine)


PEOPLE = {name: f"0e000000-0000-4000-8000-{n:012d}" for n, name in enumerate(ROLES, 1)}


async def found_site(store: Store, books: Books) -> None:
    """The site and its people."""
    async with store.transaction() as db:
        await machine_store.add_site(db, SiteInfo(SITE, "Levee", "UTC", "house", 8.0, shifts=SHIFTS))
        here = await here_of(db, books, datetime.now(UTC))
        for name, role in ROLES.items():
            await enrol(here, CONSOLE, Person(PEOPLE[name], name, role), "-", once=False)


_machines = 0
_noise = count(1)


async def new_world(store: Store, books: Books) -> World:
    """A machine that nothing was done to."""
    global _machines
    _machines += 1
    world = World(store, books, f"m-{_machines}")
    async with store.transaction() as db:
        await machine_store.set_regime(db, SITE, "house")
        here = await world.here(db)
        filed = Filed(world.machine, MODEL, frozenset(), {}, 1, hours=90.0)
        await write_file(here, await world.actor(db, "Pell"), world.machine, world.new_id(), filed)
    return world


def run(loop: asyncio.AbstractEventLoop, store: Store, books: Books, acts: Iterable[Act], asked: Iterable[Asked]
        ) -> tuple[list[tuple[Asked, Clearance]], World]:  # fmt: skip
    """A history told to a machine of its own."""
    world = loop.run_until_complete(new_world(store, books))
    return loop.run_until_complete(world.play(acts, asked)), world
