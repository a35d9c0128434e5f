"""Readings over the wire: the list, one by itself, in a look, and as a row over time."""

from __future__ import annotations

import json
from typing import Any

import pytest
from typer.testing import CliRunner

from jutrel.commands.begin import app_for
from jutrel.core.reading.all import READINGS, run
from tests.api.conftest import Tablets
from tests.device import Device

GOOD = {"seen": 0.6, "minutes": 600}
LOW = {"seen": -0.4, "minutes": 600}


def read(device: Device, given: dict[str, Any], at: str = "engine-oil", key: str = "engine-oil",
         replaces: tuple[str, ...] = (), **more: Any) -> dict[str, Any]:  # fmt: skip
    return device.entry("read", replaces, checkpoint=at, reading=key, given=given, **more)


def refused(device: Device, machine: str, look: str, entry: dict[str, Any]) -> dict[str, Any]:
    taken = device.send(machine, look, [entry]).json()
    assert len(taken["refused"]) == 1, taken
    return dict(taken["refused"][0])


def test_the_list_tells_everything_that_a_page_needs(tablets: Tablets) -> None:
    listed = tablets().http.get("/api/readings").json()
    assert {r["key"] for r in listed} == set(READINGS)
    for r in listed:
        assert r["sources"]
        assert all(i["name"] for i in r["inputs"])
        assert all(len(i["choices"]) == len(i["choice_names"]) for i in r["inputs"])
        assert r["input_schema"]["additionalProperties"] is False


@pytest.mark.parametrize("key", sorted(READINGS))
def test_the_api_the_command_line_and_the_core_say_the_same(key: str, tablets: Tablets) -> None:
    example = dict(READINGS[key].example)
    core = run(key, example)
    api = tablets().http.post(f"/api/readings/{key}", json={"inputs": example}).raise_for_status().json()
    said = CliRunner().invoke(app_for("calc"), ["calc", key, json.dumps(example), "--json"])
    assert said.exit_code == 0, said.output
    cli = json.loads(said.stdout)
    for name in ("value", "low", "high", "unit"):
        assert api[name] == cli[name] == getattr(core, name), name
    assert api["judgement"]["action"] == cli["judgement"]["action"] == str(core.judgement.action)
    assert api["more"] == cli["more"] == pytest.approx(dict(core.more))


def test_figures_are_written_with_any_unit_and_refused_with_their_field(tablets: Tablets) -> None:
    http = tablets().http

    def take(**inputs: Any) -> Any:
        return http.post("/api/readings/tyre-pressure", json={"inputs": {"pressure": 620, "cold": 560, "tyre_c": 46,
                                                                         **inputs}})  # fmt: skip

    plain = take().json()["value"]
    assert take(pressure="6.2 bar", tyre_c="114.8 °F", cold="560").json()["value"] == pytest.approx(plain)
    assert take(pressure="92 psi").json()["inputs"]["pressure"] == pytest.approx(634.3, abs=0.05)
    for wrong in ("92 gallons", "a lot", "1/0 psi", "9e999", "", "92 psi; drop table", "__import__('os')", 7e9, [620]):
        reply = take(pressure=wrong)
        assert reply.status_code == 422, wrong
        assert "pressure" in reply.text, wrong
    assert http.post("/api/readings/no-such", json={"inputs": {}}).status_code == 422
    assert http.post("/api/readings/tyre-pressure", content="{" * 5000).status_code in (400, 413, 422)


def test_a_look_keeps_a_reading_and_the_verdict_and_the_record_tell_it(tablets: Tablets) -> None:
    mira = tablets()
    mira.sign_in("Mira")
    look = mira.new_id()
    low = read(mira, LOW)
    assert mira.send("ex-02", look, [*mira.walk("ex-02"), low]).json()["refused"] == []
    verdict = mira.look(look)["verdict"]
    assert verdict["outcome"] == "held"
    assert [(r["key"], r["checkpoint"]) for r in verdict["readings"]] == [("engine-oil", "engine-oil")]
    # Filled, and read again with a word of it: what was found is told, and it may start.
    filled = read(mira, GOOD, replaces=(low["id"],), put_right={"done": "Filled", "amount": "4 L"})
    assert mira.send("ex-02", look, [filled]).json()["refused"] == []
    assert mira.look(look)["verdict"]["outcome"] == "ready"
    mira.send("ex-02", look, [mira.signature(look)])
    document = mira.http.get(f"/api/inspections/{look}/record.json").json()
    assert [r["key"] for r in document["verdict"]["readings"]] == ["engine-oil"]
    assert mira.pdf(look)[:4] == b"%PDF"


