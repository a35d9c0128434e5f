"""No rule is written twice: roles, orders of grades and limits stand in the core, and the pages ask."""

from __future__ import annotations

import re
from itertools import pairwise

import pytest

from jutrel.core.grading.grade import Grade
from jutrel.core.panel.signals import SIGNALS
from jutrel.core.people import RIGHTS, Right, Role, rights_of
from jutrel.core.procedure.step import StepRole
from jutrel.core.reading.judgement import Band
from tests.conftest import CATALOG, ROOT

PAGES = {
    path.relative_to(ROOT / "web/src").as_posix(): path.read_text("utf-8")
    for path in sorted((ROOT / "web/src").rglob("*"))
    if path.suffix in (".vue", ".ts") and path.name != "schema.d.ts"
}
QUOTE = "[\"'`]"


def found(pattern: str) -> list[str]:
    return [f"{name}: {hit[0]}" for name, text in PAGES.items() for hit in re.finditer(pattern, text)]


def test_no_page_knows_a_role() -> None:
    assert found(rf"{QUOTE}({'|'.join(Role)}){QUOTE}") == []


@pytest.mark.parametrize("order", [[g.word for g in Grade], [g.word for g in reversed(Grade)], list(Band)])
def test_no_page_puts_grades_in_order(order: list[str]) -> None:
    """Two neighbours of the order, one after the other in a list."""
    for one, other in pairwise(order):
        assert found(rf"\[[^\]\n]*{QUOTE}{one}{QUOTE},\s*{QUOTE}{other}{QUOTE}") == []


def test_no_page_has_a_limit_of_what_a_machine_tells() -> None:
    for signal in SIGNALS:
        assert found(rf"\b{re.escape(signal.key)}{QUOTE}?\s*:\s*-?[1-9]") == []


def test_no_page_knows_a_step_by_its_id() -> None:
    """What a step means is its role; what it waits for, its wait."""
    ids = {s.id for steps in CATALOG.procedures.values() for s in steps}
    assert found(rf"step\.id\s*[!=]==\s*{QUOTE}({'|'.join(map(re.escape, sorted(ids)))}){QUOTE}") == []
    assert {s.role for steps in CATALOG.procedures.values() for s in steps} == {None, *StepRole}


def test_everybody_may_something_and_nobody_everything() -> None:
    assert {right for role in Role for right in rights_of(role)} == set(RIGHTS) == set(Right)
    assert all(0 < len(rights_of(role)) < len(Right) for role in Role)
    assert Right.WALK not in rights_of(Role.ADMINISTRATOR)
