"""What a family is made of, and what it owes: no family without a duty that a life depends on.

How it could send somebody out: a new family, made from files, that nobody walks to the brakes of.
"""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from jutrel.api.app import make_app
from jutrel.catalog.documents.families import FamilyFile
from jutrel.catalog.files import BadFile, SourceFile
from jutrel.catalog.load import load_catalog
from jutrel.catalog.traits import Traits
from jutrel.catalog.whole import FOLDER, Catalog
from jutrel.core.machine.family import SystemClass
from jutrel.settings import Settings
from tests.conftest import CATALOG
from tests.device import CRACK, OPTIONS, Device, whole_run

TRAITS = Traits(FOLDER / "traits.yaml")
FAMILIES = sorted(CATALOG.families)


def file_of(family: str) -> tuple[SourceFile, FamilyFile]:
    source = SourceFile(FOLDER / "families" / f"{family}.yaml")
    return source, source.parse(FamilyFile)


def copied(to: Path) -> Path:
    """A copy of the catalog that ships."""
    for path in FOLDER.rglob("*.yaml"):
        place = to / path.relative_to(FOLDER)
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_bytes(path.read_bytes())
    return to


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    return copied(tmp_path)


@pytest.mark.parametrize("name", FAMILIES)
def test_a_family_without_any_one_life_duty_is_refused(name: str) -> None:
    family, (source, file) = CATALOG.families[name], file_of(name)
    duties = {c.duty.id for c in family.checkpoints if c.kind is SystemClass.LIFE and c.option is None}
    assert len(duties) > 9
    for duty in duties:
        without = replace(family, checkpoints=tuple(c for c in family.checkpoints if c.duty.id != duty))
        with pytest.raises(BadFile, match="owes the checkpoint"):
            TRAITS.check_checkpoints(source, file, without)


@pytest.mark.parametrize("name", FAMILIES)
def test_each_thing_that_is_owed_is_missed(name: str) -> None:
    family, (source, file) = CATALOG.families[name], file_of(name)
    steps = CATALOG.procedures[name]
    owed = list(TRAITS.owed(source, file))
    assert len(owed) > 60
    for due in owed:
        left = replace(family, checkpoints=tuple(c for c in family.checkpoints if c.id not in due.one_of))
        fewer = [s for s in steps if s.id not in due.one_of]
        with pytest.raises(BadFile, match=re.escape(due.one_of[0])) as refused:
            (TRAITS.check_steps(source, file, fewer) if due.step else TRAITS.check_checkpoints(source, file, left))
        assert any(d.says in str(refused.value) for d in owed if set(d.one_of) & set(due.one_of))


def test_every_life_step_of_the_run_is_owed_by_somebody() -> None:
    """A life step that no trait speaks of would go with its line."""
    owed = {x for name in FAMILIES for due in TRAITS.owed(*file_of(name)) if due.step for x in due.one_of}
    life = {s.id for steps in CATALOG.procedures.values() for s in steps if s.life}
    assert life - owed == {"detection-left", "detection-right"}  # where a camera is fitted there besides


def test_a_family_that_says_nothing_of_what_stops_it_is_refused_with_the_question(folder: Path) -> None:
    path = folder / "families" / "wheel-loader.yaml"
    text = path.read_text()
    for of, to, says in (
        ("service-brake, ", "", "What stops and holds it? Name one of service-brake, hydrostatic, travel-levers"),
        (
            "service-brake, ",
            "service-brake, hydrostatic, travel-levers, ",
            "Name one of service-brake, hydrostatic, travel-levers, not several",
        ),
        ("[wheels, ", "[legs, ", "there is no trait 'legs'"),
        ("front-left, front-right, rear-left", "front-left, front-right, middle-left", "tyre-middle-left"),
        ("each: {", "each: {} # ", "name each: wheels"),
    ):
        path.write_text(text.replace(of, to, 1))
        with pytest.raises(BadFile, match=re.escape(says)) as refused:
            load_catalog(folder)
        assert "wheel-loader.yaml, line" in str(refused.value)


