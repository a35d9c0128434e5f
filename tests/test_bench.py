"""The bench runs: each of its files is loaded, what needs no server is measured once, and its page has a place for it.

Found so: figures stood in the docs for days after the bench itself had ceased to run to its end.
"""

from __future__ import annotations

import importlib
from datetime import UTC, datetime
from pathlib import Path

import pytest

from bench import lines as lines_
from bench.lines import Lines
from tests.conftest import ROOT


@pytest.mark.parametrize("name", sorted(p.stem for p in (ROOT / "bench").glob("*.py") if p.stem != "__init__"))
def test_each_part_is_loaded(name: str) -> None:
    assert importlib.import_module(f"bench.{name}")


def test_what_needs_no_server_is_measured_once(monkeypatch: pytest.MonkeyPatch) -> None:
    run, readings, panel = (importlib.import_module(f"bench.{name}") for name in ("run", "readings", "panel"))
    for part in (run, readings, panel):
        if hasattr(part, "ROUNDS"):
            monkeypatch.setattr(part, "ROUNDS", 1)
    said = Lines()
    run.judged(said)
    readings.taken(said)
    panel.read(said)
    assert len([line for line in said.printed if "×" in line]) >= 5


def test_what_cannot_be_measured_ends_it_and_the_page_is_made_by_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    said = Lines()
    with pytest.raises(SystemExit):
        said.add("nothing", float("nan"), 1)
    said.head("A part")
    said.add("a line of this test", 2.0, 1)
    page = tmp_path / "speed.md"
    page.write_text((ROOT / "docs" / "speed.md").read_text())
    monkeypatch.setattr(lines_, "PAGE", page)
    said.write(datetime.now(UTC))
    said.write(datetime.now(UTC))
    text = page.read_text()
    assert text.count("<!-- figures -->") == text.count("a line of this test") == 1
    assert "1 targets missed" in text
    page.write_text("no place")
    with pytest.raises(SystemExit):
        said.write(datetime.now(UTC))
