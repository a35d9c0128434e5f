"""Each premise taken out of the product's code, one by one: every time something says yes that must not.

What clearance is made of is gathered once, from histories that a hand or the oracle judged and from a clear machine
with one thing made wrong; then each mutant judges all of it. In `make test-deep` the code around it is changed too,
in a copy, and the histories and attacks are run against the copy.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import types
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import pytest

from jutrel.core.clearance import prove, timetable
from jutrel.core.clearance.prove import Machine
from jutrel.core.grading.grade import Grade
from jutrel.core.machine.event import Event
from jutrel.core.machine.limits import AcceptedAs, name_of
from jutrel.core.machine.state import Unseen, Word
from jutrel.core.wording import NOTHING, say
from tests.clearance.chance import history
from tests.clearance.conftest import Told
from tests.clearance.oracle import may
from tests.clearance.world import histories
from tests.conftest import ROOT
from tests.deep import DEEP

SEEDS = range(40 if DEEP else 9)
Case = tuple[str, Machine, datetime, str, bool, bool]
"""What it is; the machine, the time, who asks; may it start, may it work."""


@pytest.fixture(scope="module")
def cases(told: Told) -> list[Case]:
    out: list[Case] = []
    for h in histories():
        answers, world = told(h.acts, h.asked)
        for (q, _), (machine, now, who) in zip(answers, world.seen, strict=True):
            out.append((h.name, machine, now, who, q.start, q.work))
    for seed in SEEDS:
        acts, asked = history(seed)
        answers, world = told(acts, asked)
        for (q, _), (machine, now, who) in zip(answers, world.seen, strict=True):
            out.append((f"seed {seed}", machine, now, who, *may(acts, q.who, q.when)))
    return out + [
        spoilt for name, m, now, who, start, work in out[:40] if start and work for spoilt in spoil(m, now, who)
    ]


def spoil(m: Machine, now: datetime, who: str) -> list[Case]:
    """A machine that may start and work, with one thing made wrong each time."""
    s, base = m.standing, m.looks.base
    assert base is not None

    def standing(**change: Any) -> Machine:
        return replace(m, standing=replace(s, **change))

    def looks(**change: Any) -> Machine:
        k = replace(base, **change)  # type: ignore[type-var]
        return replace(m, looks=replace(m.looks, whole=k, cleared=k, newest=k))

    event = Event("e", base.saw + 1, now, NOTHING)
    unseen = Unseen("boom", "Boom", NOTHING, "e", 1)
    no_start = {
        "the clock stands behind": standing(newest_at=now + timedelta(hours=1)),
        "it has left": replace(m, active=False),
        "other rules": replace(m, edition="another"),
        "a checkpoint that nobody looked at": standing(missing=("Boom",)),
        "nobody saw it": standing(unseen=(unseen,)),
        "a Hold": standing(word=Word(Grade.HOLD, NOTHING)),
        "a look that holds it by itself": looks(own=Word(Grade.HOLD, NOTHING)),
        "something happened that it knew nothing of": standing(event=event),
        "walked in the future": looks(begun_at=now + timedelta(hours=3)),
        "ran ten hours": replace(m, hours=base.hour_meter + 10.5, standing=replace(s, furthest_seq=10**6)),
        "a meter that fits nothing": replace(m, hours=base.hour_meter + 5, standing=replace(s, furthest_seq=0)),
        "not signed": looks(signed_at=None),
        "walked by another": looks(begun_by="x", signed_by="y"),
        "of yesterday": looks(begun_at=now - timedelta(hours=25)),
        "a short one with no whole one": replace(m, looks=replace(m.looks, whole=None, cleared=replace(base, continues=True))),
        "of the shift before, signed in this one": looks(begun_at=now - timedelta(hours=9), shift_hours=24.0),
        "of a clock that nobody measured": looks(earliest=now - timedelta(hours=9), shift_hours=24.0),
        "a short one begun before its whole one was signed": replace(m, looks=replace(m.looks, whole=base, cleared=replace(base, id="s", continues=True, opened_seq=base.signed_seq - 1))),
        "a shift that its operator called shorter": looks(shift_hours=0.0),
    }  # fmt: skip
    word = Word(Grade.LIMIT, NOTHING)
    no_work = {
        "a Limit that nobody accepted": standing(word=word, limited=True, accepted_at=None),
        "accepted yesterday": standing(word=word, limited=True, accepted_at=now - timedelta(hours=25)),
    }
    out: list[Case] = [(name, spoilt, now, who, False, False) for name, spoilt in no_start.items()]
    both = Word(Grade.LIMIT, NOTHING, (say("Daylight only."),))
    named = AcceptedAs(name_of(both.limits), who, now - timedelta(hours=25))
    no_work |= {
        "a Limit that several things make": standing(together=both.limits),
        "what nobody saw limits it": looks(own=both),
        "several things, accepted yesterday": standing(together=both.limits, accepted=(named,)),
        "several things, other ones accepted": standing(together=(say("No lifting."),), accepted=(named,)),
    }
    return out + [(name, spoilt, now, who, True, False) for name, spoilt in no_work.items()]


Judge = Callable[[Machine, datetime, str], Any]


def wrongly(judge: Judge, cases: list[Case]) -> str:
    """The first case that is cleared and must not be; empty if there is none."""
    for name, machine, now, who, start, work in cases:
        try:
            found = judge(machine, now, who)
        except Exception as error:
            return f"{name}: {error!r}"
        if (found.start.may and not start) or (found.work.may and not work):
            return name
    return ""


def test_the_code_as_it_is_clears_nothing_wrongly(cases: list[Case]) -> None:
    assert wrongly(prove.clearance, cases) == ""
    cleared = [c for c in cases if prove.clearance(c[1], c[2], c[3]).start.may]
    assert len(cleared) > 20


# Each: what the code says, and what it says with the premise taken out.
MUTANTS: list[tuple[types.ModuleType, str, str]] = [
    (prove, "newest is not None and now < newest - CLOCK", "False"),
    (prove, "    if m.active:\n", "    if True:\n"),
    (prove, "    if s.locks:\n", "    if False:\n"),
    (prove, "if waits := waiting_said(s.incidents):", "if (waits := NOTHING):"),
    (prove, "    if s.word.grade is Grade.HOLD:\n", "    if False:\n"),
    (prove, "    if s.unseen:\n", "    if False:\n"),
    (prove, "    elif own is not None:\n", "    elif False:\n"),
    (prove, "cleared is None or cleared.signed_at is None or base is None or base.signed_at is None", "cleared is None or base is None"),
    (prove, "event is not None and base.saw < event.seq", "False"),
    (prove, "base.saw < event.seq", "base.saw < event.seq - 1"),
    (prove, "base.saw < event.seq", "base.opened_seq < event.seq"),
    (prove, "base.saw < event.seq", "base.signed_seq < event.seq"),
    (prove, "ended is not None and ended.id != base.id and base.saw < ended.opened_seq", "False"),
    (prove, "m.standing.judged_by != m.edition", "False"),
    (prove, "    if m.standing.missing:\n", "    if False:\n"),
    (prove, "base is cleared or _held_at(m, base, cleared)", "True"),
    (prove, "base.signed_seq < short.opened_seq", "True"),
    (prove, "    if until < now:\n", "    if False:\n"),
    (prove, "for k in (base, cleared)", "for k in (cleared,)"),
    (prove, "life_until(m.timetable, k.begun, k.shift_hours)", "life_until(m.timetable, k.begun, 24.0)"),
    (prove, "life_until(m.timetable, k.begun, k.shift_hours)", "k.begun + timedelta(hours=k.shift_hours)"),
    (prove, "life_until(m.timetable, k.begun,", "life_until(m.timetable, k.begun_at,"),
    (prove, "life_until(m.timetable, k.begun,", "life_until(m.timetable, k.signed_at or k.begun,"),
    (timetable, "min(table.until(begun), begun + timedelta(hours=shift_hours))", "table.until(begun)"),
    (prove, "elif now < base.begun - CLOCK:", "elif False:"),
    (prove, "m.hours > base.hour_meter + METER_H and m.standing.furthest_seq < base.opened_seq", "False"),
    (prove, "elif m.hours > hour:", "elif False:"),
    (prove, "not asks or asks in (cleared.begun_by, cleared.signed_by)", "True"),
    (prove, "asks in (cleared.begun_by, cleared.signed_by)", "asks in (base.begun_by, base.signed_by)"),
    (prove, "if s.limited and s.accepted_at is None:", "if False:"),
    (prove, "elif s.accepted_at is not None and m.timetable.until(s.accepted_at) < now:", "elif False:"),
    (prove, "elif m.timetable.until(word.at) < now:", "elif False:"),
    (prove, "[*m.standing.together, *own]", "[*own]"),
    (prove, "[*m.standing.together, *own]", "[*m.standing.together]"),
    (timetable, "if timedelta() < s.begins - at <= EARLY", "if timedelta() < s.begins - at"),
    (timetable, "            return shift.ends\n", "            return shift.ends + self.usual\n"),
]  # fmt: skip


def mutated(module: types.ModuleType, old: str, new: str) -> Judge:
    """The judge of a copy of the code with one change."""
    copies: dict[str, types.ModuleType] = {}
    kept = sys.modules[timetable.__name__]
    for each in (timetable, prove):
        source = Path(str(each.__file__)).read_text()
        if each is module:
            assert source.count(old) >= 1, old
            source = source.replace(old, new)
        made = types.ModuleType(each.__name__)
        made.__dict__["NOTHING"] = NOTHING
        sys.modules[made.__name__ + "_copy"] = made
        made.__dict__["__name__"] = made.__name__ + "_copy"
        exec(compile(source, str(each.__file__), "exec"), made.__dict__)
        copies[each.__name__] = made
        if each is timetable:
            sys.modules[timetable.__name__] = made  # so that the copy of the other takes this one
    sys.modules[timetable.__name__] = kept
    judge: Judge = copies[prove.__name__].clearance
    table = copies[timetable.__name__]

    def told(m: Machine, now: datetime, who: str) -> Any:
        own = table.Timetable(tuple(m.timetable.shifts), m.timetable.usual)
        return judge(replace(m, timetable=own), now, who)

    return told if module is timetable else judge


@pytest.mark.parametrize(("module", "old", "new"), MUTANTS, ids=lambda x: str(getattr(x, "__name__", x))[-40:])
def test_a_premise_taken_out_is_noticed(
    cases: list[Case], module: types.ModuleType, old: str, new: str
) -> None:  # fmt: skip
    assert wrongly(mutated(module, old, new), cases), "it clears nothing wrongly without it"


# --- the code around it: in a copy, against the histories and the attacks

AROUND: list[tuple[str, str, str]] = [
    ("core/machine/event.py", "case WorkedOn(what=done):", "case WorkedOn(what=done) if False:"),
    ("core/machine/event.py", "before is not None and _is(before) != _is(filed)", "False"),
    ("core/machine/event.py", "return f.model_id, f.options, tuple(sorted(f.own_limits.items())), f.active", "return f.model_id, f.options, f.active"),
    ("core/clearance/unseen.py", "if last.get(u.checkpoint, 0) < u.seq:", "if False:"),
    ("core/machine/state.py", "[*heads, *_last_signed(key, signed)]", "[*heads]"),
    ("core/inspection/hear.py", "options = (pins.options | self.opened.options)", "options = self.opened.options"),
    ("service/procedure/run.py", "heard.look.pins.options, answers", "heard.look.opened.options, answers"),
    ("service/procedure/run.py", "now = max([here.now, *(e.time for e in entries)])", "now = here.now"),
    ("service/procedure/run.py", "left_running = None if until is not None else still_running(engine, s.id, entries)", "left_running = None"),
    ("service/procedure/run.py", "driver = driver_of(named.entries) or asks", "driver = named.entries[0].by"),
    ("core/procedure/outcome.py", "case Remarked(colour=Colour.RED, gauge=gauge, note=note):", "case Remarked(colour=Colour.RED, gauge=gauge, note=note) if False:"),
    ("core/procedure/outcome.py", "at is not None and step.id not in answered and not told", "False"),
    ("core/procedure/outcome.py", "at is not None and stands_against(step, outcome)", "False"),
    ("service/log/incoming.py", "entry.stale and isinstance(entry.what, GIVES)", "False"),
    ("core/defect/settle.py", "if act.stale:", "if False:"),
    ("service/log/hands.py", "if told.by == entry.by:", "if False:"),
    ("service/log/incoming.py", "if heard.look.abandoned is not None:", "if False:"),
    ("service/log/incoming.py", "lapsed(Status.WALKING, begun, self.here.now) is not Status.WALKING", "False"),
    ("service/inspection/look.py", "saw = knew if knew and await log_store.hash_at", "saw = knew if True or await log_store.hash_at"),
    ("service/machine/file.py", "not mine or found is None or table.until(found.at) < here.now", "False"),
    ("core/inspection/hear.py", "if (shift := self.timetable.shift_of(first.time)) is not None:", "if (shift := None) is not None:"),
    ("core/procedure/state.py", "why = self.gate.no_work or (NOTHING if self.gate.may else self.gate.why)", "why = NOTHING"),
    ("service/log/hands.py", "if not await store.pin_given(", "if False and not await store.pin_given("),
    ("service/log/hands.py", "set_at is not None and set_at > latest", "False"),
    ("service/log/hands.py", "        check_putting_right(what)\n", "        pass\n"),
    ("core/clearance/prove.py", "    if shared:\n", "    if False:\n"),
    ("core/clearance/prove.py", "(p for p in m.standing.permits if p.by == asks)", "(p for p in m.standing.permits)"),
    ("service/log/hands.py", "if _under_way(p, entry, unit)", "if False"),
    ("core/clearance/prove.py", "now > until or now < permit.at - CLOCK", "False"),
    ("core/clearance/prove.py", "if isinstance(x, Unproven) and x.key == \"unseen\"]", "if False]"),
    ("core/machine/putting_right.py", "if not set(h.entries) <= permit.saw:", "if False:"),
    ("core/machine/putting_right.py", "if permit.role not in h.by:", "if False:"),
    ("core/machine/putting_right.py", "if permit.place and not h.moved:", "if False:"),
    ("core/machine/putting_right.py", "        if not h.by:\n", "        if False:\n"),
    ("core/procedure/state.py", "        if self.gate.cure:\n", "        if False:\n"),
    ("api/grading/routes.py", "    await judge_all(shop, at)\n", "    pass\n"),
]  # fmt: skip


@pytest.mark.skipif(not DEEP, reason="a copy of the product for each: make test-deep")
@pytest.mark.parametrize(("file", "old", "new"), AROUND)
def test_the_code_around_it_changed_is_noticed(tmp_path: Path, file: str, old: str, new: str) -> None:
    copy = tmp_path / "src"
    shutil.copytree(ROOT / "src", copy, ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    source = (copy / "jutrel" / file).read_text()
    assert source.count(old) == 1, (file, old)
    (copy / "jutrel" / file).write_text(source.replace(old, new))
    tests = ["tests/clearance/test_histories.py", "tests/clearance/test_attacks.py", "tests/core/test_run.py"]
    env = {**os.environ, "PYTHONPATH": str(copy), "JUTREL_DEEP": ""}
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:xdist", *tests]
    done = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True)
    assert done.returncode == 1, done.stdout[-800:]


def test_there_are_forty_of_them() -> None:
    assert len(MUTANTS) + len(AROUND) >= 40
    for file, old, _ in AROUND:
        assert (ROOT / "src" / "jutrel" / file).read_text().count(old) == 1, (file, old)
