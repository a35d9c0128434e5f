"""The strict codec: nothing is lost on the way, nothing made up, nothing taken for what it is not."""

from __future__ import annotations

import json
from datetime import datetime
from typing import Any

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jutrel.core.edition import Edition, compiled, edition_hash, load_edition
from jutrel.core.errors import BadInput
from jutrel.core.log.codec import decode, encode, time_of
from jutrel.core.log.kinds import all_kinds, kind_named, payload_of, payload_schema
from jutrel.service.log.sent import read_sent
from tests.walks import EDITION, defect, entry, opening

ID = "019df048-dc00-7000-8000-000000000001"
GOOD: dict[str, dict[str, Any]] = {
    "opened": {**opening(("beacon",), conditions={"dark": True, "air_c": -4.0}), "purpose": "once-over"},
    "answered": {"checkpoint": "boom", **defect("crack", crack_where="weld"), "reason": "r", "amends": "a"},
    "measured": {"checkpoint": "hydraulic-level", "seen": 0.3, "oil_c": -4.0, "pitch_deg": 0.0, "roll_deg": 1.0,
                 "extensions": {"arm": 1.0}, "put_right": {"done": "Filled", "amount": "4 L"}},
    "read": {"checkpoint": "engine-oil", "reading": "engine-oil", "given": {"seen": 0.4, "look": "dark"},
             "put_right": {"done": "Filled", "amount": "2 L"}},
    "arrived": {"station": "rear"},
    "noted": {"text": 'a "quoted" § note', "checkpoint": ""},
    "photographed": {"photo": ID, "checkpoint": "boom"},
    "undone": {"target": ID, "reason": "wrong machine"},
    "signed": {"covers": [ID], "outcome": "ready"},
    "joined": {},
    "handed-over": {"note": "left track not looked at"},
    "abandoned": {"reason": "called away"},
    "acknowledged": {"checkpoint": "boom", "failure_mode": "crack", "note": ""},
    "asked": {"checkpoint": "boom", "failure_mode": "crack", "role": "supervisor", "note": "we need it at ten"},
    "accepted": {"checkpoint": "boom", "failure_mode": "crack", "reason": "one shift in the pit"},
    "isolated": {"checkpoint": "boom", "failure_mode": "crack", "energies": ["hydraulic"], "how": "lock 7"},
    "released": {"checkpoint": "boom", "failure_mode": "crack", "done": "welded", "parts": "plate"},
    "rechecked": {"release": ID},
    "filed": {"name": "EX-1", "model_id": "tolvane-e24", "options": [], "own_limits": {"sag": 30.0}, "bay": 1},
    "meter-replaced": {"last": 100.0, "first": 0.0, "why": "dead"},
    "meter-corrected": {"reading": ID, "hours": None, "why": "misread"},
    "pictured": {"photo": ID},
    "incident": {"what": "tipped", "note": "slid off the edge of the bank"},
    "putting-right": {"cure": "move", "how": "at walking pace", "clear": True, "place": "workshop"},
    "limits-accepted": {"limits": "0123456789abcdef", "reason": "by day, a signaller beside it"},
    "worked-on": {"what": "hot-work", "note": "bracket of the step welded"},
    "examined": {"incident": "01a216d7-d611-77fc-a4e5-7b1791bdc616", "found": "frame, pins and hoses looked at: sound"},
    "locked": {"why": "greasing under the arms"},
    "unlocked": {"lock": "01a216d7-d611-77fc-a4e5-7b1791bdc616", "reason": "reached him, looked all round it"},
    "good-shown": {"checkpoint": "boom", "photo": None, "whole_model": True},
    "stepped": {"step": "meter", "outcome": "done", "value": 6214.5, "word": "usual", "reason": "r"},
    "engine": {"state": "cranking", "why": "water drained"},
    "remarked": {"sense": "noise", "colour": "amber", "station": "rear", "note": "squeals cold"},
    "filled": {"fluid": "fuel", "litres": 120.5, "protected": True},
    "greased": {"point": "boom-foot", "took": "blocked", "strokes": 12, "hours": 6214.5, "note": "bent"},
}  # fmt: skip


def test_every_kind_is_tried() -> None:
    assert set(GOOD) == {k.name for k in all_kinds()}


@pytest.mark.parametrize("kind", GOOD)
def test_there_and_back(kind: str) -> None:
    once = payload_of(kind, GOOD[kind])
    through = json.loads(json.dumps(encode(once)))
    assert payload_of(kind, through) == once
    schema = payload_schema(kind_named(kind))
    jsonschema.validate({"kind": kind, **GOOD[kind]}, schema)
    jsonschema.validate({"kind": kind, **through}, schema)


