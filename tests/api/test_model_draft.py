"""A model file while somebody writes it: drawn as far as it goes, what is missing in sentences, nothing kept."""

from __future__ import annotations

from typing import Any

import pytest

from jutrel.catalog import catalog
from jutrel.core.machine.drawing import plan_drawing
from jutrel.service.machine.models import shipped_file
from tests.api.conftest import Tablets
from tests.device import Device

MODELS = [next(m for m in catalog().models.values() if m.family.id == f) for f in catalog().families]


def draft(me: Device, text: str) -> dict[str, Any]:
    return dict(me.http.post("/api/model-draft", json={"text": text}).raise_for_status().json())


def test_each_family_is_drawn_as_it_is_and_without_a_figure_all_the_same(tablets: Tablets) -> None:
    me = tablets()
    me.sign_in("Dag")
    for model in MODELS:
        text = shipped_file(catalog(), model.id)
        whole = draft(me, text)
        assert (whole["good"], whole["missing"], whole["borrowed"]) == (True, [], ""), whole["says"]
        assert whole["above"]["bounds"] == list(plan_drawing(model).bounds)
        figure, value = next(iter(model.shape.items()))
        given = f"{figure}: {value:g}"
        assert given in text, given
        for wrong in ("", f"{figure}: -4", f"{figure}: true", f"{figure}: .nan", f"{figure}: [1]"):
            less = draft(me, text.replace(given, wrong, 1).replace("{, ", "{", 1))
            assert not less["good"]
            if less["missing"]:
                assert [m["figure"] for m in less["missing"]] == [figure], (model.id, wrong)
                assert less["borrowed"]
                assert less["above"]["shapes"], "it is drawn with what stands in"
            assert less["says"]
    assert len(me.http.get("/api/models").json()["models"]) == len(catalog().models), "nothing was kept"


@pytest.mark.parametrize(
    ("text", "line"),
    [
        ("", 1),
        ("- a\n- b\n", 1),
        ("id: x\n  bad: [", 2),
        ("id: x\nfamily: hovercraft\n", 1),
        ("family: wheel-loader\nshape: 7\n", 1),
        ("family: wheel-loader\nshape: {wheelbase: 1e999}\n", 1),
        ("a: " + "[" * 400 + "]" * 400, 1),
        ("family: [wheel-loader]\n", 1),
    ],
)
def test_whatever_is_typed_has_an_answer(tablets: Tablets, text: str, line: int) -> None:
    me = tablets()
    me.sign_in("Pell")
    said = draft(me, text)
    assert not said["good"]
    assert said["line"] >= line
    assert said["says"]


def test_only_who_may_take_models_in_drafts_them(tablets: Tablets) -> None:
    me = tablets()
    me.sign_in("Mira")
    assert me.http.post("/api/model-draft", json={"text": ""}).status_code == 403
