"""The record: valid against its schema, complete on paper, and graded alike from the file."""

from __future__ import annotations

import io
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import jsonschema
import pytest
from fastapi.testclient import TestClient
from PIL import Image
from pypdf import PdfReader

from jutrel.api.app import make_app
from jutrel.demo.shifts import SHIFTS
from jutrel.demo.story import story
from jutrel.exchange.record import record_schema
from jutrel.settings import Settings
from tests.command import run
from tests.conftest import CATALOG
from tests.device import Device
from tests.walks import MODEL

ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture
def tablet(demo: str) -> Iterator[Device]:
    with TestClient(make_app(Settings(database_url=demo), CATALOG), base_url="http://yard.test") as http:
        device = Device(http)
        device.sign_in()
        yield device


def test_the_schema_in_docs_is_the_one_in_force() -> None:
    jsonschema.Draft202012Validator.check_schema(record_schema())
    assert json.loads((ROOT / "docs/record.schema.json").read_text()) == record_schema()


def test_every_demo_record_is_valid_and_grades_alike(tablet: Device, tmp_path: Path) -> None:
    """What the server said, `jutrel grade` says of the exported file, to the last sentence of the trace."""
    every = tablet.http.get("/api/inspections", params={"limit": 200}).json()["inspections"]
    rows = [r for r in every if r["kind"] != "run"]
    assert (len(rows), len(every) - len(rows)) == (len(story()), len(SHIFTS))
    validator = jsonschema.Draft202012Validator(record_schema(), format_checker=jsonschema.FormatChecker())
    outcomes = set()
    held: list[str] = []
    for number, row in enumerate(rows):
        text = tablet.http.get(f"/api/inspections/{row['id']}/record.json").text
        record = json.loads(text)
        validator.validate(record)
        outcomes.add(record["verdict"]["outcome"])
        if number < 1 or (record["verdict"]["outcome"] == "held" and len(held) < 2):
            held += [row["id"]] if record["verdict"]["outcome"] == "held" else []
            file = tmp_path / f"{row['id']}.json"
            file.write_text(text)
            done = run("grade", str(file))
            assert done.returncode == 0, done.stderr
            out = json.loads(done.stdout)
            assert out["verdict"] == record["verdict"]
            assert (out["rest_assumed_sound"], out["same_rulebook"]) == (False, True)
    assert outcomes >= {"ready", "ready-mends-due", "limited", "held"}


def test_findings_alone(tmp_path: Path) -> None:
    file = tmp_path / "findings.json"
    leak = {
        "checkpoint": "main-pump",
        "failure_mode": "leak",
        "attributes": {"leak_class": "II", "coupling": "flat-face"},
    }
    file.write_text(json.dumps({"model": MODEL.id, "findings": [leak]}))
    out = json.loads(run("grade", str(file)).stdout)
    assert out["rest_assumed_sound"] is True
    assert out["verdict"]["outcome"] == "held"
    assert out["verdict"]["items"][0]["trace"][-1]["rule"] == "power.leak.II+flat-face+pressurised"


@pytest.mark.parametrize(
    ("content", "says"),
    [
        ("{", "is not JSON"),
        ("[]", "not an object"),
        ("{}", "findings: give an exported record"),
        ('{"model": "x", "findings": []}', "no model 'x'"),
        (
            '{"model": "tolvane-e24", "findings": [{"checkpoint": "wing", "failure_mode": "leak"}]}',
            "no checkpoint 'wing'",
        ),
        ('{"model": "tolvane-e24", "findings": [{"checkpoint": "boom", "failure_mode": "rot"}]}', "'rot' is not known"),
        ('{"model": "tolvane-e24", "findings": [{"failure_mode": "leak"}]}', "names its checkpoint"),
        ('{"model": "tolvane-e24", "findings": [], "conditions": {"fog": true}}', "conditions.fog"),
        ('{"format": "jutrel-record", "machine": {}}', "machine"),
    ],
)
def test_files_that_cannot_be_graded(tmp_path: Path, content: str, says: str) -> None:
    file = tmp_path / "bad.json"
    file.write_text(content)
    done = run("grade", str(file))
    assert done.returncode == 2
    assert says in done.stderr
    assert "Traceback" not in done.stderr


def test_paper(tablet: Device) -> None:
    inspection = tablet.new_id()
    defect: dict[str, Any] = {
        "answer": "defect",
        "findings": [
            {
                "failure_mode": "leak",
                "note": "wet & <shiny>",
                "attributes": {
                    "leak_class": "II",
                    "coupling": "flat-face",
                },
            }
        ],
    }
    tablet.send(
        "ex-04",
        inspection,
        tablet.walk("ex-04", {"boom-lines": defect, "slew-bolts": {"answer": "unseen", "reason": "mud"}}),
    )
    photos = [tablet.new_id() for _ in range(2)]
    tablet.send("ex-04", inspection, [tablet.entry("photographed", photo=p, checkpoint="boom-lines") for p in photos])
    kept = tablet.entry("noted", text="ring ordered <today>", checkpoint="boom-lines")
    gone = tablet.entry("noted", text="wrong machine", checkpoint="boom")
    tablet.send("ex-04", inspection, [kept, gone])
    tablet.send("ex-04", inspection, [tablet.entry("undone", target=gone["id"])])
    raw = io.BytesIO()
    Image.new("RGB", (640, 480), "olive").save(raw, "PNG")
    tablet.http.put(f"/api/photos/{photos[0]}", params={"inspection": inspection}, content=raw.getvalue())

    def read() -> tuple[PdfReader, str]:
        reply = tablet.http.get(f"/api/inspections/{inspection}/record.pdf")
        assert reply.headers["content-type"] == "application/pdf"
        reader = PdfReader(io.BytesIO(reply.content))
        return reader, " ".join(" ".join(p.extract_text() for p in reader.pages).split())

    unsigned, text = read()
    assert "NOT SIGNED" in text
    tablet.send("ex-04", inspection, [tablet.signature(inspection)])
    paper, text = read()
    page = paper.pages[0].mediabox
    assert (round(float(page.width)), round(float(page.height))) == (595, 842)  # A4
    for words in (
        "EX-04",
        "Held",
        "do not tighten",
        "wet & <shiny>",
        "NOT SEEN",
        "Signed by Mira Tolland",
        "photo has not arrived",
        "power.leak.II+flat-face",
        "come before this record",
        "times in UTC+1",
    ):
        assert words in text, words
    names = [c.name for c in MODEL.family.checkpoints if c.option in (None, "auto-lube") and not c.when]
    assert all(" ".join(n.split()) in text for n in names)
    assert "ring ordered <today> · Mira Tolland" in text
    assert "wrong machine" not in text  # taken back
    assert "Positioning masts" not in text  # an option this unit has not
    assert sum(len(p.images) for p in paper.pages) == 1
    assert len(unsigned.pages) <= 5