WRONG = [
    None,
    True,
    7,
    "7",
    "x" * 3000,
    "a\x00b",
    "\ud800",
    [],
    {},
    float("nan"),
    float("inf"),
    1e300,
    -1,
    [None],
    {"a": {}},
]


@pytest.mark.parametrize("kind", GOOD)
@given(st.data())
@settings(max_examples=60, deadline=None)
def test_what_is_wrong_is_named_never_guessed(kind: str, data: st.DataObject) -> None:
    """One field left out, one too many, or one of another type: taken as it is declared, or refused with its path."""
    good = dict(GOOD[kind])
    what = data.draw(st.sampled_from(["more", "other", "less"]))
    key = data.draw(st.sampled_from(sorted(good))) if good else "none"
    if what == "more" or not good:
        good["wings"], key = 2, "wings"
    elif what == "less":
        del good[key]
    else:
        good[key] = data.draw(st.sampled_from(WRONG))
    try:
        made = payload_of(kind, good)
    except BadInput as error:
        refused = error
    else:
        refused = None
    if refused is not None:
        assert refused.field.split(".")[0] == key
        assert refused.says
    else:
        back = encode(made)
        for name, value in good.items():
            if isinstance(value, (str, bool)):
                assert back[name] == value  # no string became a number, no number a string


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"what": {"kind": "danced"}}, "kind"),
        ({"what": {}}, "what.kind"),
        ({"at": "yesterday"}, "at"),
        ({"at": "2026-05-04T06:00:00"}, "at"),
        ({"at": "0001-01-01T00:00:00+14:00"}, "at"),
        ({"at": "9999-12-31T23:59:59-12:00"}, "at"),
        ({"at": 7}, "at"),
        ({"id": "x"}, "id"),
        ({"id": None}, "id"),
        ({"offset_ms": "3"}, "offset_ms"),
        ({"offset_ms": True}, "offset_ms"),
        ({"replaces": ["x"]}, "replaces"),
        ({"replaces": "x"}, "replaces"),
        ({"role": "mechanic"}, "role"),
        ({"what": {"kind": "answered", "checkpoint": "x", "answer": "fine"}}, "answer"),
        ({"what": {"kind": "answered", "checkpoint": "x", "answer": "sound", "findings": "none"}}, "findings"),
        ({"what": {"kind": "opened", "hour_meter": "20"}}, "hour_meter"),
        ({"what": {"kind": "opened", "hour_meter": 1, "conditions": {"fog": True}}}, "conditions.fog"),
        ({"what": {"kind": "measured", **GOOD["measured"], **{f"k{n}": n for n in range(50)}}}, "k0"),
    ],
)
def test_entries_that_cannot_be_read(change: dict[str, Any], field: str) -> None:
    good = entry(1, "answered", {"checkpoint": "x", "answer": "sound"})
    wire = {
        "id": good["id"],
        "by": good["by"],
        "at": good["at"],
        "what": {"kind": "answered", "checkpoint": "x", "answer": "sound"},
    }
    assert read_sent(wire).kind == "answered"
    with pytest.raises(BadInput) as caught:
        read_sent({**wire, **change})
    assert caught.value.field == field


@given(
    st.recursive(
        st.none() | st.booleans() | st.floats() | st.text() | st.integers(),
        lambda x: st.lists(x) | st.dictionaries(st.text(), x),
        max_leaves=12,
    )
)
def test_nothing_but_bad_input_comes_out_of_the_decoder(thing: Any) -> None:
    for data in (
        thing,
        {"what": thing},
        {"id": ID, "by": "x", "at": "2026-05-04T06:00:00Z", "what": {"kind": "answered", "checkpoint": thing}},
    ):
        with pytest.raises(BadInput):
            read_sent(data)


@given(st.datetimes(datetime(1971, 1, 1), datetime(8999, 1, 1), timezones=st.timezones()))
def test_times_keep_their_instant(at: Any) -> None:
    plain = encode(at)
    assert plain.endswith("Z")
    assert abs((time_of("at", plain) - at).total_seconds()) < 1e-3


def test_an_edition_comes_back_as_it_was_and_its_name_is_its_content() -> None:
    content = compiled(EDITION)
    again = load_edition(content)
    assert compiled(again) == content
    assert edition_hash(compiled(again)) == edition_hash(content)
    assert decode(Edition, encode(again)) == again
    assert again.model.places == EDITION.model.places
    assert [r.id for r in again.rulebook.rules] == [r.id for r in EDITION.rulebook.rules]
