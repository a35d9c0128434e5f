"""`jutrel route` and the commands for model files, as a person at a terminal uses them."""

from __future__ import annotations

import itertools
import json
import math
from pathlib import Path
from typing import Any

import pytest

from tests.command import run


def route(*arguments: str) -> dict[str, Any]:
    done = run("route", *arguments, "--json")
    assert done.returncode == 0, done.stderr
    out: dict[str, Any] = json.loads(done.stdout)
    return out


def test_order_legs_polylines_seconds() -> None:
    out = route("korveth-kw64", "--options", "quick-coupler,ride-control", "--pin-start", "bucket", "--block", "rear")
    (person,) = out["people"]
    assert person["order"][:2] == ["approach", "bucket"]
    assert person["order"][-1] == "cab"
    legs = {leg["station"]: leg for leg in person["legs"]}
    assert legs["rear"]["blocked"] is True
    assert [leg["station"] for leg in person["legs"]] == person["order"]
    for before, leg in itertools.pairwise(person["legs"]):
        assert leg["line"][0] == before["line"][-1]  # one line from the first step to the last
        length = sum(math.dist(a, b) for a, b in itertools.pairwise(leg["line"]))
        assert leg["metres"] <= length + 0.01
        assert leg["seconds"] >= leg["climb_s"]
    assert person["moving_s"] == pytest.approx(sum(leg["seconds"] for leg in person["legs"]), abs=0.1)
    assert person["looking_s"] == sum(leg["look_s"] for leg in person["legs"])
    assert person["seconds"] == pytest.approx(person["moving_s"] + person["looking_s"], abs=0.02)
    assert {"first", "then", "says"} == set(out["rules"][0])
    two = route("korveth-kw64", "--people", "2", "--beside", "rear=5")["people"]
    assert len(two) == 2
    assert max(p["seconds"] for p in two) < person["seconds"]
    plain = run("route", "korveth-kw64").stdout
    assert "walking and climbing" in plain


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["nothing"], "no model 'nothing'"),
        (["korveth-kw64", "--options", "wings"], "'wings' is not an option"),
        (["korveth-kw64", "--pin-start", "moon"], "no station 'moon'"),
        (["korveth-kw64", "--pin-start", "cab"], "cannot be the first"),
        (["korveth-kw64", "--block", "moon"], "no station 'moon'"),
        (["korveth-kw64", "--kind", "stroll"], "'stroll' is no kind"),
        (["korveth-kw64", "--answers", "fog"], "asks nothing called 'fog'"),
        (["korveth-kw64", "--beside", "left"], "write it like left=0.5"),
        (["korveth-kw64", "--beside", "above=2"], "a side is one of"),
    ],
)
def test_what_cannot_be_asked(arguments: list[str], says: str) -> None:
    done = run("route", *arguments)
    assert done.returncode == 2
    assert says in done.stderr
    assert "Traceback" not in done.stderr


def test_model_files_at_the_terminal(tmp_path: Path) -> None:
    file = tmp_path / "grader.json"
    file.write_text(run("export-model", "sandvarn-p14", "--json").stdout)
    good = run("check-model", str(file))
    assert good.returncode == 0
    assert "Sandvarn P14: good; 12 stations" in good.stdout
    data = json.loads(file.read_text())
    data["shape"]["gauge"] = "wide"
    file.write_text(json.dumps(data, indent=1))
    bad = run("check-model", str(file))
    line = next(i for i, text in enumerate(file.read_text().splitlines(), 1) if '"gauge"' in text)
    assert bad.returncode == 2
    assert f"grader.json, line {line}, shape.gauge: " in bad.stderr
    assert run("check-model", str(tmp_path / "none.yaml")).returncode == 2
    assert "no model 'x'" in run("export-model", "x").stderr
