"""Making walks for tests: entries as a device would make them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any

from jutrel.catalog import catalog
from jutrel.catalog.compile import edition_of
from jutrel.core.defect.report import Report
from jutrel.core.grading.verdict import Verdict
from jutrel.core.inspection.hear import Case, Heard, hear
from jutrel.core.log.codec import time_of
from jutrel.core.log.entry import Entry, Pins
from jutrel.core.log.kinds import payload_of
from jutrel.core.machine.meter import meter_of
from jutrel.core.machine.model import Walk, walk_of
from jutrel.core.people import Role
from jutrel.service.ids import uuid7

MODEL = catalog().models["tolvane-e24"]
BOOK = catalog().rulebook
EDITION = edition_of(catalog(), MODEL)
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
}

Plain = dict[str, Any]


def entry(
    number: int,
    kind: str,
    what: Plain,
    by: str = MIRA,
    role: str = "operator",
    start: datetime = START,
    replaces: Iterable[str] = (),
    stream: str = "look",
) -> Plain:
    at = start + timedelta(seconds=number)
    made = {"id": uuid7(at, noise=number), "by": by, "role": role, "at": at.isoformat(), "kind": kind, "what": what}
    return {**made, "replaces": list(replaces), "stream": stream}


def opening(options: tuple[str, ...] = (), **more: Any) -> Plain:
    conditions = more.pop("conditions", {})
    return {"hour_meter": 6214.3, "options": sorted(options), "conditions": conditions, **more}


def as_read(level: Plain) -> Plain:
    """A hydraulic level as an entry of today holds it, from the fields of the form before."""
    rest = {k: level[k] for k in ("reason", "amends", "put_right") if k in level}
    figures = {k: level[k] for k in ("seen", "oil_c", "pitch_deg", "roll_deg")}
    rods = {f"out.{group}": out for group, out in level["extensions"].items()}
    return {"checkpoint": level["checkpoint"], "reading": "hydraulic-level", "given": {**figures, **rods}, **rest}


def defect(mode: str, note: str = "", **attributes: Any) -> Plain:
    return {"answer": "defect", "findings": [{"failure_mode": mode, "attributes": attributes, "note": note}]}


def walked(
    answers: dict[str, Plain] | None = None,
    options: tuple[str, ...] = (),
    leave: tuple[str, ...] = (),
    roles: dict[str, str] | None = None,
    earlier: Sequence[Report] = (),
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
        named = [r.entry for r in earlier if r.checkpoint == c.id]
        if c.reading and (given is None or "answer" not in given):
            made.append(entry(number, "read", as_read({**LEVEL, **(given or {})}), by, role, replaces=named))
        else:
            what = {"checkpoint": c.id, "answer": "sound", **(given or {})}
            made.append(entry(number, "answered", what, by, role, replaces=named))
    return made


def core(entries: list[Plain]) -> list[Entry]:
    """Entries as the log would hold them, in the order given."""
    out = []
    for seq, e in enumerate(entries, 1):
        out.append(
            Entry(
                id=e["id"],
                machine="ex-01",
                stream=e["stream"],
                by=e["by"],
                at=time_of("at", e["at"]),
                what=payload_of(e["kind"], e["what"]),
                replaces=frozenset(e["replaces"]),
                seq=seq,
                role=Role(e["role"]),
                pins=Pins() if seq == 1 else None,
            )
        )
    return out


def walk_with(options: tuple[str, ...] = ()) -> Walk:
    return walk_of(MODEL, frozenset(options))


def heard(entries: list[Plain], earlier: Sequence[Report] = (), others: list[Plain] | None = None) -> Heard:
    mine = core(entries)
    return hear(Case("look", EDITION, mine, meter_of(mine), core(others or []), earlier))


def verdict_of(entries: list[Plain], earlier: Sequence[Report] = ()) -> Verdict:
    return heard(entries, earlier).verdict
