"""A signed record is the same byte for byte, whatever becomes of the rules, the model, the unit and the people."""

from __future__ import annotations

import dataclasses
import io
import json
from pathlib import Path
from typing import Any

import yaml
from fastapi.testclient import TestClient
from pypdf import PdfReader

from jutrel.api.app import make_app
from jutrel.catalog.whole import FOLDER, Catalog
from jutrel.core.grading.grade import Grade
from jutrel.demo.story import WHO
from jutrel.settings import Settings
from tests.command import run
from tests.conftest import CATALOG
from tests.device import Device

WORN = {
    "answer": "defect",
    "findings": [{"failure_mode": "wear", "attributes": {"wear": "half"}, "note": "outer left"}],
}


def stricter() -> Catalog:
    """Tomorrow's catalog: every Watch is a Hold, every rule says something else, a checkpoint has another name."""
    book = CATALOG.rulebook
    rules = tuple(
        dataclasses.replace(r, says="Tomorrow's words.", grade=Grade.HOLD if r.grade else None) for r in book.rules
    )
    tomorrow = dataclasses.replace(book, version="2-tomorrow", rules=rules)
    return dataclasses.replace(CATALOG, rulebook=tomorrow, rulebooks={"house": tomorrow})


def words(pdf: bytes) -> str:
    return " ".join(" ".join(p.extract_text() for p in PdfReader(io.BytesIO(pdf)).pages).split())


def test_nothing_that_comes_later_changes_it(bare: str, tmp_path: Path) -> None:
    def read(device: Device, look: str) -> tuple[bytes, str, dict[str, Any]]:
        record = device.http.get(f"/api/inspections/{look}/record.json").raise_for_status().content
        paper = words(device.pdf(look))
        return record, paper, device.look(look)

    with TestClient(make_app(Settings(database_url=bare), CATALOG), base_url="http://yard.test") as http:
        mira = Device(http)
        mira.sign_in()
        look = mira.whole("ex-04", {"teeth": WORN})
        before = read(mira, look)

    with TestClient(make_app(Settings(database_url=bare), stricter()), base_url="http://yard.test") as http:
        pell, rolf = Device(http), Device(http)
        # The unit is filed under another model with other options, its model has a new edition, people change.
        pell.sign_in("Pell")
        data = yaml.safe_load((FOLDER / "models" / "tolvane-e24.yaml").read_text())
        data["name"], data["limits"]["track-sag"] = "E24 mark two", 280
        body = {"id": pell.new_id(), "name": "two.json", "text": json.dumps(data)}
        http.post("/api/models", json=body).raise_for_status()
        other = {"id": pell.new_id(), "name": "EX-4 B", "model_id": "tolvane-e48", "options": ["beacon"]}
        http.put("/api/machines/ex-04", json=other).raise_for_status()
        rolf.sign_in("Rolf")
        http.patch(f"/api/people/{WHO['Mira']}", json={"role": "trainer", "active": False}).raise_for_status()
        osk = Device(http)
        osk.sign_in("Osk")
        record, paper, seen = read(osk, look)
        assert record == before[0]
        assert paper == before[1]
        assert seen["verdict"] == before[2]["verdict"]
        assert seen["status"] == "signed"
        # A look of today at the same tooth is judged by today's rules.
        other_look = osk.whole("ex-03", {"teeth": WORN})
        assert osk.look(other_look)["verdict"]["outcome"] == "held"

    file = tmp_path / "record.json"
    file.write_bytes(record)
    done = run("replay", str(file))
    assert done.returncode == 0, done.stderr
    out = json.loads(done.stdout)
    assert out["same"] is True  # under the catalog that ships
    tampered = json.loads(record)
    tampered["verdict"]["outcome"] = "held"
    tampered["verdict"]["items"][0]["grade"] = "hold"
    file.write_text(json.dumps(tampered))
    done = run("replay", str(file))
    out = json.loads(done.stdout)
    assert (out["same"], out["then"]["outcome"], out["now"]["outcome"]) == (False, "held", "ready")
    assert out["changed"] == [{"checkpoint": "teeth", "failure_mode": "wear", "then": "hold", "now": "watch"}]
