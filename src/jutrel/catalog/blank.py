"""Files to be filled in: a model of a family, and a family, with every question beside its line."""

from __future__ import annotations

import textwrap
from collections.abc import Iterator

from jutrel.catalog.build_drawing import Drawings
from jutrel.catalog.documents.traits import TraitDoc
from jutrel.catalog.traits import Traits
from jutrel.core.grading.facts import MAIN_TANKS
from jutrel.core.machine.family import Family, Level, LimitKind

WIDE = 118


def _note(text: str, indent: str = "") -> Iterator[str]:
    yield from textwrap.wrap(text, WIDE, initial_indent=f"{indent}# ", subsequent_indent=f"{indent}# ")


def _bounds(limit: LimitKind) -> str:
    if limit.choices:
        return "one of " + ", ".join(c.id for c in limit.choices)
    return f"{limit.unit}, {limit.low:g} to {limit.high:g}" if limit.unit else "as the maker writes it"


def blank_model(family: Family, drawings: Drawings, model_id: str) -> str:
    """The file of a model that has everything its family can have, without its figures."""
    drawing = drawings.files[family.shape]
    fluids = sorted({*MAIN_TANKS, "gear-oil", *(f for c in family.checkpoints if (f := c.compartment))})
    lines = [
        *_note(f"A model of the family {family.id}. Every value that is missing is asked for by `jutrel check-model`."),
        f"id: {model_id}",
        "maker:",
        "name:",
        f"family: {family.id}",
        *_note("what it has of: " + ", ".join(f"{o.id} ({o.name})" for o in family.options)),
        "options: []",
        *_note(f"its dimensions in metres, from the maker's drawing; the origin: see drawings/{family.shape}.yaml"),
        "shape:",
        *(
            f"  {name}:  # {low:g} to {high:g}: {drawings.measures[name]}"
            for name, (low, high) in drawing.figures.items()
        ),
        *_note(
            "the hydraulic tank: plan area m2, metres from low to full mark, the gauge's place from the tank's "
            "middle, litres in the system, the oil's temperature that the marks are made for, the posture"
        ),
        "tank:",
        *(f"  {name}:" for name in ("area", "band", "gauge_x", "gauge_y", "system_oil", "cold_c", "posture")),
        *_note(
            "cylinders that move together: diameter and stroke of the rod in metres, and how far it is out (0 to 1)",
            "  ",
        ),
        "  rods:",
        "    - {id: , name: , count: , rod_diameter: , stroke: , extension_at_check: }",
        "# how many litres stand in a tank at which height in metres: fuel: [[0, 0], [0.5, 200]]",
        "strapping: {}",
        *_note("litres between where the level is kept and the ADD mark"),
        "reserves:",
        *(f"  {fluid}:" for fluid in fluids),
        *_note("the maker's figures"),
        "limits:",
        *(f"  {x.id}:  # {x.name}: {_bounds(x)}" for x in family.limits),
        *_note(
            "steps and ladders: where the foot stands, what it leads to, seconds up and down, which checkpoint tells "
            "whether it carries"
        ),
        "access:",
        "  - {id: , name: , foot: [], leads_to: [], up_s: , down_s: , checked_by: }",
        *_note("where one stands, in metres ahead and to the left, outside of what is drawn"),
        "stations:",
        *(f"  {s.id}: []  # {s.name}, {_level(s.level)}: {s.stance}" for s in family.stations),
        "# where one has to pass on the only safe way to a station: blade-left: [1.2, 3.3]",
        "gates: {}",
        "# how its maker wants done what good hands do differently: school: choice",
        "schools: {}",
        *_note(
            "what this model has elsewhere than its family: its station under moved, and its place under places, such "
            "as batteries: {part: left-bay, side: in, at: [0.5, 0.5, 0.2]}"
        ),
        "moved: {}",
        "places: {}",
    ]
    return "\n".join(lines) + "\n"


def _level(level: Level) -> str:
    return level.value


def blank_family(traits: Traits, family_id: str) -> str:
    """The file of a family: what it can be made of, and what each answer owes."""
    lines = [
        *_note(
            "A family. Answer each question with one of its traits; each owes what stands below it, and the loader "
            "names what is missing."
        ),
        f"id: {family_id}",
        "name:",
        "# the name of its drawing in drawings/",
        "shape:",
        "traits:",
    ]
    for group in traits.file.groups:
        lines.append(f"  # {group.asks}" + (" One or several." if group.many else ""))
        for trait in traits.file.traits:
            if trait.group == group.id:
                lines += _owing(trait)
    lines.append("  # and of these what it has:")
    for trait in traits.file.traits:
        if trait.group is None:
            lines += _owing(trait)
    lines += [
        *_note("the names that its wheels, duals or the like have in the ids of their checkpoints"),
        "each: {}",
        "options: []",
        "limits: []",
        "order: []",
        *_note("Every machine owes: " + ", ".join(c for d in traits.file.every for c in d.checkpoints)),
        "stations:",
        "  - id: approach",
        "    name: Approach",
        "    level: ground",
        "    stance: standing back",
        "    checkpoints:",
        "      - {use: stance}",
        *_note(
            "what no other family has: {id: , name: , system: , duty: , how_kind: , look: , why: , how: , modes: []}",
            "      ",
        ),
        "grease: []",
    ]  # fmt: skip
    return "\n".join(lines) + "\n"


def _owing(trait: TraitDoc) -> Iterator[str]:
    yield f"  # - {trait.id}  # {trait.name}"
    for due in trait.owes:
        yield from _note(f"owes {', '.join([*due.checkpoints, *due.steps])}: {due.says}", "    ")
