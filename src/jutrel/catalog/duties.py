"""Reading the rules of each duty: a table of failure modes and how bad, on one page, made into rules."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import permutations
from pathlib import Path

from jutrel.catalog.documents.rules import AnyDutyFile, CellDoc, DutyFile
from jutrel.catalog.files import Loc, SourceFile
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.rulebook import Attribute, AttributeKind, Condition, FailureMode, Rule, RuleStage, Test
from jutrel.core.machine.family import Duty

FACTS = {
    "dark": "It is dark",
    "rain": "It rains",
    "people_on_foot": "People are on foot around it",
    "pressurised": "",
    "unfused": "It lies before any fuse, or beside fuel or a battery",
    "overhead": "It hangs over people",
    "runs_out": "It reaches the ADD mark before the shift is over",
}
"""What may stand in a table beside what was observed: facts of the place that never make things better, and how
they are told; what the catalog knows of the place needs no telling."""
LIFTS = {"watch": 1, "mend": 2, "limit": 3, "hold": 4}


@dataclass(frozen=True, slots=True)
class DutyWords:
    """What a duty says of a part: how bad it is when it is degraded and when it is lost, and its usual limit."""

    degraded: str
    lost: str
    limit: str | None


def _cell(source: SourceFile, loc: Loc, cell: str | CellDoc) -> tuple[CellDoc, str, float | None]:
    """A cell, its grade, and within how many hours [h]: 'hold', 'mend 10', or with what it says beside."""
    doc = CellDoc(grade=cell) if isinstance(cell, str) else cell
    grade, _, hours = doc.grade.partition(" ")
    if grade not in LIFTS:
        raise source.refuse(loc, "'{grade}' is no grade; one of {those}", grade=grade, those=", ".join(LIFTS))
    if not hours:
        return doc, grade, None
    if not hours.isdigit() or grade not in ("mend", "limit"):
        raise source.refuse(loc, "give a mend or a limit its hours as 'mend 10'")
    return doc, grade, float(hours)


def _condition(
    source: SourceFile, loc: Loc, token: str, mode: FailureMode, attributes: Mapping[str, Attribute]
) -> tuple[Condition, str, bool]:
    """What one word of a cell's key asks for, how that is told, and whether it is the worst there is."""
    if token in FACTS:
        return Condition(token, Test.IS, (True,)), FACTS[token], False
    for key in dict.fromkeys([*mode.attributes, "fluid", "coupling"]):  # the place tells the last two
        attribute = attributes[key]
        if attribute.kind is AttributeKind.FLAG and token == key:
            return Condition(key, Test.IS, (True,)), attribute.told, False
        choices = {c.id: c.label for c in attribute.choices}
        if token in choices and attribute.kind is AttributeKind.SCALE:
            return Condition(key, Test.AT_LEAST, (token,)), choices[token], token == attribute.choices[-1].id
        if token in choices:
            return Condition(key, Test.IS, (token,)), choices[token], False
    raise source.refuse(
        loc, "'{token}' is nothing that is observed of '{mode}', and no fact of the place", token=token, mode=mode.id
    )


def _table(
    source: SourceFile,
    table: Mapping[str, Mapping[str, str | CellDoc]],
    duty: Duty | None,
    words: DutyWords,
    modes: Mapping[str, FailureMode],
    attributes: Mapping[str, Attribute],
    cited: Mapping[str, str],
) -> Iterable[Rule]:
    for name, cells in table.items():
        if name not in modes:
            raise source.refuse(("table", name), "no failure mode is called '{mode}'", mode=name)
        for key, given in cells.items():
            loc: Loc = ("table", name, key)
            cell, grade, hours = _cell(source, loc, given)
            found = [_condition(source, loc, token, modes[name], attributes) for token in str(key).split("+")]
            worst = any(last for _, _, last in found)
            why = cell.says or ("" if grade == "watch" else words.lost if worst else words.degraded)
            limit = cell.limit or (words.limit if grade == "limit" else None)
            if grade == "limit" and limit is None:
                raise source.refuse(loc, "a limit says under what limit it may work: give 'limit'")
            yield Rule(
                id=f"{duty.id if duty else 'any'}.{name}.{key}",
                stage=RuleStage.BASE,
                says=why,
                source=source_of(source, loc, cell.source or "common-practice", cited),
                modes=(name,),
                conditions=tuple(c for c, _, _ in found),
                grade=Grade.of(grade),
                within_hours=hours,
                limit=limit,
                duty=duty.id if duty else None,
                seen=tuple(told for _, told, _ in found if told),
            )


