"""A look's fold: the set of entries alone decides, in whatever order and however often they come."""

from __future__ import annotations

import random
from dataclasses import replace

from hypothesis import given, settings, target
from hypothesis import strategies as st

from jutrel.catalog.compile import edition_of
from jutrel.core.defect.settle import Court
from jutrel.core.inspection.hear import Case, Heard, hear, hear_more
from jutrel.core.inspection.look import Status, fold_look
from jutrel.core.log.entry import Entry
from jutrel.core.people import Role
from tests.conftest import CATALOG
from tests.deep import DEEP
from tests.walks import DAG, EDITION, MIRA, Plain, core, defect, entry, heard, opening

OSK = "0d000000-0000-4000-8000-000000000002"
POINTS = ("boom", "pools", "door", "teeth", "swing-pin")
CRACK = defect("crack", crack_where="parent")
ANSWERS = {
    "boom": CRACK,
    "teeth": defect("wear", wear="limit"),
    "door": defect("bend", bend="dent"),
    "pools": defect("hazard", person_near="pool"),
}


RUNS = edition_of(CATALOG, EDITION.model)
STEPS = ("oil-pressure", "seat-switch", "belt", "fit", "horn-test", "lock-test", "sounds-right", "people-clear")
KINDS = (*["answered"] * 12, *["undone"] * 4, *["noted"] * 2, *["photographed"] * 2, "signed")


@st.composite
def logs(draw: st.DrawFn) -> list[Plain]:
    conditions = {c: draw(st.booleans()) for c in ("dark", "rain", "frost", "moved", "serviced")}
    purpose = draw(st.sampled_from(["pre-start", "pre-start", "once-over"]))
    made = [entry(0, "opened", opening(conditions=conditions, purpose=purpose))]
    for number in range(1, draw(st.integers(1, 22))):
        kind = draw(st.sampled_from(KINDS))
        by, role = draw(st.sampled_from([(MIRA, "operator"), (OSK, "operator"), (DAG, "mechanic")]))
        point = draw(st.sampled_from(POINTS))
        there = [e["id"] for e in made if e["what"].get("checkpoint") == point and e["kind"] == "answered"]
        seen = [i for i in there if draw(st.booleans())]
        if draw(st.integers(0, 7)) == 0:
            seen.append(entry(number + draw(st.integers(1, 2)), "noted", {"text": ""})["id"])  # of a clock gone wrong
        match kind:
            case "answered":
                answer = draw(st.sampled_from([{"answer": "sound"}, {"answer": "unseen"}, ANSWERS.get(point, CRACK)]))
                reason = draw(st.sampled_from(["", "looked again"]))
                what = {"checkpoint": point, "reason": reason, **answer}
                made.append(entry(number, "answered", what, by, role, replaces=seen))
            case "undone":
                target = draw(st.sampled_from(made[-3:]))
                if draw(st.booleans()):
                    by, role = target["by"], target["role"]
                what = {"target": target["id"], "reason": draw(st.sampled_from(["", "slip"]))}
                made.append(entry(number, "undone", what, by, role))
            case "signed":
                covers = [e["id"] for e in made if e["kind"] != "signed"]
                made.append(entry(number, "signed", {"covers": covers, "outcome": "ready"}, by, role))
            case "photographed":
                photo = entry(number, "noted", {"text": ""})["id"]
                made.append(entry(number, "photographed", {"checkpoint": point, "photo": photo}, by, role))
            case _:
                made.append(entry(number, "noted", {"text": "t", "checkpoint": point}, by, role))
    return made


def told(entries: list[Entry]) -> tuple[object, ...]:
    out = hear(Case("look", EDITION, entries))
    state = {c: [e.id for e in heads] for c, heads in out.look.heads.items()}
    return out.look.status, state, out.look.notes, out.look.photos, out.defects, out.verdict


@given(logs(), st.randoms(use_true_random=False))
@settings(max_examples=150 if DEEP else 25, deadline=None)
def test_order_and_repetition_change_nothing(log: list[Plain], rng: random.Random) -> None:
    entries = core(log)
    expected = told(entries)
    shuffled = entries + [rng.choice(entries) for _ in range(len(entries))]
    rng.shuffle(shuffled)
    assert told(shuffled) == expected