def drawn(folder: Path) -> str:
    """Its own drawing: the wheel loader's frames and wheels, a blade and two push arms for bucket and lift arms."""
    text = (folder / "drawings" / "wheel-loader.yaml").read_text().replace("id: wheel-loader", "id: wheeled-dozer", 1)
    gone = re.compile(r"  - \{id: (bucket|edge|tooth|coupler|tilt-linkage|lift-arm),")
    text = "\n".join(line for line in text.split("\n") if not gone.match(line))
    parts = """parts:
  - id: push-arm
    kind: bar
    both: true
    spine: [[0.6, frame_half, r], [hinge, bucket_half * 0.7, 0.4]]
    wide: [0.2, 0.2]
    deep: [0.24, 0.24]
  - {id: blade, role: tool, x: [hinge - 0.1, hinge + 0.3], y: [-bucket_half, bucket_half], z: [0, bucket_height]}
"""
    places = """places:
  trunnions: {part: push-arm-left, side: left, at: [0.06]}
  blade-pins: {part: push-arm-left, side: left, at: [0.95]}
  equaliser: {part: front-frame, side: bottom, at: [0.5, 0.5]}
"""
    told = (("lift-arm-left", "push-arm-left"), ("lift-arm-right", "push-arm-right"), ("part: edge,", "part: blade,"))
    for of, to in (
        ("parts:\n", parts),
        ("places:\n", places),
        *told,
        ("part: coupler", "part: blade"),
        ("part: bucket,", "part: blade,"),
    ):
        text = text.replace(of, to)
    return text


def made(folder: Path) -> Catalog:
    """A wheeled dozer: known traits in a new order, by files alone."""
    text = (folder / "families" / "wheel-loader.yaml").read_text()
    text = text.replace("id: wheel-loader\nname: Wheel loader", "id: wheeled-dozer\nname: Wheeled dozer", 1)
    say = "system: structure, how_kind: look, look: whole, why: It falls., how: Look., modes: [crack, wear]"
    parts = {"trunnions": "Push arm trunnions", "blade-pins": "Blade pins", "equaliser": "Frame pin"}
    own = "".join(f'      - {{id: {id}, name: "{name}", duty: hold-tool, {say}}}\n' for id, name in parts.items())
    text = text.replace("shape: wheel-loader", "shape: wheeled-dozer", 1)
    text = text.replace("fixed-house, lift-arms", "fixed-house, push-blade", 1)
    lost = re.compile(r"(id|at|use): (arm-prop|bucket-pins|linkage)[,}]")
    text = "\n".join(line for line in text.split("\n") if not lost.search(line))
    first = "stance: standing before the bucket, bucket on the ground\n    checkpoints:\n"
    assert first in text
    text = text.replace(first, first + own, 1)
    (folder / "families" / "wheeled-dozer.yaml").write_text(text)
    model = (folder / "models" / "korveth-kw32.yaml").read_text()
    model = model.replace("korveth-kw32", "korveth-d9", 1).replace("family: wheel-loader", "family: wheeled-dozer")
    (folder / "models" / "korveth-d9.yaml").write_text(model)
    (folder / "drawings" / "wheeled-dozer.yaml").write_text(drawn(folder))
    return load_catalog(folder)


def test_a_family_of_known_traits_is_files_alone(folder: Path, bare: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """Walk, drawing, run, grease and grading of a machine that no line of code has heard of."""
    catalog = made(folder)
    family = catalog.families["wheeled-dozer"]
    steps = {s.id for s in catalog.procedures[family.id]}
    assert {"park-brake-test", "lock-bar", "tool-down", "detection-test"} <= steps
    assert {"bucket-down", "body-down", "slew-test"}.isdisjoint(steps)
    with TestClient(make_app(Settings(database_url=bare), catalog), base_url="http://yard.test") as http:
        pell, mira = Device(http), Device(http)
        pell.sign_in("Pell")
        file = {"id": pell.new_id(), "name": "WD-01", "model_id": "korveth-d9", "hour_meter": 12.0}
        assert http.put("/api/machines/wd-01", json=file).is_success
        mira.sign_in("Mira")
        walk = http.post("/api/machines/wd-01/walk", json={}).raise_for_status().json()
        assert {c["id"] for c in walk["checkpoints"]} > {"trunnions", "wheel-nuts-rear-right", "lock-bar"}
        monkeypatch.setitem(OPTIONS, "wd-01", frozenset())
        look = mira.whole("wd-01", {"trunnions": CRACK})
        verdict = mira.look(look)["verdict"]
        assert (verdict["outcome"], verdict["items"][0]["checkpoint"]) == ("held", "trunnions")
        shapes = {s["part"] for s in walk["drawing"]["shapes"]}
        assert {"blade", "push-arm-left", "tyre-rear-right"} <= shapes
        assert "bucket" not in shapes
        spot = {c["id"]: c for c in walk["checkpoints"]}
        assert (spot["trunnions"]["part"], spot["trunnions"]["side"]) == ("push-arm-left", "left")
        run = whole_run(http.get("/api/machines/wd-01/run").raise_for_status().json())
        asked = {s["id"]: s for s in run["steps"]}
        sometimes = {"limits"} | {
            s.id for s in catalog.procedures[family.id] if s.options or s.without or s.schools or s.when
        }
        assert steps - set(asked) <= sometimes
        assert not run["gate"]["may"]
        greased = {p.at for s in catalog.procedures[family.id] for p in s.points}
        assert {"arms", "joint-pins"} <= greased <= {c.id for c in family.checkpoints}
