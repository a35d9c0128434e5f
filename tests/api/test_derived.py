"""What the core says goes over the wire as the core declares it: no second list of its fields."""

from __future__ import annotations

import dataclasses
import importlib
import pkgutil
from collections.abc import Iterator

import pytest
from pydantic import BaseModel, ValidationError

import jutrel.api
import jutrel.core
from jutrel.api.derived import MADE, wire_of
from jutrel.api.inspection.wire_finding import ConditionsIn, FindingIn
from jutrel.api.inspection.wire_verdict import VerdictOut
from jutrel.api.wire import PickOut
from jutrel.core.errors import BadInput
from jutrel.core.inspection.finding import Conditions, Finding
from jutrel.core.log.codec import decode, fields_of
from jutrel.core.wording import ENGLISH, spoken
from tests.walks import defect, verdict_of, walked

ONLY_ALIKE = {PickOut: "an id with its name, whatever it is of"}


def classes(of: object) -> Iterator[type]:
    package = of.__name__  # type: ignore[attr-defined]
    for module in pkgutil.walk_packages(of.__path__, f"{package}."):  # type: ignore[attr-defined]
        found = importlib.import_module(module.name)
        yield from (c for c in vars(found).values() if isinstance(c, type) and c.__module__ == module.name)


def test_no_wire_type_writes_out_again_what_a_dataclass_of_the_core_declares() -> None:
    made = set(MADE.values())
    wires = [c for c in classes(jutrel.api) if issubclass(c, BaseModel) and c not in made and c.model_fields]
    cores = [c for c in classes(jutrel.core) if dataclasses.is_dataclass(c)]
    again = []
    for wire in wires:
        for core in cores:
            if {f.name for f in dataclasses.fields(core)} != set(wire.model_fields):
                continue
            try:
                same = all(str(wire_of(h)) == str(wire.model_fields[n].annotation) for n, h, _ in fields_of(core))
            except (KeyError, TypeError):
                continue
            if same and wire not in ONLY_ALIKE:
                again.append(f"{wire.__name__} is {core.__name__}")
    assert len(made) > 35
    assert again == []


GOOD = {"failure_mode": "leak", "attributes": {"drops": 3}, "note": "", "put_right": {"done": "wiped", "amount": ""}}


@pytest.mark.parametrize(
    ("wire", "core", "given"),
    [
        (ConditionsIn, Conditions, {"air_c": 61}),
        (ConditionsIn, Conditions, {"air_c": "12"}),
        (ConditionsIn, Conditions, {"shift_hours": 0}),
        (ConditionsIn, Conditions, {"gap_left": -1}),
        (ConditionsIn, Conditions, {"wind": 3}),
        (FindingIn, Finding, {**GOOD, "failure_mode": "a b"}),
        (FindingIn, Finding, {**GOOD, "failure_mode": "x" * 61}),
        (FindingIn, Finding, {**GOOD, "attributes": {f"k{n}": 1 for n in range(25)}}),
        (FindingIn, Finding, {**GOOD, "note": "x" * 2001}),
        (FindingIn, Finding, {**GOOD, "note": "\x00"}),
        (FindingIn, Finding, {**GOOD, "put_right": {"done": "", "amount": ""}}),
        (FindingIn, Finding, {k: v for k, v in GOOD.items() if k != "failure_mode"}),
    ],
)
def test_what_the_core_refuses_is_refused_at_the_edge(
    wire: type[BaseModel], core: type, given: dict[str, object]
) -> None:
    with pytest.raises(BadInput) as of_core:
        decode(core, given)
    if given.get("air_c") != "12":  # a figure as text is taken at the edge, and is a figure then
        with pytest.raises(ValidationError) as at_edge:
            wire.model_validate(given)
        assert str(at_edge.value.errors()[0]["loc"][0]) == str(of_core.value.field).split(".")[0]


def test_what_goes_out_holds_every_field_and_a_good_one_comes_in_as_it_is() -> None:
    verdict = verdict_of(walked({"engine-oil": defect("leak", leak_class="III", drops=60.0, seconds=30.0)}))
    told = spoken(verdict, ENGLISH)
    assert VerdictOut.model_validate(told).model_dump(mode="json").keys() == {*told, "limit_signs"}
    assert FindingIn.model_validate(GOOD).model_dump() == GOOD
    assert ConditionsIn().model_dump() == dataclasses.asdict(Conditions())