def known(out: Heard) -> tuple[object, ...]:
    """All that a case comes to, with what it would take of each person to clear what is reported."""
    people = [(MIRA, Role.OPERATOR), (OSK, Role.OPERATOR), (DAG, Role.MECHANIC)]
    court = out.court
    takes = {
        (r.id, by): court.clear_for(r, by, role, "look", r.at, undo)
        for rs in court.reports.values()
        for r in rs
        for by, role in people
        for undo in (False, True)
    }
    alive = {i: court.alive(e) for i, e in court.entries.items()}
    look = replace(out.look, heads=dict(out.look.heads))
    return look, list(out.look.heads), out.walk, out.defects, out.verdict, court.settled, court.ignored, takes, alive


@given(logs(), logs(), st.randoms(use_true_random=False))
@settings(max_examples=400 if DEEP else 80, deadline=None)
def test_one_more_entry_comes_to_what_all_at_once_come_to(
    log: list[Plain], other: list[Plain], r: random.Random
) -> None:
    """Also where entries come late, and with reports of another look that this one's entries name or do not."""
    before = [{**e, "stream": "earlier", "id": e["id"][:-4] + "abcd"} for e in other if e["kind"] == "answered"]
    earlier = Case("earlier", EDITION, core(before)).reports
    for e in log:
        there = [b.entry for b in earlier if b.checkpoint == e["what"].get("checkpoint")]
        e["replaces"] = e["replaces"] + [b for b in there if r.random() < 0.3]
    if r.random() < 0.3:
        r.shuffle(log)
    entries = core(log)
    plain = 0
    heard_so_far = hear(Case("look", EDITION, entries[:1], earlier=earlier))
    taken, alone = heard_so_far, hear(heard_so_far.case.alone())
    for count, e in enumerate(entries[1:], 2):
        anew = hear(Case("look", EDITION, entries[:count], earlier=earlier))
        # Heard as a whole with what was graded before, whatever the entry says: beside others' words and alone.
        taken = hear(taken.case.with_entries([e]), taken)
        alone = hear(taken.case.alone(), alone)
        assert known(taken) == known(anew)
        assert taken.case.reports == anew.case.reports
        assert known(alone) == known(hear(Case("look", EDITION, entries[:count])))
        more = hear_more(heard_so_far, e)
        if more is not None:
            plain += 1
            assert known(more) == known(anew)
            assert (more.case.reports, more.case.place, more.case.hours) == (
                anew.case.reports, anew.case.place, anew.case.hours,
            )  # fmt: skip
        heard_so_far = more or anew
    target(plain)


@st.composite
def runs(draw: st.DrawFn) -> list[Plain]:
    """Words of a run in any order: steps done, failed, let go, skipped; the engine; red; words taken back."""
    made = [entry(0, "opened", opening(purpose="run"))]
    for number in range(1, draw(st.integers(2, 20))):
        by, role = draw(st.sampled_from([(MIRA, "operator"), (OSK, "operator"), (DAG, "mechanic")]))
        kind = draw(st.sampled_from(["stepped"] * 8 + ["engine"] * 3 + ["remarked", "undone", "noted"]))
        seen = [e["id"] for e in made[1:] if draw(st.integers(0, 4)) == 0]
        what: Plain = {"text": "t"}
        if kind == "stepped":
            outcome = draw(st.sampled_from(["done", "done", "done", "skipped", "failed", "lost"]))
            what = {
                "step": draw(st.sampled_from(STEPS)),
                "outcome": outcome,
                "reason": draw(st.sampled_from(["", "r"])),
            }
        elif kind == "engine":
            what = {"state": draw(st.sampled_from(["cranking", "running", "stopped"]))}
        elif kind == "remarked":
            what = {"colour": draw(st.sampled_from(["red", "amber"])), "gauge": "oil-pressure", "sense": "gauge"}
        elif kind == "undone":
            what = {"target": draw(st.sampled_from(made))["id"], "reason": "slip"}
        made.append(entry(number, kind, what, by, role, replaces=[] if kind == "undone" else seen))
    return made


@given(runs(), st.randoms(use_true_random=False))
@settings(max_examples=600 if DEEP else 120, deadline=None)
def test_one_more_word_of_a_run_comes_to_what_all_at_once_come_to(log: list[Plain], r: random.Random) -> None:
    """Lost so: a plain tap that quietly takes along a report of a step that was never done."""
    if r.random() < 0.3:
        r.shuffle(log)
    entries = core(log)
    plain = 0
    so_far = taken = hear(Case("look", RUNS, entries[:1]))
    for count, e in enumerate(entries[1:], 2):
        anew = hear(Case("look", RUNS, entries[:count]))
        taken = hear(taken.case.with_entries([e]), taken)
        assert known(taken) == known(anew)
        more = hear_more(so_far, e)
        if more is not None:
            plain += 1
            assert known(more) == known(anew)
            assert more.case.reports == anew.case.reports
        so_far = more or anew
    target(plain)


