"""An option that a unit has not leaves no trace: not in its walk, not in its record, not on paper."""

from __future__ import annotations

import io

import pytest
from fastapi.testclient import TestClient
from pypdf import PdfReader

from jutrel.api.app import make_app
from jutrel.catalog import catalog
from jutrel.core.machine.model import Model
from jutrel.settings import Settings
from tests.conftest import CATALOG
from tests.deep import DEEP
from tests.device import Device

# Answers that bring in nearly every checkpoint that hangs on one.
GIVEN = {"moved", "serviced", "transported", "rain", "dark", "slope"}
EVERYTHING = {**dict.fromkeys(sorted(GIVEN - {"slope"}), True), "pitch_deg": 4.0}


def paper(device: Device, machine: str, model: Model, options: list[str]) -> tuple[set[str], set[str], str]:
    """The checkpoints of walk and record, and the words on paper, of a unit with these options."""
    body = {"id": device.new_id(), "name": machine.upper(), "model_id": model.id, "options": options}
    device.http.put(f"/api/machines/{machine}", json=body).raise_for_status()
    walk = device.http.post(f"/api/machines/{machine}/walk", json={"conditions": EVERYTHING}).json()
    inspection = device.new_id()
    opening = device.entry("opened", hour_meter=1.0, options=sorted(options), conditions=EVERYTHING)
    assert device.send(machine, inspection, [opening]).json()["refused"] == []
    record = device.http.get(f"/api/inspections/{inspection}/record.json").raise_for_status().json()
    pdf = PdfReader(io.BytesIO(device.pdf(inspection)))
    text = " ".join(" ".join(p.extract_text() for p in pdf.pages).split())
    return {c["id"] for c in walk["checkpoints"]}, {c["id"] for c in record["checkpoints"]}, text


def first_with(option: str, model: Model) -> Model:
    """The first model of the family that can have an option: each option of each family is tried once."""
    return next(m for m in catalog().models.values() if m.family is model.family and option in m.options)


MODELS = list({m.family.id: m for m in catalog().models.values()}.values())
"""One of each family; a third of them in every run, all models by `make test-deep`."""


@pytest.mark.parametrize("model", catalog().models.values() if DEEP else MODELS[::3], ids=lambda m: m.id)
def test_option_off_and_its_checkpoints_are_gone(bare: str, model: Model) -> None:
    by_option = {o: {c.id for c in model.family.checkpoints if c.option == o} for o in model.options}
    shared = {c.name for c in model.family.checkpoints if c.option is None}
    with TestClient(make_app(Settings(database_url=bare), CATALOG), base_url="http://yard.test") as http:
        device = Device(http)
        device.sign_in("Dag")
        walk, record, text = paper(device, "full", model, list(model.options))
        everything = {
            c.id
            for c in model.family.checkpoints
            if (c.option is None or c.option in model.options)
            and (not c.when or GIVEN & set(c.when))
            and not GIVEN & set(c.not_when)
        }
        assert walk == record == everything
        for c in model.family.checkpoints:
            if c.id in everything:
                assert " ".join(c.name.split()) in text, c.id
        steps = {o for s in CATALOG.procedures[model.family.id] for o in s.options | s.without}
        steps |= {o for s in CATALOG.procedures[model.family.id] for p in s.parts for o in p.options}
        needs = {o.id: set(o.needs) for o in model.family.options}
        assert steps >= {o for o in model.options if not by_option[o]}, "an option that brings nothing at all"
        for number, off in enumerate(o for o in model.options if by_option[o] and first_with(o, model) is model):
            rest = [o for o in model.options if o != off and off not in needs[o]]
            walk, record, text = paper(device, f"unit-{number}", model, rest)
            assert walk == record == everything - by_option[off], off
            for c in model.family.checkpoints:
                if c.option == off and not any(c.name in name for name in shared):
                    assert " ".join(c.name.split()) not in text, c.name
