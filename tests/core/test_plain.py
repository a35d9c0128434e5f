"""Plain data in and out: nothing is lost on the way, nothing silently made up."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jutrel.core.errors import BadInput
from jutrel.core.plain import entry_of, payload_of, to_plain
from tests.walks import defect, entry, opening, walked

KINDS: dict[str, dict[str, Any]] = {
    "opened": opening(
        ("beacon",),
        conditions={"dark": True, "air_c": -4.0},
        carried=[
            {
                "checkpoint": "boom",
                "finding": {"failure_mode": "crack", "attributes": {"crack_where": "weld"}, "note": "n"},
                "grade": "limit",
                "since": "2026-05-01T06:00:00Z",
                "by": "x",
                "reports": 3,
                "unmended": 2,
                "due_hour": 6220.0,
            }
        ],
    ),
    "answered": {"checkpoint": "boom", "reason": "", "amends": "", **defect("crack", crack_where="weld")},
    "measured": {
        "checkpoint": "hydraulic-level",
        "seen": 0.3,
        "oil_c": -4.0,
        "pitch_deg": 0.0,
        "roll_deg": 1.0,
        "extensions": {"arm": 1.0},
        "amends": "",
    },
    "arrived": {"station": "rear"},
    "noted": {"text": 'a "quoted" § note', "checkpoint": ""},
    "photographed": {"photo": "p", "checkpoint": "boom"},
    "undone": {"target": "t"},
    "signed": {"covers": ["a", "b"], "outcome": "ready"},
}


@pytest.mark.parametrize("kind", KINDS)
def test_there_and_back(kind: str) -> None:
    once = payload_of(kind, KINDS[kind])
    through = json.loads(json.dumps(to_plain(once)))
    assert payload_of(kind, through) == once
    for key, value in KINDS[kind].items():
        if key != "conditions":
            assert through[key] == value, key


@pytest.mark.parametrize("kind", KINDS)
def test_a_missing_field_is_named(kind: str) -> None:
    defaulted = {"carried", "conditions", "options", "findings", "reason", "amends"} | (
        {"checkpoint"} if kind == "noted" else set()
    )
    for key in set(KINDS[kind]) - defaulted:
        with pytest.raises(BadInput) as caught:
            payload_of(kind, {k: v for k, v in KINDS[kind].items() if k != key})
        assert caught.value.field == key
        assert "missing" in caught.value.says


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"kind": "danced"}, "kind"),
        ({"role": "king"}, "role"),
        ({"at": "yesterday"}, "at"),
        ({"at": "2026-05-04T06:00:00"}, "at"),
        ({"what": {"checkpoint": "x", "answer": "fine"}}, "answer"),
        ({"kind": "opened", "what": {"hour_meter": 1, "conditions": {"fog": True}}}, "conditions.fog"),
    ],
)
def test_bad_entries(change: dict[str, Any], field: str) -> None:
    good = entry(1, "answered", {"checkpoint": "x", "answer": "sound"})
    with pytest.raises(BadInput) as caught:
        entry_of({**good, **change})
    assert caught.value.field == field


@given(st.datetimes(timezones=st.timezones()))
def test_times_keep_their_instant(at: Any) -> None:
    plain = to_plain(at)
    assert plain.endswith("Z")
    back = entry_of(entry(1, "arrived", {"station": "rear"}) | {"at": plain}).at
    assert abs((back - at).total_seconds()) < 1e-3


def test_a_whole_walk() -> None:
    log = walked({"boom": defect("crack", crack_where="paint")})
    entries = [entry_of(e) for e in log]
    again = [
        entry_of(
            {
                "id": e.id,
                "by": e.by,
                "role": e.role.value,
                "at": to_plain(e.at),
                "kind": raw["kind"],
                "what": to_plain(e.what),
            }
        )
        for e, raw in zip(entries, log, strict=True)
    ]
    assert again == entries
