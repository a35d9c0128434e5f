"""The catalog is complete and consistent, and a broken file is refused where it is broken."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from jutrel.catalog import catalog
from jutrel.catalog.files import BadFile
from jutrel.catalog.load import load_catalog
from jutrel.catalog.whole import FOLDER
from jutrel.core.machine.drawing import plan_drawing, side_drawing
from jutrel.core.machine.drawing.pen import GROUND
from jutrel.core.machine.family import Family, Level, SystemClass
from jutrel.core.machine.model import Model, walk_of
from tests.deep import DEEP
from tests.walks import MODEL

FAMILY = MODEL.family
MODELS = list(catalog().models.values())
# What the trade's lap round a crawler excavator names; common practice.
LAP = [
    "approach",
    "cab-side",
    "track-left",
    "bays-left",
    "rear",
    "under-rear",
    "bays-right",
    "track-right",
    "front-right",
    "equipment",
    "deck",
    "cab",
]
MUST_HAVE = """
shoes-left links-left carrier-left rollers-left final-drive-left idler-left sag-left air-cleaner batteries isolator
cooling-pack cab-filter counterweight camera-rear lamp-rear masts slew-bolts drive-covers centre-joint main-pump
hydraulic-filters fuel-filters water-separator hydraulic-level def-level fuel-level fuel-drain toolbox boom arm
bucket linkage pins equipment-hoses boom-cylinders teeth coupler-lock engine-oil belts coolant-level slew-oil slew-oil-2
exhaust-debris boom-lines grease-bank lock-lever seat-belt extinguisher escape glass-front wiper guard-front
"""


def test_the_excavator_is_complete() -> None:
    assert [s.id for s in FAMILY.stations] == LAP
    ids = {c.id for c in FAMILY.checkpoints}
    assert ids >= set(MUST_HAVE.split())
    assert {c.id.replace("left", "right") for c in FAMILY.checkpoints if c.station == "track-left"} <= ids
    bare = walk_of(MODEL, frozenset())
    assert len(bare.checkpoints) >= 60
    assert {s.level for s in bare.stations} == set(Level)
    for c in FAMILY.checkpoints:
        assert len(c.why) > 10, c.id
        assert len(c.how) > 5, c.id
        assert c.failure_modes
        # A pressurised line is never felt for with a hand.
        if c.id in ("main-pump", "equipment-hoses", "boom-lines"):
            assert any("never a hand" in caution for caution in c.cautions)


@pytest.mark.parametrize("option", [o.id for o in FAMILY.options])
def test_an_option_brings_its_own_checkpoints_or_steps_and_no_others(option: str) -> None:
    without, having = walk_of(MODEL, frozenset()), walk_of(MODEL, frozenset({option}))
    brought = {c.id for c in having.checkpoints} - {c.id for c in without.checkpoints}
    steps = [s.id for s in catalog().procedures[FAMILY.id] if option in s.options | s.without]
    parts = [p.id for s in catalog().procedures[FAMILY.id] for p in s.parts if option in p.options]
    assert brought or steps or parts
    assert brought == {c.id for c in FAMILY.checkpoints if c.option == option}


@pytest.mark.parametrize("model", MODELS, ids=lambda m: m.id)
def test_every_place_is_on_or_near_the_machine(model: Model) -> None:
    x0, y0, x1, y1 = plan_drawing(model).bounds
    left, low, right, top = side_drawing(model, "right").bounds
    # The side view is the same machine: as long as the plan says.
    assert left == pytest.approx(x0 - GROUND, abs=0.6)
    assert right == pytest.approx(x1 + GROUND, abs=0.6)
    assert low == pytest.approx(0, abs=0.05)
    for c in walk_of(model, frozenset(model.options)).checkpoints:
        x, y, z = model.places[c.id]
        if c.station != "approach":
            assert x0 - 0.2 <= x <= x1 + 0.2, c.id
            assert y0 - 0.2 <= y <= y1 + 0.2, c.id
        assert 0 <= z <= top + 0.1, c.id
        if "left" in c.id:
            assert y > -0.01, c.id
        if "right" in c.id and c.id != "fire-debris-right":
            assert y < 0.01, c.id


# What the trade looks at on each family besides what all have; common practice.
SPECIAL = {
    "wheel-loader": "edge bucket-pins joint-pins lock-bar transmission-level wheel-nuts-front-left coupler-lock",
    "crawler-dozer": "shoes-left links-left sag-left ripper-frame shank trunnions corner-bits equaliser damper-oil",
    "articulated-hauler": "tailgate lock-bar joint-pins wheel-nuts-rear-left hydraulic-level active-suspension",
    "rigid-hauler": "rock-duals-left strut-front-right strut-front-left body-up-pins ladder retarder motion-lock",
    "motor-grader": "circle circle-inserts mouldboard ball-joints tandem-oil-left tandem-oil-right lift-anchors",
}


@pytest.mark.parametrize("family", catalog().families.values(), ids=lambda f: f.id)
def test_every_family_is_complete(family: Family) -> None:
    models = [m for m in MODELS if m.family is family]
    assert len(models) >= 2
    sizes = {plan_drawing(m).bounds for m in models}
    assert len(sizes) == len(models)
    assert len({m.options for m in models}) == len(models)
    common = [c for c in models[0].places if all(c in m.places for m in models)]
    assert any(models[0].places[c] != models[1].places[c] for c in common)
    ids = {c.id for c in family.checkpoints}
    wanted = set(SPECIAL.get(family.id, "").split())
    assert wanted <= ids, wanted - ids
    for model in models:
        bare = walk_of(model, frozenset())
        assert len(bare.checkpoints) >= 60, model.id
        assert {s.level for s in bare.stations} >= {Level.GROUND, Level.CAB}
    for c in family.checkpoints:
        assert len(c.look) > 5, c.id
        assert len(c.why) > 10, c.id
        assert len(c.how) > 5, c.id
        assert c.failure_modes, c.id
        assert 0 < c.seconds <= 120, c.id


def test_every_life_system_has_a_mandatory_checkpoint() -> None:
    systems = {c.system.id for c in FAMILY.checkpoints if c.kind is SystemClass.LIFE and c.mandatory}
    assert systems >= {
        "structure",
        "access",
        "visibility",
        "restraint",
        "interlock",
        "exits",
        "fire",
        "warning",
        "guards",
    }


def test_the_rulebook_has_reasons_and_a_version() -> None:
    book = catalog().rulebook
    assert book.version == load_catalog().rulebook.version
    for rule in book.rules:
        assert rule.source
        assert rule.says or rule.seen


GRADER = "families/motor-grader.yaml"
E24 = "models/tolvane-e24.yaml"
BOOM = "drawings/excavator.yaml"
STRUNG = "".join(
    f"  {id}: {{part: cab, side: in, at: [{0.2 + 0.15 * n}, 0.4, 0.5]}}\n"
    for n, id in enumerate(("controls", "display", "horn-button", "escape"))
)
BREAKAGE = [
    # file, what is replaced, with what, field and reason that must be named
    (E24, "track_gauge: 2.38", "track_gauge: -2", "shape.track_gauge", "outside 0.6 to 8"),
    (E24, "track_gauge: 2.38, ", "", "shape", "track_gauge: give this figure as a number"),
    (E24, "track_gauge: 2.38, ", "track_gage: 2.38, ", "shape.track_gage", "no such figure"),
    (E24, "maker: Tolvane", "makre: Tolvane", "maker", "is missing"),
    (
        "models/tolvane-e24.yaml",
        "family: crawler-excavator",
        "family: hovercraft",
        "family",
        "no family is called 'hovercraft'",
    ),
    ("procedures/run.yaml", "{id: place, role: last-work,", "{id: place,", "steps", "no step of every machine"),
    ("procedures/run.yaml", "role: hour-meter", "role: last-work", "role", "another step is 'last-work'"),
    # places on parts
    (E24, "stations:\n", "places: {boom: [2.4, 0.3, 2.8]}\nstations:\n", "places.boom", "say on which part it is"),
    (E24, "stations:\n", "places: {seat: {part: moon, at: [0.5]}}\nstations:\n", "places.seat", "no part 'moon'"),
    (E24, "stations:\n", "places: {seat: {part: boom, at: [1.5]}}\nstations:\n", "places.seat", "between 0 and 1"),
    (E24, "stations:\n", "places: {seat: {part: cab, at: [0.5]}}\nstations:\n", "places.seat", "3 shares"),
    (BOOM, "  boom: {part: boom, side: right, at: [0.62]}\n", "", "places.boom", "no place is given"),
    (
        BOOM,
        "side: in, at: [0.4, 0.08, 0.3]",
        "side: in, at: [0.9, 0.08, 0.9]",
        "places.bucket",
        "lies outside 'bucket'",
    ),
    (
        BOOM,
        "  pins: {part: arm, side: right, at: [0.96]}",
        "  pins: {part: arm, at: hub}",
        "places.pins",
        "no spot 'hub'",
    ),
    (BOOM, "tip: nose + ahead", "tip: nose + ahed", "let.tip", "no figure is called 'ahed'"),
    (BOOM, "half: upper_width / 2", "half: upper_width //", "let.half", "is no sum of figures"),
    (BOOM, "half: upper_width / 2", "half: upper_width.real", "let.half", "is no sum of figures"),
    (
        BOOM,
        "wide: [boom_width * 0.62, boom_width * 0.5]",
        "wide: [boom_width * 0.62]",
        "parts",
        "wide and deep for each",
    ),
    (
        BOOM,
        "drive-covers: {part: house, side: bottom",
        "drive-covers: {part: house, side: top",
        "drive-covers",
        "lies lower than 'frame'",
    ),
    (
        "places.yaml",
        "mirror-left: {part: mirror-left, side: front",
        "mirror-left: {part: steps-left, side: left",
        "places.mirror-left",
        "stands higher than 'seat'",
    ),
    (
        BOOM,
        "places:\n",
        "places:\n" + STRUNG,
        "places.controls",
        "stand in even steps along a line",
    ),
    (
        "models/tolvane-e48.yaml",
        "  batteries: {part: toolbox",
        "  isolator: {part: toolbox",
        "moved.batteries",
        "say under places",
    ),
    (
        "models/tolvane-e48.yaml",
        "batteries: {part: toolbox, side: in",
        "batteries: {part: left-bay, side: in",
        "places.batteries",
        "other side of the machine",
    ),
    (
        "models/tolvane-e24.yaml",
        "family: crawler-excavator",
        "family: hovercraft",
        "family",
        "no family is called 'hovercraft'",
    ),
    (
        "families/crawler-excavator.yaml",
        "{use: slew-oil}",
        "{use: slew-oil, duty: hold-tool}",
        "every",
        "a life depends on it",
    ),
    (
        "models/tolvane-e24.yaml",
        "  rear: [-3.6, 0.6]",
        "  rear: [-1.0, 0.6]",
        "stations.rear",
        "nobody can stand there",
    ),
    (
        "models/tolvane-e24.yaml",
        "options: [exhaust-fluid",
        "options: [wings, exhaust-fluid",
        "options.0",
        "no option 'wings'",
    ),
    (
        "checkpoints/common.yaml",
        'id: door, name: "Door and latch", system: exits',
        "id: door, name: D, system: magic",
        "system",
        "no system is called 'magic'",
    ),
    ("families/crawler-excavator.yaml", "{use: mirror-rear", "{use: door", "id", "is there twice"),
    ("checkpoints/common.yaml", "how_kind: drain", "how_kind: sniff", "how_kind", "'look'"),
    ("families/crawler-excavator.yaml", "stations:\n", "stations: [\n", "file", "not readable YAML"),
    (
        "regimes/house.yaml",
        "{works: {at_least: dead}}",
        "{works: dead}",
        "when.works",
        "use 'at_least'",
    ),
    (
        "rules/general.yaml",
        "when: {near_heat: true}",
        "when: {near_heat: false}",
        "when.near_heat",
        "only be asked for as true",
    ),
    ("regimes/house.yaml", "{works: {at_least: dead}}", "{works: {at_least: dad}}", "when.works", "not on the scale"),
    ("rules/general.yaml", "modes: [leak], when: {runs_out", "modes: [drip], when: {runs_out", "modes.0", "'drip'"),
    ("rules/general.yaml", "duties: [see, light, warn]", "duties: [sea]", "duties.0", "no duty is called 'sea'"),
    # what a duty's table may not do
    ("rules/duties/stop.yaml", "II: hold", "II: watch", "table.leak.II", "milder than 'stop.leak.I'"),
    ("rules/duties/power.yaml", "weak: watch, ", "", "table", "'inoperative' has no grade from 'weak' on"),
    ("rules/duties/power.yaml", "II: mend 50", "IX: mend 50", "table.leak.IX", "nothing that is observed of 'leak'"),
    ("rules/duties/power.yaml", "II: mend 50", "II: soon", "table.leak.II", "is no grade"),
    ("rules/duties/power.yaml", "II: mend 50", "II: mend soon", "table.leak.II", "its hours"),
    (
        "rules/duties/power.yaml",
        "  tension:",
        "  hazard: {people: hold}\n  tension:",
        "table.hazard",
        "can never speak",
    ),
    (
        "rules/duties/power.yaml",
        "braid: mend 10,",
        "braid: mend 10, braid+cover: hold,",
        "table.cut.braid",
        "says the same case",
    ),
    (
        "rules/duties/shelter.yaml",
        "bent: {grade: hold, source: iso-shelter}",
        "bent: {grade: hold, source: hearsay}",
        "table.bend.bent",
        "'hearsay' is not in citations.yaml",
    ),
    ("rules/duties/warn.yaml", "limit: ", "# limit: ", "table.inoperative.weak", "under what limit"),
    ("rules/duties/feed.yaml", "id: feed", "id: fed", "id", "named by it"),
    ("checkpoints/common.yaml", "duty: see,", "duty: sea,", "duty", "no duty is called 'sea'"),
    (
        "checkpoints/common.yaml",
        "duties: {fastener: power}",
        "duties: {crack: power}",
        "duties.crack",
        "does not offer",
    ),
    ("checkpoints/common.yaml", "duty: see, ", "", "duty", "is missing"),
    ("regimes/house.yaml", 'grade: hold, says: "People', 'says: "People', "grade", "is missing"),
    (
        "failure_modes/common.yaml",
        "attributes: [crack_where,",
        "attributes: [crack_wear,",
        "attributes.0",
        "'crack_wear'",
    ),
    ("systems.yaml", "class: service}", "class: luxury}", "class", "'life'"),
    (E24, "fuel: [[0, 0], ", "fuel: [[0, 5], ", "strapping.fuel.0", "begins at [0, 0]"),
    (E24, "fuel: [[0, 0], [0.118, ", "fuel: [[0, 0], [0.318, ", "strapping.fuel.2", "rise from line to line"),
    (E24, "290]]", "390]]", "strapping.fuel.5", "the tank holds 290"),
    (E24, "  fuel: [[0, 0]", "  lemonade: [[0, 0]", "strapping.lemonade", "no compartment holds"),
    (GRADER, "{brake-accumulator: ", "{brake-store: ", "readings.brake-store", "no reading is called 'brake-store'"),
    (GRADER, "{wanted: brake-applications}", "{want: brake-applications}", "want", "no input 'want'"),
    (GRADER, "{wanted: brake-applications}", "{wanted: brake-count}", "wanted", "no figure with a unit"),
    (GRADER, "{wanted: brake-applications}", "{wanted: engine-oil-grade}", "wanted", "no figure with a unit"),
    (GRADER, "{wanted: brake-applications}", "{wanted: reserve.lemonade}", "wanted", "no compartment holds"),
    (GRADER, "{wanted: brake-applications}", "{wanted: 900}", "wanted", "outside 1 to 40"),
    (GRADER, "{wanted: brake-applications}", "{wanted: [brake-applications]}", "wanted", "give a list where"),
    (
        GRADER,
        "modes: [leak, fastener, inoperative]",
        "modes: [leak, fastener]",
        "brake-accumulator",
        "cannot be chosen",
    ),
]


@pytest.mark.parametrize(("file", "old", "new", "field", "reason"), BREAKAGE if DEEP else BREAKAGE[::3])
def test_broken_files_are_refused_with_line_and_field(
    tmp_path: Path, file: str, old: str, new: str, field: str, reason: str
) -> None:
    folder = tmp_path / "catalog"
    shutil.copytree(FOLDER, folder, ignore=shutil.ignore_patterns("*.py", "__pycache__"))
    path = folder / file
    text = path.read_text()
    assert old in text
    path.write_text(text.replace(old, new, 1))
    with pytest.raises(BadFile) as caught:
        load_catalog(folder)
    error = caught.value
    assert error.path == path
    assert field in error.field
    assert reason in str(error.says)
    changed = text[: text.index(old)].count("\n") + 1
    elsewhere = "no place is given", "say under places", "no step of every machine"
    if "missing" not in reason and reason not in elsewhere and field != "file" and not new.startswith("#"):
        assert abs(error.line - changed) <= 1, (error.line, changed)
