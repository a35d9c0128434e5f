"""A file to be filled in asks for all that is needed: filled with what a model that ships says, it is that model."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
import yaml

from jutrel.catalog import catalog
from jutrel.catalog.blank import blank_family, blank_model
from jutrel.catalog.files import BadFile, SourceFile
from jutrel.catalog.models import build_model
from jutrel.catalog.traits import Traits
from jutrel.catalog.whole import FOLDER
from jutrel.core.machine.drawing.part import holds
from jutrel.core.wording import ENGLISH
from jutrel.exchange.drawn_svg import VIEWS, checkpoint_names, drawing_svg
from tests.command import run

CATALOG = catalog()
FIRST = {family: next(m for m in CATALOG.models.values() if m.family.id == family) for family in CATALOG.families}


def filled(blank: object, model: object) -> object:
    """What the blank asks for, with the model's values; it may say more than the model."""
    if isinstance(blank, dict) and isinstance(model, dict):
        return {k: filled(v, model[k]) for k, v in blank.items() if k in model}
    return model


@pytest.mark.parametrize("family", sorted(FIRST))
def test_a_blank_model_asks_for_all_that_is_needed(family: str) -> None:
    model = FIRST[family]
    text = blank_model(CATALOG.families[family], CATALOG.drawings, "made-new")
    ships = yaml.safe_load((FOLDER / "models" / f"{model.id}.yaml").read_text())
    blank = yaml.safe_load(text)
    assert set(ships) - set(blank) == set()
    whole = filled(blank, {**ships, "id": "made-new"})

    def built(data: object) -> object:
        source = SourceFile(Path("made-new.yaml"), json.dumps(data))
        return build_model(source, CATALOG.families, CATALOG.schools, CATALOG.drawings)

    again = built(whole)
    assert again.places == model.places  # type: ignore[attr-defined]
    assert again.limits == model.limits  # type: ignore[attr-defined]
    # nothing of it can be left as it was printed
    for key in ("maker", "shape", "tank", "reserves", "access", "stations"):
        with pytest.raises(BadFile) as refused:
            built({**whole, key: blank[key]})  # type: ignore[dict-item]
        assert refused.value.field.startswith(key)


def test_a_blank_family_asks_every_question() -> None:
    traits = Traits(FOLDER / "traits.yaml")
    text = blank_family(traits, "road-roller")
    assert yaml.safe_load(text)["id"] == "road-roller"
    for group in traits.file.groups:
        assert group.asks in text
    for trait in traits.file.traits:
        assert re.search(rf"# - {trait.id} ", text), trait.id
        for due in trait.owes:
            assert all(owed in text for owed in [*due.checkpoints, *due.steps])


@pytest.mark.parametrize("view", VIEWS)
def test_a_drawing_is_an_svg_with_its_places(view: str) -> None:
    model = CATALOG.models["ostrelle-q55"]
    names = checkpoint_names(model, "", ENGLISH)
    drawn = drawing_svg(model, view, names)
    found = set(re.findall(r'<g id="([^"]+)">', drawn))
    side = {"above": names, "left": [c for c in names if model.places[c][1] >= 0]}.get(view)
    assert found == set(side if side is not None else [c for c in names if model.places[c][1] <= 0])
    if view == "above":  # and the circle stands on its part
        circle = re.search(r'<g id="fuel-level"><circle cx="([-\d.]+)" cy="([-\d.]+)"', drawn)
        assert circle is not None
        part = next(p for p in model.parts if p.id == model.on_part["fuel-level"])
        assert holds(part, (float(circle[1]), -float(circle[2]), model.places["fuel-level"][2]))


def test_at_the_terminal(tmp_path: Path) -> None:
    blank = tmp_path / "new.yaml"
    blank.write_text(run("new", "model", "wheel-loader", "maker-new").stdout)
    missing = run("check-model", str(blank))
    assert (missing.returncode, "new.yaml, line" in missing.stderr) == (2, True)
    assert "one of" in run("new", "model", "boat", "x").stderr
    assert "What does it run on?" in run("new", "family", "road-roller").stdout
    assert run("draw", "korveth-kw32", "--view", "right", "--station", "bay-right").stdout.count("<circle") > 4
    assert "one of above" in run("draw", "korveth-kw32", "--view", "inside").stderr
    assert "one of approach" in run("draw", "korveth-kw32", "--station", "moon").stderr
