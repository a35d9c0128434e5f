"""The chain finds every single change: of a field, a row gone, swapped, put in, or a log cut short."""

from __future__ import annotations

import hashlib
import json
from dataclasses import fields, replace
from datetime import timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jutrel.core.inspection.finding import Conditions, Finding, PutRight
from jutrel.core.log.chain import START as FIRST
from jutrel.core.log.chain import canonical, chained, hash_of, verify
from jutrel.core.log.codec import encode
from jutrel.core.log.entry import Entry, Pins
from jutrel.core.log.kinds import all_kinds, kind_of
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


NEVER = {
    "answered": {"findings": [], "reason": "", "amends": ""},
    "filed": {"note": "", "active": True, "hours": None},
    "measured": {"reason": "", "amends": "", "put_right": None},
    "noted": {"checkpoint": ""},
    "opened": {"options": [], "purpose": "pre-start"},
    "undone": {"reason": ""},
    "Entry": {
        "replaces": [], "offset_ms": None, "role": "operator", "pen": "", "device": "", "sent_by": "", "pins": None,
    },
    "Pins": {"edition": "", "options": [], "own_limits": {}, "changed": {}, "open_at": []},
    "Finding": {"attributes": {}, "note": "", "put_right": None},
    "PutRight": {"amount": ""},
    "Conditions": {
        "air_c": 15.0, "pitch_deg": 0.0, "roll_deg": 0.0, "dark": False, "rain": False, "people_on_foot": False,
        "shift_hours": 10.0, "moved": False, "serviced": False, "transported": False, "frost": False,
        "gap_left": None, "gap_right": None, "gap_rear": None, "gap_front": None,
    },
}  # fmt: skip
"""Defaults stand in no hash and in no row: another value for one would change what was written long ago."""


@pytest.mark.parametrize("name", sorted(NEVER))
def test_a_default_never_changes(name: str) -> None:
    kinds = {k.name: k.payload for k in all_kinds()}
    kinds |= {c.__name__: c for c in (Entry, Pins, Finding, PutRight, Conditions)}
    now = {f.name: f.default_factory() if callable(f.default_factory) else f.default for f in fields(kinds[name])}
    assert {key: encode(now[key]) for key in NEVER[name]} == NEVER[name]


def test_a_field_that_a_kind_gets_later_changes_no_hash_and_old_forms_are_still_whole() -> None:
    """What is left at its default is in no hash; a chain of the first form, which held everything, verifies too."""
    assert b'"amends"' not in canonical(LOG[3])
    head, old = FIRST, []
    for e in LOG:
        linked = replace(e, prev=head, hash="")
        everything = {**encode(linked), "kind": kind_of(e.what).name}
        text = json.dumps(everything, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
        head = hashlib.sha256(text.encode()).hexdigest()
        old.append(replace(linked, hash=head))
    assert verify(old) is None
    assert verify([*old[:5], replace(old[5], by="somebody else"), *old[6:]]) is not None
