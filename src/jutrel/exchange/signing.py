"""The grading of a family as a table that a competent person can read and sign."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from jutrel.core.grading.facts import History, Place, facts_of
from jutrel.core.grading.finding_grade import Graded, grade_finding
from jutrel.core.grading.grade import Grade
from jutrel.core.grading.rulebook import Attribute, AttributeKind, Rulebook
from jutrel.core.inspection.finding import Conditions, Finding, Value
from jutrel.core.machine.family import Checkpoint
from jutrel.core.machine.model import Model

HARD = Conditions(dark=True, rain=True, people_on_foot=True)


def offered(attribute: Attribute, c: Checkpoint) -> list[str]:
    """The choices that can be there: what the place implies is not asked."""
    ids = [x.id for x in attribute.choices]
    match attribute.id:
        case "coupling":
            return [i for i in ids if i in c.couplings] if len(c.couplings) > 1 else []
        case "fluid":
            return [i for i in ids if i in c.fluids] if len(c.fluids) > 1 else []
        case "leak_class" if not c.pressurised:
            return [i for i in ids if i != "spray"]
    return ids


def told(graded: Graded) -> str:
    """A grade and its date."""
    hours = graded.within_hours
    date = f" {hours:g} h" if hours is not None and graded.grade in (Grade.MEND, Grade.LIMIT) else ""
    return f"**{graded.grade.name.capitalize()}{date}**"


def _values(c: Checkpoint, mode: str, book: Rulebook) -> Iterator[tuple[str, dict[str, Value], dict[str, Value]]]:
    """What can be said: in words, as attributes, and the same without what was added last."""
    asked = [book.attributes[a] for a in book.modes[mode].attributes]
    asked = [a for a in asked if a.kind in (AttributeKind.SCALE, AttributeKind.CHOICE) and offered(a, c)]
    label = {(a.id, x.id): x.label for a in asked for x in a.choices}
    first, *rest = asked
    alone = [a for a in rest if a.id in book.modes[mode].alone]
    for a in [first, *alone]:
        for choice in offered(a, c):
            yield label[a.id, choice], {a.id: choice}, {}
            for b in rest if a is first else ():
                for more in offered(b, c) if b not in alone else ():
                    both: dict[str, Value] = {a.id: choice, b.id: more}
                    yield f"{label[a.id, choice]}; {label[b.id, more].lower()}", both, {a.id: choice}


def rows(c: Checkpoint, model: Model, book: Rulebook) -> Iterator[tuple[str, str, str]]:
    """For each way to fail at a checkpoint: its name, its duty, and every grade that it can have."""

    def grade(mode: str, attributes: Mapping[str, Value], conditions: Conditions) -> Graded:
        finding = Finding(mode, attributes)
        place = Place(model, conditions, 100.0, model.reserves)
        return grade_finding(finding, facts_of(finding, c, place, book, History(), 0), book)

    for mode in c.failure_modes:
        cells = []
        for words, attributes, bare in _values(c, mode, book):
            usual = told(grade(mode, attributes, Conditions()))
            if bare and usual == told(grade(mode, bare, Conditions())):
                continue  # it changes nothing
            hard = told(grade(mode, attributes, HARD))
            cells.append(f"{words}: {usual}" + (f" (dark, rain or people near: {hard})" if hard != usual else ""))
        duty = c.duty_of(mode)
        yield book.modes[mode].name, duty.name if duty else "", "<br>".join(cells)


def grading_sheet(model: Model, book: Rulebook) -> str:
    """All grades of a family with everything fitted, as Markdown to be read and signed.

    Parameters
    ----------
    model : one of the family; grades do not depend on which
    book : the rules, under the regime they are to be signed for
    """
    family = model.family
    out = [
        f"# Grading: {family.name.lower()}",
        "",
        f"Rulebook {book.version}, regime {book.regime}. Made by `jutrel grading {family.id}`: not written by hand.",
        "Each line says how a finding is graded the first time it is reported. It gets one step worse on the third",
        "shift, when it is overdue, when it grew worse, and where something that can burn is near heat.",
        "The machine's manual, the site's rules, the law of the place and competent people come first.",
    ]
    for station in family.stations:
        out += [
            "",
            f"## {station.name}",
            "",
            "| where | how it fails | what it is there for | graded |",
            "|---|---|---|---|",
        ]
        for c in family.checkpoints:
            if c.station == station.id:
                out += [f"| {c.name} | {name} | {duty} | {cells} |" for name, duty, cells in rows(c, model, book)]
    return "\n".join([*out, "", "Read and agreed: name, qualification, date, signature.", ""])
