"""A name says one thing: no two classes share one, and service and API have the rooms of the core."""

from __future__ import annotations

import ast
from collections import defaultdict
from pathlib import Path

SRC = Path(__file__).resolve().parents[1] / "src" / "jutrel"
ROOMS = {"log", "people", "site", "machine", "route", "inspection", "reading", "grading", "defect", "clearance",
         "procedure", "panel"}  # fmt: skip
SHARED = {
    "service": {"context", "ids", "intake", "problem", "worker_pool", "worker_loaded"},
    "api": {
        "app",
        "compress",
        "door",
        "metrics",
        "derived",
        "cookies",
        "front_end",
        "guard",
        "language",
        "request_limits",
        "heads",
        "server_log",
        "wire",
    },
}
"""What belongs to no room: who is asking, where it runs, what every route goes through."""


def test_no_two_classes_have_one_name() -> None:
    found: dict[str, list[str]] = defaultdict(list)
    for path in sorted(SRC.rglob("*.py")):
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.ClassDef):
                found[node.name].append(str(path.relative_to(SRC)))
    assert len(found) > 300
    assert {name: places for name, places in found.items() if len(places) > 1} == {}


def test_service_and_api_have_the_rooms_of_the_core() -> None:
    for layer, shared in SHARED.items():
        there = {p.stem for p in (SRC / layer).iterdir() if not p.name.startswith("__")}
        assert there == ROOMS | shared, layer
        assert all((SRC / layer / room / "__init__.py").exists() for room in ROOMS)
