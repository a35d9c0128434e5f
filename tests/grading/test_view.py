"""What cannot be seen from the seat: by sector, from mirrors, cameras, their screen and glass."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jutrel.core.grading.combine import combine
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.item import Item
from jutrel.core.grading.view import View, arcs_of, view_of, width
from jutrel.core.inspection.finding import Finding
from jutrel.core.machine.model import Model, walk_of
from jutrel.core.wording import NOTHING
from tests.grading.book import CATALOG, MODELS

EXCAVATOR = MODELS["crawler-excavator"]
BOTH = frozenset({"side-camera", "rear-camera"})


def item(checkpoint: str, mode: str = "broken", grade: Grade = Grade.LIMIT, put_right: str | None = None) -> Item:
    at = datetime(2026, 3, 2, tzinfo=UTC)
    finding = Finding(mode, {}, put_right=put_right)
    return Item(
        checkpoint, checkpoint, "", finding, grade, NOTHING, (), (), None, "", (), "ana", at, 1, 1, False, defect="d"
    )


def lost(*items: Item, model: Model = EXCAVATOR, options: frozenset[str] = BOTH) -> View | None:
    return view_of(walk_of(model, options), items)


def worst(*items: Item, options: frozenset[str] = BOTH) -> Grade:
    walk = walk_of(EXCAVATOR, options)
    said = [x for rule in CATALOG.rulebook.combinations if rule.unseen_deg and (x := combine(rule, items, walk))]
    assert len(said) <= 1
    return said[0].grade if said else Grade.SOUND


def test_a_mirror_is_missed_only_where_nothing_else_shows_the_same() -> None:
    without = lost(item("mirror-left"), options=frozenset())
    assert without
    assert without.lost == ((210, 250),)
    assert [str(s) for s in without.sides] == ["behind left"]
    assert lost(item("mirror-left")) is None, "both cameras show what it showed"
    assert lost(item("camera-rear")) is None, "three mirrors show what it showed"
    more = lost(item("mirror-left"), item("camera-left"))
    assert more
    assert more.lost == ((220, 250),)


def test_a_dead_screen_takes_all_its_cameras() -> None:
    view = lost(item("camera-screen", "inoperative"))
    assert view
    assert {a.checkpoint for a in view.aids if a.blind} == {"camera-left", "camera-right", "camera-rear"}
    # Without cameras there is nothing on it to lose.
    assert lost(item("camera-screen", "inoperative"), options=frozenset()) is None


@pytest.mark.parametrize(
    ("items", "grade"),
    [
        # "Limit with a guide person; a whole side lost: Hold" (common practice).
        ((item("mirror-right"), item("camera-right")), Grade.HOLD),
        ((item("mirror-left"), item("camera-left")), Grade.LIMIT),
        ((item("glass-front"),), Grade.HOLD),
        # A window that does not latch can be looked through; a chip is no loss; what was wiped is gone.
        ((item("glass-front", "inoperative"),), Grade.SOUND),
        ((item("mirror-right", grade=Grade.MEND),), Grade.SOUND),
        ((item("mirror-right", "dirty", Grade.WATCH, "wiped"),), Grade.SOUND),
        ((item("hydraulic-level", "broken"),), Grade.SOUND),
    ],
)
def test_what_is_lost_limits_and_a_whole_side_holds(items: tuple[Item, ...], grade: Grade) -> None:
    assert worst(*items) is grade


@pytest.mark.parametrize("model", [m for m in MODELS.values() if "cab" in m.family.traits], ids=lambda m: m.id)
def test_on_every_machine_everything_out_is_a_hold_and_no_more_is_never_better(model: Model) -> None:
    walk = walk_of(model, frozenset(model.options))
    aids = [c.id for c in walk.checkpoints if c.sees]
    assert len(aids) >= 3
    before = 0
    for n in range(1, len(aids) + 1):
        view = view_of(walk, [item(a) for a in aids[:n]])
        total = sum(width(arc) for arc in view.lost) if view else 0
        assert total >= before
        before = total
    assert view
    assert view.seen == ()
    assert view.widest >= 75


@given(st.frozensets(st.integers(0, 359), min_size=1))
def test_arcs_cover_these_degrees_and_no_others(degrees: frozenset[int]) -> None:
    arcs = arcs_of(degrees)
    covered = [d % 360 for a in arcs for d in range(a[0], a[0] + width(a))]
    assert sorted(covered) == sorted(degrees)
