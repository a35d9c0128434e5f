"""A machine's file and its meter line: hours go on, wrong readings are struck, changes are told."""

from __future__ import annotations

import random
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jutrel.catalog import catalog
from jutrel.core.errors import BadInput
from jutrel.core.inspection.kinds import Opened
from jutrel.core.log.entry import Entry
from jutrel.core.machine.file import (
    Filed,
    FilePayload,
    MeterCorrected,
    MeterReplaced,
    Pictured,
    check_filed,
    file_news,
    fold_file,
    with_own_limits,
)
from jutrel.core.machine.meter import meter_of

MODEL = catalog().models["tolvane-e24"]
START = datetime(2026, 5, 4, 6, 0, tzinfo=UTC)


def filed(name: str, options: frozenset[str] = frozenset(), **own: float | str) -> Filed:
    return Filed(name, MODEL.id, options, own, 1)


def log(*what: FilePayload | Opened, every: timedelta = timedelta(hours=1)) -> list[Entry]:
    return [Entry(f"{i:03}", "ex", "file.ex", "p", START + i * every, w, seq=i + 1) for i, w in enumerate(what)]


payloads = st.one_of(
    st.builds(filed, st.sampled_from(["EX-1", "EX-2"]), st.frozensets(st.sampled_from(MODEL.options))),
    st.builds(lambda a, b: MeterReplaced(max(a, b), min(a, b), "x"), st.floats(0, 9000), st.floats(0, 9000)),
    st.builds(Pictured, st.uuids().map(str)),
)


@given(st.lists(payloads, max_size=12), st.integers(0, 1000))
def test_order_and_repetition_do_not_matter(what: list[FilePayload], seed: int) -> None:
    entries = log(*what)
    mixed = entries + entries[:3]
    random.Random(seed).shuffle(mixed)
    assert fold_file(mixed) == fold_file(entries)
    assert meter_of(mixed) == meter_of(entries)
    first = next((w for w in what if isinstance(w, Filed)), None)
    file = fold_file(entries)
    if first is None:
        assert file is None
        return
    assert file is not None
    assert file.filed == [w for w in what if isinstance(w, Filed)][-1]
    meters = [w for w in what if isinstance(w, MeterReplaced)]
    assert meter_of(entries).offset == pytest.approx(sum(m.last - m.first for m in meters), abs=0.01)


def test_a_wrong_reading_is_struck_and_the_right_ones_hold_again() -> None:
    """62140 for 6214.0: until it is corrected the machine is far over ten hours; after, nothing is left of it."""
    entries = log(filed("EX-1"), Opened(6210.0), Opened(62140.0), Opened(6216.5))
    assert meter_of(entries).hours == 62140.0
    struck = [*entries, *log(*[filed("x")] * 4, MeterCorrected("002", None, "misread"))[4:]]
    assert meter_of(struck).hours == 6216.5
    right = [*entries, *log(*[filed("x")] * 4, MeterCorrected("002", 6214.0, "one digit too many"))[4:]]
    line = meter_of(right)
    assert line.hours == 6216.5
    assert line.hours_at(START + timedelta(hours=2)) == 6214.0
    assert line.hours_of(entries[2]) == 6214.0
    assert meter_of(struck).hours_of(entries[2]) is None


@given(st.permutations(range(4)))
def test_a_reading_that_comes_late_belongs_to_the_meter_of_its_time(order: Sequence[int]) -> None:
    """Read before the meter was replaced, delivered after: the hours are not counted twice."""
    what = [filed("EX-1"), Opened(4308.0), MeterReplaced(4310.2, 0.0, "dead"), Opened(1.5)]
    made = log(*what)
    arrived = [
        Entry(e.id, e.machine, e.stream, e.by, e.at, e.what, seq=n + 1) for n, e in enumerate(made[i] for i in order)
    ]
    line = meter_of(arrived)
    assert line.hours == pytest.approx(4311.7)
    assert {r.entry: r.total for r in line.readings}["001"] == 4308.0


def test_news_names_what_was_fitted_or_altered() -> None:
    kinds = [x.id for x in MODEL.family.limits if any(x.id in c.limits for c in MODEL.family.checkpoints)]
    sag = next(k for k in kinds if MODEL.family.limits[[x.id for x in MODEL.family.limits].index(k)].unit)
    entries = log(
        filed("EX-1"),
        filed("EX-1", frozenset({"positioning"})),
        filed("EX-1", frozenset({"positioning"}), **{sag: 30.0}),
        every=timedelta(hours=2),
    )
    assert file_news(entries, START + timedelta(hours=5), MODEL.family) == {}
    altered = file_news(entries, START + timedelta(hours=3), MODEL.family)
    assert set(altered) == {c.id for c in MODEL.family.checkpoints if sag in c.limits}
    both = file_news(entries, START + timedelta(hours=1), MODEL.family)
    assert set(both) == set(altered) | {c.id for c in MODEL.family.checkpoints if c.option == "positioning"}
    assert "fitted since" in str(both["masts"])
    assert file_news(entries, START - timedelta(hours=1), MODEL.family) == {}  # it was not there yet


def test_own_figures_stand_over_the_models() -> None:
    for kind in MODEL.family.limits:
        words = kind.choices[-1].id if kind.choices else "as the plate says"
        value = (kind.low + kind.high) / 2 if kind.unit else words
        check_filed(filed("EX-1", **{kind.id: value}), MODEL)
        own = with_own_limits(MODEL, {kind.id: value})
        assert own.limits[kind.id] == value
        assert {k: v for k, v in own.limits.items() if k != kind.id} == {
            k: v for k, v in MODEL.limits.items() if k != kind.id
        }
        for wrong in [kind.low - 1, kind.high + 1, float("nan"), "much"] if kind.unit else [3.0, "  "]:
            with pytest.raises(BadInput, match=kind.name.split("(")[0].strip()):
                check_filed(filed("EX-1", **{kind.id: wrong}), MODEL)  # type: ignore[arg-type]
