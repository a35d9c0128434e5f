"""A machine's file as a log: order and repetition do not matter, hours go on, changes are told."""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jutrel.catalog import catalog
from jutrel.core.errors import BadInput
from jutrel.core.machine.file import (
    Filed,
    FileEntry,
    MeterReplaced,
    Pictured,
    check_filed,
    file_news,
    fold_file,
    with_own_limits,
)

MODEL = catalog().models["tolvane-e24"]
START = datetime(2026, 5, 4, 6, 0, tzinfo=UTC)


def filed(name: str, options: frozenset[str] = frozenset(), **own: float | str) -> Filed:
    return Filed(name, MODEL.id, options, own, 1)


payloads = st.one_of(
    st.builds(filed, st.sampled_from(["EX-1", "EX-2"]), st.frozensets(st.sampled_from(MODEL.options))),
    st.builds(lambda a, b: MeterReplaced(max(a, b), min(a, b), "x"), st.floats(0, 9000), st.floats(0, 9000)),
    st.builds(Pictured, st.uuids().map(str)),
)


@given(st.lists(payloads, max_size=12), st.integers(0, 1000))
def test_order_and_repetition_do_not_matter(what: list[Filed | MeterReplaced | Pictured], seed: int) -> None:
    log = [FileEntry(f"{i:03}", "p", START + timedelta(hours=i), w) for i, w in enumerate(what)]
    mixed = log + log[:3]
    random.Random(seed).shuffle(mixed)
    file = fold_file(log)
    assert fold_file(mixed) == file
    first = next((i for i, w in enumerate(what) if isinstance(w, Filed)), None)
    if first is None:
        assert file is None
        return
    assert file is not None
    assert file.filed == [w for w in what if isinstance(w, Filed)][-1]
    meters = [w for w in what[first:] if isinstance(w, MeterReplaced)]
    assert file.meter_offset == pytest.approx(sum(m.last - m.first for m in meters), abs=0.01)
    assert file.meter_offset >= 0


def test_news_names_what_was_fitted_or_altered() -> None:
    kinds = [x.id for x in MODEL.family.limits if any(x.id in c.limits for c in MODEL.family.checkpoints)]
    sag = next(k for k in kinds if MODEL.family.limits[[x.id for x in MODEL.family.limits].index(k)].unit)
    log = [
        FileEntry("1", "p", START, filed("EX-1")),
        FileEntry("2", "p", START + timedelta(hours=2), filed("EX-1", frozenset({"positioning"}))),
        FileEntry("3", "p", START + timedelta(hours=4), filed("EX-1", frozenset({"positioning"}), **{sag: 30.0})),
    ]
    assert file_news(log, START + timedelta(hours=5), MODEL.family) == ()
    altered = file_news(log, START + timedelta(hours=3), MODEL.family)
    assert {c.checkpoint for c in altered} == {c.id for c in MODEL.family.checkpoints if sag in c.limits}
    both = {c.checkpoint: c.says for c in file_news(log, START + timedelta(hours=1), MODEL.family)}
    assert set(both) == {c.checkpoint for c in altered} | {
        c.id for c in MODEL.family.checkpoints if c.option == "positioning"
    }
    assert "fitted since" in both["masts"]
    assert file_news(log, START - timedelta(hours=1), MODEL.family) == ()  # it was not there yet


def test_own_figures_stand_over_the_models() -> None:
    for kind in MODEL.family.limits:
        value = (kind.low + kind.high) / 2 if kind.unit else "as the plate says"
        check_filed(filed("EX-1", **{kind.id: value}), MODEL)
        own = with_own_limits(MODEL, {kind.id: value})
        assert own.limits[kind.id] == value
        assert {k: v for k, v in own.limits.items() if k != kind.id} == {
            k: v for k, v in MODEL.limits.items() if k != kind.id
        }
        for wrong in [kind.low - 1, kind.high + 1, float("nan"), "much"] if kind.unit else [3.0, "  "]:
            with pytest.raises(BadInput, match=kind.name.split("(")[0].strip()):
                check_filed(filed("EX-1", **{kind.id: wrong}), MODEL)  # type: ignore[arg-type]
