"""The book of scenarios: read from its file, graded as the product grades."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from jutrel.catalog import catalog
from jutrel.core.grading.facts import History, Place, facts_of
from jutrel.core.grading.finding_grade import Graded, check_finding, grade_finding
from jutrel.core.grading.rulebook import AttributeKind, Rulebook
from jutrel.core.inspection.finding import Conditions, Finding
from jutrel.core.machine.family import Checkpoint
from jutrel.core.machine.model import Model

CATALOG = catalog()
MODELS: dict[str, Model] = {m.family.id: m for m in CATALOG.models.values()}
FLAGS = {"dark": "dark", "rain": "rain", "people": "people_on_foot", "frost": "frost", "transported": "transported"}


@dataclass(frozen=True)
class Case:
    """A line of the book."""

    line: int
    family: str
    checkpoint: str
    mode: str
    seen: str
    conditions: str
    grade: str
    until: str
    may: bool
    rule: str

    @property
    def name(self) -> str:
        """As a test is called."""
        return f"{self.line} {self.family} {self.checkpoint} {self.mode} {self.seen} {self.conditions}".strip()


def cases() -> list[Case]:
    """Every line of the book."""
    out = []
    for n, line in enumerate((Path(__file__).parent / "scenarios.txt").read_text().splitlines(), 1):
        if line.strip() and not line.startswith("#"):
            f = [part.strip() for part in line.split("|")]
            assert len(f) == 9, f"line {n} has {len(f)} fields"
            out.append(Case(n, f[0], f[1], f[2], f[3], f[4], f[5], f[6], f[7] == "yes", f[8]))
    return out


def finding_of(mode: str, seen: str, book: Rulebook) -> Finding:
    """What was seen, from words: 'II hose drops=60'."""
    attributes: dict[str, Any] = {}
    for word in seen.split():
        key, _, value = word.partition("=")
        if value:
            attributes[key] = float(value)
            continue
        owner = [
            a
            for a in book.modes[mode].attributes
            if word in {c.id for c in book.attributes[a].choices}
            or (book.attributes[a].kind is AttributeKind.FLAG and a == word)
        ]
        assert len(owner) == 1, f"'{word}' is {len(owner)} things of {mode}"
        attributes[owner[0]] = word
    return Finding(mode, attributes)


def place_of(model: Model, c: Checkpoint, words: str) -> tuple[Place, History, int]:
    """Where, what was before, and how many of its set are out, from words: 'dark shift=10 third'."""
    given = dict(w.partition("=")[::2] for w in words.split())
    conditions = Conditions(**{FLAGS[w]: True for w in given if w in FLAGS})
    if "shift" in given:
        conditions = replace(conditions, shift_hours=float(given["shift"]))
    reserves = dict(model.reserves)
    if "reserve" in given and c.compartment:
        reserves[c.compartment] = float(given["reserve"])
    return Place(model, conditions, 100.0, reserves), history_of(given), int(given.get("out", 0))


def history_of(given: dict[str, str]) -> History:
    """What was before: reported on three shifts, milder then, or due by now."""
    history = History(3 if "third" in given else 1)
    if "overdue" in given:
        history = replace(history, due_hour=50.0)
    return history


def checkpoint_of(model: Model, name: str) -> Checkpoint:
    """A checkpoint of a machine with everything fitted."""
    return next(c for c in model.family.checkpoints if c.id == name)


def graded(case: Case, book: Rulebook = CATALOG.rulebook) -> tuple[Graded, Checkpoint, Finding]:
    """A case as the product grades it today."""
    model = MODELS[case.family]
    c = checkpoint_of(model, case.checkpoint)
    finding = finding_of(case.mode, case.seen, book) if case.mode != "unseen" else Finding("unseen")
    if case.mode != "unseen":
        assert case.mode in c.failure_modes, f"{c.id} does not offer {case.mode}"
        check_finding(finding, book)
    place, history, out = place_of(model, c, case.conditions)
    if "worse" in case.conditions.split():
        key = book.modes[case.mode].attributes[0]
        milder = book.attributes[key].choices[0].id
        history = replace(history, previous=Finding(case.mode, {key: milder}))
    return grade_finding(finding, facts_of(finding, c, place, book, history, out), book), c, finding


def until(found: Graded) -> str:
    """How soon it is to be mended, in a word."""
    if found.within_hours is None:
        return "-"
    if found.grade.word == "hold":
        return "now"
    return "shift" if found.within_hours <= 10 else "week" if found.within_hours <= 50 else "plan"
