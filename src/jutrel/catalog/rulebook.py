"""Building the rulebook from its files, and refusing rules that could lower a grade."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from pathlib import Path

from jutrel.catalog.documents.rules import (
    AtLeastDoc,
    CitationsFile,
    FailureModesFile,
    FirstDoc,
    RegimeFile,
    RuleDoc,
    RulesFile,
)
from jutrel.catalog.duties import load_duties, source_of
from jutrel.catalog.files import Loc, SourceFile
from jutrel.catalog.whole import Citation, Regime
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.rulebook import (
    Attribute,
    AttributeKind,
    Choice,
    Combination,
    Condition,
    FailureMode,
    FirstAction,
    PutRightRule,
    Rule,
    Rulebook,
    RuleStage,
    Test,
)
from jutrel.core.machine.family import Duty

LIMIT_HOURS = 10.0
"""A limit without a date of its own holds for a shift [h]."""
# Facts that are not observed of the defect but known beside it. A flag that is true never makes
# things better, and numbers grow with the trouble, so that conditions on them keep grades rising.
FLAG_FACTS = {
    "life",
    "vital",
    "mandatory",
    "near_heat",
    "dark",
    "rain",
    "people_on_foot",
    "worse_than_last",
    "overdue",
    "runs_out",
    "runs_out_twice",
    "pressurised",
    "unfused",
    "overhead",
}
NUMBER_FACTS = {"unmended_reports", "backups_out"}
WORD_FACTS = {"checkpoint", "system", "fluid", "coupling"}


def _attributes(source: SourceFile, file: FailureModesFile) -> dict[str, Attribute]:
    out: dict[str, Attribute] = {}
    for i, a in enumerate(file.attributes):
        if a.id in out:
            raise source.refuse(("attributes", i, "id"), "'{id}' is there twice", id=a.id)
        if a.kind in (AttributeKind.SCALE, AttributeKind.CHOICE) and not a.choices:
            raise source.refuse(("attributes", i, "choices"), "a scale or a choice needs its choices")
        out[a.id] = Attribute(
            a.id, a.ask, a.kind, tuple(Choice(c.id, c.label) for c in a.choices), a.worse, a.unit, a.low, a.high, a.told
        )
    for fact in NUMBER_FACTS:
        out[fact] = Attribute(fact, "", AttributeKind.NUMBER)
    return out


def _condition(source: SourceFile, loc: Loc, fact: str, test: object, attributes: dict[str, Attribute]) -> Condition:
    attribute = attributes.get(fact)
    ordered = attribute is not None and attribute.kind in (AttributeKind.SCALE, AttributeKind.NUMBER)
    flag = fact in FLAG_FACTS or (attribute is not None and attribute.kind is AttributeKind.FLAG)
    if attribute is None and not flag and fact not in WORD_FACTS:
        raise source.refuse(loc, "no attribute or fact is called '{fact}'", fact=fact)
    if isinstance(test, AtLeastDoc):
        if attribute is None or not ordered:
            raise source.refuse(
                loc, "'{fact}' has no order, so 'at_least' means nothing; say which one it is", fact=fact
            )
        if attribute.kind is AttributeKind.SCALE and attribute.rank(test.at_least) < 0:
            raise source.refuse(loc, "'{at_least}' is not on the scale of '{fact}'", at_least=test.at_least, fact=fact)
        return Condition(fact, Test.AT_LEAST, (test.at_least,))
    if ordered:
        raise source.refuse(
            loc, "'{fact}' is ordered; use 'at_least', or a worse finding could get a better grade", fact=fact
        )
    if flag and test is not True:
        raise source.refuse(
            loc, "'{fact}' may only be asked for as true, or a worse finding could get a better grade", fact=fact
        )
    values = tuple(test) if isinstance(test, list) else (test,)
    if attribute is not None and attribute.kind is AttributeKind.CHOICE:
        for value in values:
            if value not in {c.id for c in attribute.choices}:
                raise source.refuse(loc, "'{value}' is not a choice of '{fact}'", value=value, fact=fact)
    return Condition(fact, Test.IN if isinstance(test, list) else Test.IS, values)


def _rule(
    source: SourceFile,
    loc: Loc,
    doc: RuleDoc,
    attributes: dict[str, Attribute],
    modes: dict[str, FailureMode],
    cited: Mapping[str, str],
    duties: Mapping[str, Duty],
) -> Rule:
    for i, duty in enumerate(doc.duties):
        if duty not in duties:
            raise source.refuse((*loc, "duties", i), "no duty is called '{duty}'", duty=duty)
    for i, mode in enumerate(doc.modes):
        if mode not in modes and mode != "unseen":
            raise source.refuse((*loc, "modes", i), "no failure mode is called '{mode}'", mode=mode)
    if doc.stage is not RuleStage.RAISE and doc.grade is None:
        raise source.refuse((*loc, "grade"), "is missing: a base rule or a floor gives a grade")
    if doc.stage is RuleStage.RAISE and doc.grade is not None:
        raise source.refuse((*loc, "grade"), "a raising rule adds one step and gives no grade")
    conditions = tuple(_condition(source, (*loc, "when", f), f, t, attributes) for f, t in doc.when.items())
    return Rule(
        doc.id,
        doc.stage,
        doc.says,
        source_of(source, (*loc, "source"), doc.source, cited),
        tuple(doc.modes),
        conditions,
        Grade.of(doc.grade) if doc.grade else None,
        doc.within_hours,
        doc.limit,
        duties=tuple(doc.duties),
    )


def _first(doc: FirstDoc) -> FirstAction:
    at, systems, duties, fluids = map(frozenset[str], (doc.checkpoints, doc.systems, doc.duties, doc.fluids))
    return FirstAction(doc.says, at, systems, duties, fluids, dict(doc.when))


def _modes(source: SourceFile, file: FailureModesFile, attributes: dict[str, Attribute]) -> dict[str, FailureMode]:
    modes: dict[str, FailureMode] = {}
    for i, m in enumerate(file.modes):
        for field, named in (("attributes", m.attributes), ("alone", m.alone)):
            for j, a in enumerate(named):
                if a not in attributes:
                    raise source.refuse(("modes", i, field, j), "no attribute is called '{a}'", a=a)
        put_right = None
        if m.put_right is not None:
            for key, value in m.put_right.unless.items():
                if key not in m.attributes or attributes[key].rank(value) < 0:
                    raise source.refuse(
                        ("modes", i, "put_right", "unless", key), "'{value}' is no value of it", value=value
                    )
            put_right = PutRightRule(
                m.put_right.says,
                frozenset(m.put_right.systems),
                frozenset(),
                dict(m.put_right.unless),
                frozenset(m.put_right.duties),
                frozenset(m.put_right.not_duties),
                frozenset(m.put_right.checkpoints),
            )
        for j, first in enumerate(m.first):
            for key, value in first.when.items():
                if key not in m.attributes or attributes[key].rank(value) < 0:
                    raise source.refuse(
                        ("modes", i, "first", j, "when", key), "'{value}' is no value of it", value=value
                    )
        firsts = tuple(_first(f) for f in m.first)
        powered = tuple(sorted(r.value for r in m.powered))
        modes[m.id] = FailureMode(
            m.id, m.name, tuple(m.attributes), m.first_action, put_right, tuple(m.alone), powered, firsts
        )
    return modes


def citations(folder: Path) -> dict[str, Citation]:
    """Everything that a rule may name as its source, by id."""
    source = SourceFile(folder / "rules" / "citations.yaml")
    return {c.id: Citation(c.id, c.text, c.scope, c.from_memory) for c in source.parse(CitationsFile).citations}


def load_regime(
    folder: Path,
    name: str,
    attributes: dict[str, Attribute],
    modes: dict[str, FailureMode],
    cited: Mapping[str, str],
    duties: Mapping[str, Duty],
) -> Regime:
    """A regime with the floors of those it includes.

    Raises
    ------
    BadFile
        Naming file, line and field.
    """
    source = SourceFile(folder / "regimes" / f"{name}.yaml")
    file = source.parse(RegimeFile)
    if file.id != name:
        raise source.refuse(("id",), "a regime's file is named by it: '{id}.yaml'", id=file.id)
    floors = [_rule(source, ("floors", i), r, attributes, modes, cited, duties) for i, r in enumerate(file.floors)]
    for i, other in enumerate(file.also):
        if not (folder / "regimes" / f"{other}.yaml").is_file():
            raise source.refuse(("also", i), "no regime is called '{other}'", other=other)
        floors = [*load_regime(folder, other, attributes, modes, cited, duties).floors, *floors]
    return Regime(file.id, file.name, file.scope, file.caution, tuple(file.records), tuple(floors))


def load_rulebook(folder: Path, regime: str = "house") -> Rulebook:
    """The rulebook of a catalog folder under one regime; raises BadFile."""
    return load_rulebooks(folder)[0][regime]


def load_rulebooks(folder: Path) -> tuple[dict[str, Rulebook], dict[str, Regime]]:
    """The rulebook of a catalog folder under each of its regimes, and the regimes.

    Raises
    ------
    BadFile
        Naming file, line and field.
    """
    rules_folder = folder / "rules"
    modes_source = SourceFile(folder / "failure_modes" / "common.yaml")
    file = modes_source.parse(FailureModesFile)
    attributes = _attributes(modes_source, file)
    modes = _modes(modes_source, file, attributes)
    cited = {c.id: c.told for c in citations(folder).values()}
    source = SourceFile(rules_folder / "general.yaml")
    general = source.parse(RulesFile)
    duties, tables = load_duties(rules_folder, modes, attributes, cited)
    _check_put_right(modes_source, file, duties)
    rules = [
        *tables,
        *(_rule(source, ("rules", i), r, attributes, modes, cited, duties) for i, r in enumerate(general.rules)),
    ]
    names = sorted(p.stem for p in (folder / "regimes").glob("*.yaml"))
    regimes = {name: load_regime(folder, name, attributes, modes, cited, duties) for name in names}
    for regime in regimes.values():
        seen: set[str] = set()
        for rule in [*rules, *regime.floors]:
            if rule.id in seen:
                raise source.refuse(("rules",), "rule '{id}' is there twice", id=rule.id)
            seen.add(rule.id)
    combinations = tuple(
        Combination(
            c.id,
            c.says,
            source_of(source, ("combinations", i, "source"), c.source, cited),
            Grade.of(c.grade),
            c.limit,
            c.count,
            Grade.of(c.at_least),
            c.pick,
            tuple(c.together),
            tuple(c.all_of),
            c.unseen_deg,
        )
        for i, c in enumerate(general.combinations)
    )
    digest = hashlib.sha256(b"".join(p.read_bytes() for p in _files(folder))).hexdigest()[:12]
    books = {
        name: Rulebook(
            f"2-{digest}",
            name,
            attributes,
            modes,
            (*rules, *regime.floors),
            combinations,
            file.safe_repair,
            limit_within_hours=LIMIT_HOURS,
            duties=duties,
        )
        for name, regime in regimes.items()
    }
    return books, regimes


def _files(folder: Path) -> list[Path]:
    """All files that rules come from."""
    return sorted(p for name in ("failure_modes", "rules", "regimes") for p in (folder / name).rglob("*.yaml"))


def _check_put_right(source: SourceFile, file: FailureModesFile, duties: Mapping[str, Duty]) -> None:
    for i, m in enumerate(file.modes):
        for field in ("duties", "not_duties"):
            for j, duty in enumerate(getattr(m.put_right, field, ())):
                if duty not in duties:
                    raise source.refuse(("modes", i, "put_right", field, j), "no duty is called '{duty}'", duty=duty)
