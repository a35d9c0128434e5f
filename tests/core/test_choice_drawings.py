"""The drawings of choices: each choice has one, each drawing is of something that there is, and no two that differ look
the same."""

from __future__ import annotations

import json
import subprocess

from jutrel.api.inspection.limit_signs import SIGNS_OF, LimitSign
from jutrel.core.grading.verdict import DEFAULT_LIMIT
from tests.conftest import CATALOG, ROOT

# The pages' own files, without their types.
READ = """
import ts from "./web/node_modules/typescript/lib/typescript.js";
import fs from "fs";
const plain = f => ts.transpileModule(fs.readFileSync(`web/src/parts/${f}.ts`, "utf8"),
  {compilerOptions: {module: "esnext", target: "es2022"}}).outputText;
const url = text => "data:text/javascript," + encodeURIComponent(text);
const strokes = url(plain("strokes"));
const worn = url(plain("wornDrawings").replace("./strokes", strokes));
const all = url(plain("choiceDrawings").replace("./strokes", strokes).replace("./wornDrawings", worn));
console.log(JSON.stringify((await import(all)).DRAWINGS));
"""


def drawings() -> dict[str, list[list[str]]]:
    command = ["node", "--input-type=module", "-e", READ]
    return dict(json.loads(subprocess.run(command, cwd=ROOT, capture_output=True, check=True, text=True).stdout))


def test_choices_are_drawn_as_what_there_is_and_each_place_as_it_wears() -> None:
    drawn, book = drawings(), CATALOG.rulebook
    choices = {f"{a.id}.{c.id}" for a in book.attributes.values() for c in a.choices}
    places = {c.id: c for f in CATALOG.families.values() for c in f.checkpoints}
    at = {key.partition("@")[2] for key in drawn} - {""}
    assert {key.partition("@")[0] for key in drawn} <= choices
    assert at <= {*places, *book.duties}, at - {*places, *book.duties}
    # Wear looks different on a tyre, a step, an edge and a belt: each place where something wears has its own.
    wears = {
        c.id: {c.id, c.duty.id}
        for f in CATALOG.families.values()
        for c in f.checkpoints
        if any("wear" in book.modes[m].attributes for m in c.failure_modes)
    }
    stages = [c.id for c in book.attributes["wear"].choices]
    for place, names in wears.items():
        assert any(f"wear.{stages[0]}@{n}" in drawn for n in names), place
    for name in at:
        mine = [json.dumps(drawn[key]) for key in drawn if key.endswith(f"@{name}")]
        assert len(set(mine)) == len(mine), f"{name}: two stages look the same"
    as_drawn = {
        n: json.dumps(drawn[f"wear.half@{n}"]) for n in ("hold-wheel", "climb", "edge", "belts", "teeth", "stop")
    }
    assert len(set(as_drawn.values())) == len(as_drawn)


def test_each_limit_that_a_machine_may_work_within_has_its_signs() -> None:
    book = CATALOG.rulebook
    said = {DEFAULT_LIMIT.text, *(d.limit for d in book.duties.values())}
    said |= {r.limit for r in book.rules} | {c.limit for c in book.combinations}
    said |= {c.limit for f in CATALOG.families.values() for c in f.checkpoints}
    said -= {None, ""}
    assert said == set(SIGNS_OF), said ^ set(SIGNS_OF)
    assert {s for signs in SIGNS_OF.values() for s in signs} == set(LimitSign)