def _check_order(source: SourceFile, rules: list[Rule], attributes: Mapping[str, Attribute]) -> None:
    """Refuse what is milder than something less bad, in grade or date, and what says the same case twice."""
    for rule, other in permutations(rules, 2):
        if other.modes != rule.modes or not rule.implies(other, attributes):
            continue
        loc: Loc = ("table", *rule.id.split(".", 2)[1:])
        if other.implies(rule, attributes):
            raise source.refuse(loc, "says the same case as '{other}'", other=other.id)
        assert rule.grade is not None
        assert other.grade is not None
        later = rule.grade is other.grade and (rule.within_hours or 0.0) > (
            other.within_hours or rule.within_hours or 0.0
        )
        if other.grade > rule.grade or later:
            raise source.refuse(
                loc,
                "would be milder than '{other}', which is less bad: a worse finding must not get a better grade",
                other=other.id,
            )


def load_duties(
    folder: Path, modes: Mapping[str, FailureMode], attributes: Mapping[str, Attribute], cited: Mapping[str, str]
) -> tuple[dict[str, Duty], list[Rule]]:
    """All duties and the rules of their tables, those that hold at every duty first.

    Raises
    ------
    BadFile
        Naming file, line and field.
    """
    anywhere = SourceFile(folder / "any.yaml")
    rules = list(_table(anywhere, anywhere.parse(AnyDutyFile).table, None, _ANY, modes, attributes, cited))
    _check_order(anywhere, rules, attributes)
    duties: dict[str, Duty] = {}
    read = [(s := SourceFile(path), s.parse(DutyFile)) for path in sorted((folder / "duties").glob("*.yaml"))]
    for source, file in sorted(read, key=lambda pair: (pair[1].order, pair[1].id)):
        if file.id != source.path.stem:
            raise source.refuse(("id",), "a duty's file is named by it: '{id}.yaml'", id=file.id)
        duties[file.id] = duty = Duty(file.id, file.name, file.kind, file.limit or "", file.moved)
        words = DutyWords(file.degraded, file.lost, file.limit)
        mine = list(_table(source, file.table, duty, words, modes, attributes, cited))
        _check_order(source, mine, attributes)
        rules += mine
    return duties, rules


_ANY = DutyWords("", "", None)


def source_of(source: SourceFile, loc: Loc, named: str, cited: Mapping[str, str]) -> str:
    """What a rule rests on: a citation by its name, or common practice.

    Raises
    ------
    BadFile
        If it is neither.
    """
    if named not in cited:
        raise source.refuse(
            loc, "'{named}' is not in citations.yaml: cite a source that is, or say 'common-practice'", named=named
        )
    return cited[named]


def check_answers(
    duties: Mapping[str, Duty],
    rules: Iterable[Rule],
    modes: Mapping[str, FailureMode],
    attributes: Mapping[str, Attribute],
    offered: Mapping[tuple[str, str], str],
    folder: Path,
) -> None:
    """Refuse rules that leave something offered without an answer, or that nothing offered can ever reach.

    `offered`: duty and failure mode that some checkpoint has, with the name of one.

    Raises
    ------
    BadFile
        Naming the duty's file and the failure mode.
    """
    rules = [r for r in rules if r.stage is RuleStage.BASE]
    for (duty, mode), place in offered.items():
        source = SourceFile(folder / "duties" / f"{duty}.yaml")
        mine = [r for r in rules if mode in r.modes and r.duty in (None, duty)]
        for key in modes[mode].attributes:
            attribute = attributes[key]
            if attribute.kind is not AttributeKind.SCALE:
                continue
            alone = {key: attribute.choices[0].id}
            first = attribute is attributes[modes[mode].attributes[0]]
            if (first or key in modes[mode].alone) and not any(
                all(c.holds(alone, attributes) for c in r.conditions) for r in mine
            ):
                raise source.refuse(
                    ("table", mode) if any(r.duty == duty for r in mine) else ("table",),
                    "'{mode}' has no grade from '{value}' on, and '{place}' offers it",
                    mode=mode,
                    value=attribute.choices[0].id,
                    place=place,
                )
    for rule in rules:
        if rule.duty is not None and (rule.duty, rule.modes[0]) not in offered:
            source = SourceFile(folder / "duties" / f"{rule.duty}.yaml")
            raise source.refuse(
                ("table", rule.modes[0]), "can never speak: nothing with this duty offers '{mode}'", mode=rule.modes[0]
            )
    unused = set(duties) - {duty for duty, _ in offered}
    if unused:
        name = min(unused)
        raise SourceFile(folder / "duties" / f"{name}.yaml").refuse(("id",), "no checkpoint has this duty")
