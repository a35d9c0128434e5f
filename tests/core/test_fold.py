"""The fold: the set of entries alone decides, in whatever order and however often they come."""

from __future__ import annotations

import random

from hypothesis import given, settings
from hypothesis import strategies as st

from jutrel.core.inspection.fold import Status, fold
from tests.walks import Plain, core, entry, opening

POINTS = ("stance", "pools", "door", "boom")


@st.composite
def logs(draw: st.DrawFn) -> list[Plain]:
    made = [entry(0, "opened", opening())]
    for number in range(1, draw(st.integers(1, 25))):
        kind = draw(
            st.sampled_from(["answered", "answered", "undone", "noted", "arrived", "photographed", "signed", "amend"])
        )
        point = draw(st.sampled_from(POINTS))
        match kind:
            case "answered" | "amend":
                what = {
                    "checkpoint": point,
                    "answer": draw(st.sampled_from(["sound", "unseen"])),
                    "amends": "looked again" if kind == "amend" else "",
                }
                made.append(entry(number, "answered", what))
            case "undone":
                made.append(entry(number, "undone", {"target": draw(st.sampled_from(made))["id"]}))
            case "signed":
                covers = [e["id"] for e in made if e["kind"] != "signed" and draw(st.booleans())]
                made.append(entry(number, "signed", {"covers": covers, "outcome": "ready"}))
            case "photographed":
                made.append(entry(number, "photographed", {"checkpoint": point, "photo": f"p{number}"}))
            case "noted":
                made.append(entry(number, "noted", {"text": "t", "checkpoint": point}))
            case _:
                made.append(entry(number, "arrived", {"station": "rear"}))
    return made


@given(logs(), st.randoms(use_true_random=False))
@settings(max_examples=300)
def test_order_and_repetition_change_nothing(log: list[Plain], rng: random.Random) -> None:
    entries = core(log)
    expected = fold(entries)
    shuffled = entries + [rng.choice(entries) for _ in range(len(entries))]
    rng.shuffle(shuffled)
    assert fold(shuffled) == expected


@given(logs(), st.integers(0, 30))
def test_a_part_that_arrives_again_changes_nothing(log: list[Plain], cut: int) -> None:
    entries = core(log)
    assert fold([*entries[:cut], *entries]) == fold(entries)


@given(logs())
def test_what_is_signed_stays(log: list[Plain]) -> None:
    """Entries that come after a signature change nothing unless they say that they amend."""
    signed = [*log, entry(100, "signed", {"covers": [e["id"] for e in log], "outcome": "ready"})]
    before = fold(core(signed))
    more = entry(101, "answered", {"checkpoint": "stance", "answer": "sound"})
    undo = entry(102, "undone", {"target": log[-1]["id"]})
    after = fold(core([*signed, more, undo]))
    assert after.answers == before.answers
    assert after.status is Status.SIGNED
    assert after.late == (more["id"],)
    amended = fold(
        core([*signed, entry(103, "answered", {"checkpoint": "stance", "answer": "unseen", "amends": "mud"})])
    )
    assert amended.status is Status.AMENDED
    assert amended.answers["stance"].what.answer == "unseen"  # type: ignore[union-attr]


def test_undo_and_undo_of_the_undo() -> None:
    log = [
        entry(0, "opened", opening()),
        entry(1, "answered", {"checkpoint": "door", "answer": "sound"}),
        entry(2, "answered", {"checkpoint": "door", "answer": "unseen"}),
    ]
    undo = entry(3, "undone", {"target": log[2]["id"]})
    again = entry(4, "undone", {"target": undo["id"]})
    assert fold(core([*log, undo])).answers["door"].id == log[1]["id"]
    assert fold(core([*log, undo, again])).answers["door"].id == log[2]["id"]
    # What does not exist yet cannot be taken back.
    early = entry(1, "undone", {"target": log[2]["id"]}) | {"id": log[1]["id"][:-1] + "f"}
    assert fold(core([*log, early])).answers["door"].id == log[2]["id"]


def test_entries_before_the_opening_arrives() -> None:
    rest = [entry(1, "answered", {"checkpoint": "door", "answer": "sound"})]
    assert fold(core(rest)).status is Status.EMPTY
    assert fold(core([*rest, entry(0, "opened", opening())])).status is Status.WALKING
