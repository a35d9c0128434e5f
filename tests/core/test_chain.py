"""The chain finds every single change: of a field, a row gone, swapped, put in, or a log cut short."""

from __future__ import annotations

from dataclasses import fields, replace
from datetime import timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jutrel.core.log.chain import START as FIRST
from jutrel.core.log.chain import chained, hash_of, verify
from jutrel.core.log.entry import Entry, Pins
from jutrel.core.people import Role
from tests.walks import START, core, walked


def made() -> list[Entry]:
    out: list[Entry] = []
    head = FIRST
    for seq, e in enumerate(core(walked())[:25], 1):
        stamped = replace(e, received_at=START, heard_at=START, pen="p", device="d", sent_by=e.by, offset_ms=3)
        out.append(chained(stamped, seq, head))
        head = out[-1].hash
    return out


LOG = made()
HEAD = (len(LOG), LOG[-1].hash)
OTHER = {
    "role": Role.MECHANIC,
    "offset_ms": 4,
    "what": LOG[3].what,
    "replaces": frozenset({"x"}),
    "pins": Pins("other"),
    "seq": 7,
    **{name: START + timedelta(seconds=1) for name in ("at", "received_at", "heard_at")},
}


def test_a_whole_log_is_whole() -> None:
    assert verify(LOG, HEAD) is None
    assert verify([]) is None


@given(st.integers(0, len(LOG) - 1), st.sampled_from([f.name for f in fields(Entry)]))
def test_any_field_changed_is_found(at: int, field: str) -> None:
    entry = LOG[at]
    value = OTHER.get(field, str(getattr(entry, field)) + "x")
    if value == getattr(entry, field):
        return
    broken = verify([*LOG[:at], replace(entry, **{field: value}), *LOG[at + 1 :]], HEAD)
    assert broken is not None
    assert broken.seq in (at + 1, at + 2)


@given(st.integers(0, len(LOG) - 1), st.integers(0, len(LOG) - 1))
def test_gone_swapped_or_put_in_is_found(a: int, b: int) -> None:
    assert verify([*LOG[:a], *LOG[a + 1 :]], HEAD) is not None
    if a != b:
        swapped = LOG[:]
        swapped[a], swapped[b] = swapped[b], swapped[a]
        assert verify(swapped, HEAD) is not None
    put_in = chained(replace(LOG[b], id="new"), a + 1, LOG[a - 1].hash if a else FIRST)
    assert verify([*LOG[:a], put_in, *LOG[a:]], HEAD) is not None


def test_a_log_rewritten_from_an_entry_on_is_found_by_its_head() -> None:
    """Whoever recomputes the hashes that follow is found by the head that is noted apart from the log."""
    log = LOG[:5]
    head = LOG[4].hash
    for e in LOG[5:]:
        log.append(chained(replace(e, by="other"), len(log) + 1, head))
        head = log[-1].hash
    assert verify(log) is None
    assert verify(log, HEAD) is not None


def test_the_hash_does_not_depend_on_how_numbers_are_stored() -> None:
    assert hash_of(LOG[0]) == LOG[0].hash
    with pytest.raises(AttributeError):
        LOG[0].by = "x"  # type: ignore[misc]
