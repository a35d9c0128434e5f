"""Building the rulebook from its files, and refusing rules that could lower a grade."""

from __future__ import annotations

import hashlib
from pathlib import Path

from jutrel.catalog.documents import AtLeastDoc, FailureModesFile, RegimeFile, RuleDoc, RulesFile
from jutrel.catalog.files import Loc, SourceFile
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.rulebook import (
    Attribute,
    AttributeKind,
    Choice,
    Combination,
    Condition,
    FailureMode,
    PutRightRule,
    Rule,
    Rulebook,
    Stage,
    Test,
)

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
}
NUMBER_FACTS = {"unmended_reports", "backups_out"}
WORD_FACTS = {"checkpoint", "system", "fluid"}


def _attributes(source: SourceFile, file: FailureModesFile) -> dict[str, Attribute]:
    out: dict[str, Attribute] = {}
    for i, a in enumerate(file.attributes):
        if a.id in out:
            raise source.refuse(("attributes", i, "id"), "'{id}' is there twice", id=a.id)
        if a.kind in (AttributeKind.SCALE, AttributeKind.CHOICE) and not a.choices:
            raise source.refuse(("attributes", i, "choices"), "a scale or a choice needs its choices")
        out[a.id] = Attribute(
            a.id, a.ask, a.kind, tuple(Choice(c.id, c.label) for c in a.choices), a.worse, a.unit, a.low, a.high
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
    source: SourceFile, loc: Loc, doc: RuleDoc, attributes: dict[str, Attribute], modes: dict[str, FailureMode]
) -> Rule:
    for i, mode in enumerate(doc.modes):
        if mode not in modes and mode != "unseen":
            raise source.refuse((*loc, "modes", i), "no failure mode is called '{mode}'", mode=mode)
    if doc.stage is not Stage.RAISE and doc.grade is None:
        raise source.refuse((*loc, "grade"), "is missing: a base rule or a floor gives a grade")
    if doc.stage is Stage.RAISE and doc.grade is not None:
        raise source.refuse((*loc, "grade"), "a raising rule adds one step and gives no grade")
    conditions = tuple(_condition(source, (*loc, "when", f), f, t, attributes) for f, t in doc.when.items())
    return Rule(
        doc.id,
        doc.stage,
        doc.says,
        doc.source,
        tuple(doc.modes),
        conditions,
        Grade.of(doc.grade) if doc.grade else None,
        doc.within_hours,
        doc.limit,
    )


def load_rulebook(folder: Path, regime: str = "house") -> Rulebook:
    """The rulebook of a catalog folder under one regime.

    Raises
    ------
    BadFile
        Naming file, line and field.
    """
    modes_path, rules_path = folder / "failure_modes" / "common.yaml", folder / "rules" / "grading.yaml"
    regime_path = folder / "regimes" / f"{regime}.yaml"
    modes_source = SourceFile(modes_path)
    file = modes_source.parse(FailureModesFile)
    attributes = _attributes(modes_source, file)
    modes: dict[str, FailureMode] = {}
    for i, m in enumerate(file.modes):
        for j, a in enumerate(m.attributes):
            if a not in attributes:
                raise modes_source.refuse(("modes", i, "attributes", j), "no attribute is called '{a}'", a=a)
        put_right = None
        if m.put_right is not None:
            for key, value in m.put_right.unless.items():
                if key not in m.attributes or attributes[key].rank(value) < 0:
                    raise modes_source.refuse(
                        ("modes", i, "put_right", "unless", key), "'{value}' is no value of it", value=value
                    )
            put_right = PutRightRule(
                m.put_right.says,
                frozenset(m.put_right.systems),
                frozenset(m.put_right.not_systems),
                dict(m.put_right.unless),
            )
        modes[m.id] = FailureMode(m.id, m.name, tuple(m.attributes), m.first_action, put_right)
    rules_source, regime_source = SourceFile(rules_path), SourceFile(regime_path)
    rules_file, regime_file = rules_source.parse(RulesFile), regime_source.parse(RegimeFile)
    rules = [_rule(rules_source, ("rules", i), r, attributes, modes) for i, r in enumerate(rules_file.rules)]
    rules += [_rule(regime_source, ("floors", i), r, attributes, modes) for i, r in enumerate(regime_file.floors)]
    seen: set[str] = set()
    for rule in rules:
        if rule.id in seen:
            raise rules_source.refuse(("rules",), "rule '{id}' is there twice", id=rule.id)
        seen.add(rule.id)
    combinations = tuple(
        Combination(
            c.id, c.says, c.source, Grade.of(c.grade), c.limit, c.count, Grade.of(c.at_least), c.pick, tuple(c.together)
        )
        for c in rules_file.combinations
    )
    digest = hashlib.sha256(b"".join(p.read_bytes() for p in (modes_path, rules_path, regime_path))).hexdigest()[:12]
    return Rulebook(f"1-{digest}", regime_file.id, attributes, modes, tuple(rules), combinations, file.safe_repair)
