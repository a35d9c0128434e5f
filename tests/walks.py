"""Making walks for tests: entries as a device would make them."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

from jutrel.catalog import catalog
from jutrel.core.grading.verdict import Verdict, judge
from jutrel.core.inspection.entry import Entry
from jutrel.core.inspection.fold import fold
from jutrel.core.machine.model import Walk, walk_of
from jutrel.core.plain import entry_of
from jutrel.service.ids import uuid7

MODEL = catalog().models["tolvane-e24"]
BOOK = catalog().rulebook
START = datetime(2026, 5, 4, 6, 0, tzinfo=UTC)
MIRA = "0d000000-0000-4000-8000-000000000001"
DAG = "0d000000-0000-4000-8000-000000000004"
LEVEL = {
    "checkpoint": "hydraulic-level",
    "seen": 0.5,
    "oil_c": 20.0,
    "pitch_deg": 0.0,
    "roll_deg": 0.0,
    "extensions": {"boom": 0.15, "arm": 0.0, "bucket": 0.0},
    "amends": "",
}

Plain = dict[str, Any]


def entry(
    number: int, kind: str, what: Plain, by: str = MIRA, role: str = "operator", start: datetime = START
) -> Plain:
    at = start + timedelta(seconds=number)
    return {"id": uuid7(at, noise=number), "by": by, "role": role, "at": at.isoformat(), "kind": kind, "what": what}


def opening(options: tuple[str, ...] = (), **more: Any) -> Plain:
    conditions = more.pop("conditions", {})
    return {"hour_meter": 6214.3, "options": sorted(options), "conditions": conditions, **more}


def defect(mode: str, note: str = "", **attributes: Any) -> Plain:
    return {"answer": "defect", "findings": [{"failure_mode": mode, "attributes": attributes, "note": note}]}


def walked(
    answers: dict[str, Plain] | None = None,
    options: tuple[str, ...] = (),
    leave: tuple[str, ...] = (),
    roles: dict[str, str] | None = None,
    **opened: Any,
) -> list[Plain]:
    """A whole walk: everything sound but what `answers` says, nothing at what `leave` names."""
    walk = walk_of(MODEL, frozenset(options))
    made = [entry(0, "opened", opening(options, **opened))]
    for number, c in enumerate(walk.checkpoints, 1):
        if c.id in leave:
            continue
        given = (answers or {}).get(c.id)
        role = (roles or {}).get(c.id, "operator")
        by = DAG if role == "mechanic" else MIRA
        if c.reading and (given is None or "answer" not in given):
            made.append(entry(number, "measured", {**LEVEL, **(given or {})}, by, role))
        else:
            what = {"checkpoint": c.id, "answer": "sound", "findings": [], "reason": "", "amends": "", **(given or {})}
            made.append(entry(number, "answered", what, by, role))
    return made


def core(entries: list[Plain]) -> list[Entry]:
    return [entry_of(e) for e in entries]


def walk_with(options: tuple[str, ...] = ()) -> Walk:
    return walk_of(MODEL, frozenset(options))


def verdict_of(entries: list[Plain], options: tuple[str, ...] = ()) -> Verdict:
    return judge(fold(core(entries)), walk_with(options), BOOK)
