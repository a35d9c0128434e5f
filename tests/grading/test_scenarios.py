"""Findings graded as a mechanic would sign them; what may never happen; and that no rule is dead."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import product

import pytest

from jutrel.catalog.rulebook import citations, load_rulebook
from jutrel.catalog.whole import FOLDER
from jutrel.core.grading.facts import History, Place, facts_of
from jutrel.core.grading.finding_grade import grade_finding
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.rulebook import AttributeKind, Rulebook, RuleStage
from jutrel.core.inspection.finding import Conditions, Finding, Value
from jutrel.core.machine.family import Checkpoint
from jutrel.core.machine.model import Model
from jutrel.core.procedure.outcome import FAILED
from jutrel.exchange.signing import grading_sheet
from tests.grading.book import CATALOG, MODELS, Case, cases, finding_of, graded, until

BOOK = CATALOG.rulebook
CASES = cases()
REGIMES = sorted(p.stem for p in (FOLDER / "regimes").glob("*.yaml"))


def test_the_book_is_as_large_as_it_says() -> None:
    assert len(CASES) >= 200
    assert {c.family for c in CASES} == set(MODELS)
    assert {c.mode for c in CASES} >= set(BOOK.modes) - {FAILED}, "what a run says is a Hold by itself"


@pytest.mark.parametrize("case", CASES, ids=lambda c: c.name)
def test_it_is_graded_as_a_mechanic_would_sign(case: Case) -> None:
    found, c, finding = graded(case)
    assert found.grade.word == case.grade, [str(line.says) for line in found.trace]
    assert case.rule in {line.rule for line in found.trace}
    assert until(found) == case.until
    if case.mode != "unseen":
        assert BOOK.may_put_right(finding, c) is case.may
    if case.grade == "limit":
        assert found.limits, "a limit says under what limit it may work"


def every(model: Model, book: Rulebook) -> Iterator[tuple[Checkpoint, Finding]]:
    """Everything that can be said at every checkpoint of a model: each mode with each of its values together."""
    for c in model.family.checkpoints:
        for name in c.failure_modes:
            asked = [book.attributes[a] for a in book.modes[name].attributes]
            scales = [
                [(a.id, x.id) for x in a.choices]
                for a in asked
                if a.kind in (AttributeKind.SCALE, AttributeKind.CHOICE)
            ]
            for pairs in product(*([*s, None] for s in scales)):
                told: dict[str, Value] = {p[0]: p[1] for p in pairs if p is not None}
                if told and "fluid" not in told:
                    yield c, Finding(name, told)


@pytest.mark.parametrize("regime", REGIMES)
def test_whatever_can_be_said_has_a_grade_and_a_reason(regime: str) -> None:
    book = load_rulebook(FOLDER, regime)
    for model in MODELS.values():
        place = Place(model, Conditions(), 100.0, model.reserves)
        for c, finding in every(model, book):
            found = grade_finding(finding, facts_of(finding, c, place, book, History(), 0), book)
            assert found.grade >= Grade.WATCH
            assert found.trace
            first = set(book.modes[finding.failure_mode].attributes[:1]) | set(book.modes[finding.failure_mode].alone)
            if first & set(finding.attributes):
                assert found.trace[0].rule != "watch.seen", (c.id, finding)
            if found.grade is Grade.LIMIT:
                assert found.limits, (c.id, finding)
            for text in [*(line.says for line in found.trace), *found.limits]:
                assert "{" not in str(text)


def test_a_worse_answer_never_gets_a_better_grade() -> None:
    """Exhaustive: each answer against the next worse one, everything else equal."""
    for model in MODELS.values():
        place = Place(model, Conditions(), 100.0, model.reserves)

        def grade(c: Checkpoint, finding: Finding, place: Place = place) -> Grade:
            return grade_finding(finding, facts_of(finding, c, place, BOOK, History(), 0), BOOK).grade

        for c, finding in every(model, BOOK):
            for key, value in finding.attributes.items():
                attribute = BOOK.attributes[key]
                if attribute.kind is AttributeKind.SCALE:
                    ids = [x.id for x in attribute.choices]
                    if (n := ids.index(str(value))) + 1 < len(ids):
                        worse = Finding(finding.failure_mode, {**finding.attributes, key: ids[n + 1]})
                        assert grade(c, worse) >= grade(c, finding), (c.id, finding, worse)


def test_no_rule_is_dead() -> None:
    """Each rule speaks in some case of the book, or for something that can be said at some checkpoint."""
    spoke = {line.rule for case in CASES for line in graded(case)[0].trace}
    for model in MODELS.values():
        hard = Conditions(dark=True, rain=True, people_on_foot=True)
        for conditions in (Conditions(), hard):
            place = Place(model, conditions, 100.0, model.reserves)
            for c, finding in every(model, BOOK):
                spoke |= {
                    r.rule for r in grade_finding(finding, facts_of(finding, c, place, BOOK, History(), 0), BOOK).trace
                }
    silent = {r.id for r in BOOK.rules} - spoke
    assert not silent, sorted(silent)
    general = {r.id for r in BOOK.rules if r.stage is not RuleStage.BASE or r.duty is None}
    in_book = {line.rule for case in CASES for line in graded(case)[0].trace}
    assert general <= in_book, sorted(general - in_book)


@pytest.mark.parametrize("regime", REGIMES)
def test_every_rule_names_its_source(regime: str) -> None:
    known = {c.told for c in citations(FOLDER).values()}
    book = load_rulebook(FOLDER, regime)
    for rule in [*book.rules, *book.combinations]:
        assert rule.source in known, rule.id
    assert all(c.scope for c in citations(FOLDER).values())


def test_scopes_are_said_as_they_are() -> None:
    """30 CFR 56 is surface metal and non-metal only; 29 CFR 1910.177 gives a figure and does not bind construction."""
    for c in citations(FOLDER).values():
        if "30 CFR 56" in c.text:
            assert "surface metal and non-metal mines only" in c.scope
        if "1910.177" in c.text:
            assert "does not bind construction" in c.scope
    for regime in REGIMES:
        for rule in load_rulebook(FOLDER, regime).rules:
            if rule.stage is RuleStage.FLOOR and regime == "us-construction":
                assert "30 CFR" not in rule.source, rule.id


def test_a_dead_reverse_alarm_is_the_houses_hold_and_the_laws_limit() -> None:
    c = next(x for x in MODELS["wheel-loader"].family.checkpoints if x.id == "alarm-unit")
    finding = finding_of("inoperative", "dead", BOOK)
    place = Place(MODELS["wheel-loader"], Conditions(), 100.0, {})
    for regime, grade in (("house", "hold"), ("us-construction", "limit"), ("us-mines", "limit")):
        book = load_rulebook(FOLDER, regime)
        found = grade_finding(finding, facts_of(finding, c, place, book, History(), 0), book)
        assert found.grade.word == grade
        assert any("signal" in str(t) or "observer" in str(t) for t in found.limits)


@pytest.mark.parametrize("family", sorted(MODELS))
def test_the_tables_to_be_signed_are_those_of_today(family: str) -> None:
    """`jutrel grading FAMILY > docs/grading/FAMILY.md` makes them anew."""
    kept = (FOLDER.parents[2] / "docs" / "grading" / f"{family}.md").read_text()
    assert kept == grading_sheet(MODELS[family], BOOK)
    for c in MODELS[family].family.checkpoints:
        assert c.name in kept


def every_first() -> dict[str, set[str]]:
    """By what is said first: at which checkpoints of all families, with some answer."""
    said: dict[str, set[str]] = {}
    for model in MODELS.values():
        for c, finding in every(model, BOOK):
            fluids = [{}, *({"fluid": f} for f in (*c.fluids, c.fluid) if f and finding.failure_mode == "leak")]
            for more in fluids:
                told = Finding(finding.failure_mode, {**finding.attributes, **more})
                said.setdefault(BOOK.first_action(told, c), set()).add(c.id)
    return said


def test_what_is_done_first_speaks_of_what_there_is() -> None:
    """Each is said somewhere; none names a place, a duty or a fluid that is not there."""
    families = {m.family.id: m.family for m in MODELS.values()}.values()
    places = {c.id for f in families for c in f.checkpoints}
    systems = {c.system.id for f in families for c in f.checkpoints}
    said = every_first()
    for mode in BOOK.modes.values():
        for first in mode.first:
            assert first.checkpoints <= places, first.says
            assert first.systems <= systems, first.says
            assert first.duties <= set(BOOK.duties), first.says
            assert first.says in said, first.says


@pytest.mark.parametrize(
    ("family", "checkpoint", "mode", "seen", "begins", "never"),
    [
        ("wheel-loader", "chocks", "missing", "absent", "Keep everybody clear downhill", "Look for it"),
        ("wheel-loader", "tyre-front-left", "pressure", "run-flat", "Keep everybody well away", "inflate it now"),
        ("wheel-loader", "tyre-front-left", "tyre-wall", "bulge", "Keep everybody well away", "tread side"),
        ("wheel-loader", "arm-prop", "still-fitted", "loaded", "Never pull it by hand", "take it off"),
        ("wheel-loader", "arm-prop", "still-fitted", "fitted", "Ask first who put it there", "before anyone starts"),
        ("crawler-dozer", "breakers", "tripped", "bridged", "Engine off, battery off", "Reset"),
        ("crawler-excavator", "batteries", "cut", "through", "Battery off", "rubs on"),
        ("crawler-excavator", "wiring-left", "cut", "braid", "Battery off", "rubs on"),
        ("crawler-excavator", "engine-oil", "level", "over_level=over", "Look and smell", "top up"),
        ("crawler-excavator", "engine-oil", "level", "low", "Look and smell", "fill it"),
        ("crawler-excavator", "fan", "broken", "cracked", "Engine off, key out", "Wear gloves"),
        ("crawler-excavator", "display", "inoperative", "dead", "Key off and on once", "Try it once more"),
        ("crawler-excavator", "equipment-hoses", "leak", "spray", "Stop the engine and stay away", "Find the source"),
        ("rigid-hauler", "rock-duals-left", "wedged", "stone", "Machine still, engine off", "from behind"),
    ],
)
def test_nothing_dangerous_is_asked_first(
    family: str, checkpoint: str, mode: str, seen: str, begins: str, never: str
) -> None:
    c = next(c for c in MODELS[family].family.checkpoints if c.id == checkpoint)
    key, _, value = seen.partition("=")
    finding = Finding(mode, {key: value}) if value else finding_of(mode, seen, BOOK)
    says = BOOK.first_action(finding, c)
    assert says.startswith(begins), says
    assert never not in says