def test_what_is_no_reading_is_turned_away_and_nothing_half_written(tablets: Tablets) -> None:
    mira = tablets()
    mira.sign_in("Mira")
    look = mira.new_id()
    mira.send("ex-02", look, [mira.opening("ex-02")])
    before = len(mira.look(look)["entries"])
    for entry, field in (
        (read(mira, {"seen": 0.5, "minutes": 2}), "given"),
        (read(mira, {"seen": 9, "minutes": 600}), "given.seen"),
        (read(mira, {"seen": 0.5}), "given.minutes"),
        (read(mira, GOOD, at="boom"), "reading"),
        (read(mira, GOOD, at="nowhere"), "checkpoint"),
        (read(mira, GOOD, key="tyre-pressure"), "reading"),
        (read(mira, {"sag": 300, "measured": "lifted", "wanted": 100}, "sag-left", "track-sag"), "given.wanted"),
    ):
        assert field in json.dumps(refused(mira, "ex-02", look, entry)), field
    assert len(mira.look(look)["entries"]) == before


def test_a_series_grows_look_by_look_and_says_what_is_unusual(tablets: Tablets) -> None:
    mira = tablets()
    mira.sign_in("Mira")

    def series() -> list[dict[str, Any]]:
        return list(mira.http.get("/api/machines/ex-04/readings").raise_for_status().json())

    for seen in (0.70, 0.71, 0.69, 0.70, 0.72, 0.30):
        look = mira.new_id()
        first, second = read(mira, {**GOOD, "seen": 0.99}), read(mira, {**GOOD, "seen": seen})
        undone = mira.entry("undone", (first["id"],), target=first["id"], reason="slip")
        assert mira.send("ex-04", look, [mira.opening("ex-04"), first, undone, second]).json()["refused"] == []
    row = next(s for s in series() if s["key"] == "engine-oil")
    assert [p["value"] for p in row["points"]] == [0.70, 0.71, 0.69, 0.70, 0.72, 0.30]
    assert row["unusual"]
    assert row["low"] < 0.69 < 0.72 < row["high"]
    assert row["happened"] == []
    filled = read(mira, {**GOOD, "seen": 0.9})
    filled["what"] = {**filled["what"], "put_right": {"done": "Filled up", "amount": "1.5 l"}}
    assert mira.send("ex-04", mira.new_id(), [mira.opening("ex-04"), filled]).json()["refused"] == []
    row = next(s for s in series() if s["key"] == "engine-oil")
    told = [(h["work"], h["done"], h["by"]) for h in row["happened"]]
    assert told == [("put-right", "Filled up, 1.5 l", "Mira Tolland")]
    assert tablets().http.get("/api/machines/ex-04/readings").status_code == 401
    assert mira.http.get("/api/machines/no-such/readings").status_code == 404


def test_the_rest_is_sound_only_where_no_life_depends_on_it(tablets: Tablets) -> None:
    mira = tablets()
    mira.sign_in("Mira")
    look = mira.new_id()
    sound = {"answer": "sound", "together": True}
    boom, toolbox = (mira.entry("answered", checkpoint=c, **sound) for c in ("boom", "toolbox"))
    cracked = mira.entry("answered", checkpoint="toolbox", together=True, answer="unseen", reason="behind a truck")
    taken = mira.send("ex-02", look, [mira.opening("ex-02"), boom, toolbox, cracked]).json()
    assert {r["id"] for r in taken["refused"]} == {boom["id"], cracked["id"]}
    assert mira.look(look)["pace"]["together"] == 1