@given(logs())
@settings(max_examples=150 if DEEP else 25, deadline=None)
def test_whatever_is_done_a_hold_needs_a_right_to_go(log: list[Plain]) -> None:
    """Every report of Mend or worse is open, or an entry that had seen it set it aside by a row of the table."""
    entries = core(log)
    out = hear(Case("look", EDITION, entries))
    court = out.court
    for report in out.case.reports:
        settled = court.settled.get(report.id)
        if report.grade < 2:
            continue
        if settled is None:
            assert any(report in d.reports for d in out.defects)
            continue
        act = court.entries[settled.act]
        saw = report.entry in court.seen(act) or getattr(act.what, "target", "") == report.entry
        assert saw
        assert act.role == "mechanic" or act.by == report.by
        if settled.ground == "release" and report.grade == 4 and not settled.pending:
            others = [e for e in entries if hasattr(e.what, "covers") and act.id in e.what.covers and e.by != act.by]
            assert others


def test_undo_and_undo_of_the_undo() -> None:
    log = [
        entry(0, "opened", opening()),
        entry(1, "answered", {"checkpoint": "door", "answer": "sound"}),
    ]
    again = entry(2, "answered", {"checkpoint": "door", "answer": "unseen"}, replaces=[log[1]["id"]])
    undo = entry(3, "undone", {"target": again["id"]})
    back = entry(4, "undone", {"target": undo["id"]})

    def at_door(*more: Plain) -> list[str]:
        return [e.id for e in heard([*log, again, *more]).look.heads["door"]]

    assert at_door() == [again["id"]]
    assert at_door(undo) == [log[1]["id"]]
    assert at_door(undo, back) == [again["id"]]
    # Somebody else's entry is not mine to take back, and an opening is nobody's.
    other = entry(5, "undone", {"target": again["id"], "reason": "r"}, by=OSK)
    assert at_door(other) == [again["id"]]
    gone = heard([*log, entry(6, "undone", {"target": log[0]["id"], "reason": "r"})])
    assert gone.look.opening is not None


def test_two_that_have_not_seen_each_other_both_stand_and_the_worse_counts() -> None:
    mine = entry(1, "answered", {"checkpoint": "boom", **CRACK})
    theirs = entry(2, "answered", {"checkpoint": "boom", "answer": "sound"}, by=OSK)
    out = heard([entry(0, "opened", opening()), mine, theirs])
    assert out.look.differ == ("boom",)
    assert out.verdict.outcome == "held"
    # One who has seen both answers: an operator's 'sound' does not count, a mechanic's does.
    both = [mine["id"], theirs["id"]]
    again = entry(3, "answered", {"checkpoint": "boom", "answer": "sound"}, by=OSK, replaces=both)
    tried = heard([entry(0, "opened", opening()), mine, theirs, again])
    assert tried.verdict.outcome == "held"
    assert [i.entry for i in tried.verdict.ignored] == [again["id"]]
    worse = entry(4, "answered", {"checkpoint": "boom", **CRACK}, by=OSK, replaces=both)
    joined = heard([entry(0, "opened", opening()), mine, theirs, worse])
    assert joined.look.differ == ()
    assert [e.id for e in joined.look.heads["boom"]] == [worse["id"]]
    assert len(joined.defects[0].reports) == 2


def test_a_circle_of_entries_takes_nothing_away() -> None:
    """Two made to replace each other, and undos of each other: a Hold in them stands."""
    a, b = (
        entry(1, "answered", {"checkpoint": "boom", **CRACK}),
        entry(2, "answered", {"checkpoint": "boom", "answer": "sound"}),
    )
    a["replaces"], b["replaces"] = [b["id"]], [a["id"]]
    assert heard([entry(0, "opened", opening()), a, b]).verdict.outcome == "held"
    u, v = entry(3, "undone", {"target": ""}), entry(4, "undone", {"target": ""})
    u["what"]["target"], v["what"]["target"] = v["id"], u["id"]
    u["what"]["reason"] = v["what"]["reason"] = "r"
    fold_look(core([a, u, v]), Court(core([a, u, v]), ()))  # ends


def test_entries_before_the_opening_count() -> None:
    """A Hold whose opening never arrives is a Hold."""
    out = heard([entry(1, "answered", {"checkpoint": "boom", **CRACK})])
    assert out.look.opening is None
    assert out.look.status is Status.WALKING
    assert [d.grade.word for d in out.defects] == ["hold"]
