"""What a watcher reads and what stands in the log: enough to find a fault by, and no person and no machine by name."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator

import pytest
import yaml
from fastapi.testclient import TestClient

from jutrel.api.app import make_app
from jutrel.demo.story import PIN, WHO
from jutrel.settings import Settings
from tests.api.test_logged import kept_lines
from tests.conftest import CATALOG, ROOT

NEAR = ("127.0.0.1", 50000)


@pytest.fixture
def near(bare: str) -> Iterator[TestClient]:
    with TestClient(make_app(Settings(database_url=bare), CATALOG), base_url="http://yard.test", client=NEAR) as client:
        yield client


def value(text: str, name: str, **labels: str) -> float:
    found = [
        float(line.rsplit(" ", 1)[1])
        for line in text.splitlines()
        if re.match(rf"{name}(\{{|\s)", line) and all(f'{k}="{v}"' in line for k, v in labels.items())
    ]
    return sum(found)


def test_a_watcher_is_told_much_and_nobody_by_name(near: TestClient) -> None:
    before = near.get("/api/metrics").text
    entered = {"person": WHO["Mira"], "pin": PIN, "device": "tablet-of-mira"}
    assert near.post("/api/session", json=entered).is_success
    for _ in range(3):
        assert near.get("/api/machines/ex-01").is_success
    assert near.get("/api/machines/nobody-has-this").status_code == 404
    after = near.get("/api/metrics").text

    def grew(name: str, **labels: str) -> float:
        return value(after, name, **labels) - value(before, name, **labels)

    of = "/api/machines/{machine}"
    assert grew("jutrel_request_seconds_count", address=of, status="2xx") == 3
    assert grew("jutrel_request_seconds_count", address=of, status="4xx") == 1
    assert value(after, "jutrel_amiss") == 0
    assert value(after, "jutrel_backup_age_seconds") == -1
    assert not [word for word in ("ex-01", "nobody-has-this", "Mira", WHO["Mira"], "tablet-of-mira") if word in after]


def test_it_is_told_on_the_machine_alone(bare: str, near: TestClient) -> None:
    app = near.app
    for client, heads in ((("192.0.2.7", 5), {}), (NEAR, {"X-Forwarded-For": "192.0.2.7"}), (NEAR, {"Forwarded": "x"})):
        far = TestClient(app, base_url="http://yard.test", client=client)
        far.portal = near.portal
        assert far.get("/api/metrics", headers=heads).status_code == 404


def test_each_alarm_is_of_something_that_is_measured_and_says_what_to_do(near: TestClient) -> None:
    text = near.get("/api/metrics").text
    rules = yaml.safe_load((ROOT / "deploy" / "alerts.yml").read_text())["groups"][0]["rules"]
    assert len(rules) >= 5
    for rule in rules:
        for name in re.findall(r"jutrel_[a-z_]+", rule["expr"]):
            assert f"\n# TYPE {re.sub('_(bucket|count|sum)$', '', name)} " in "\n" + text, name
        assert rule["annotations"]["summary"]
        assert rule["annotations"]["do"]


def test_a_request_is_found_by_its_number(near: TestClient) -> None:
    with kept_lines("INFO") as lines:
        own = near.get("/api/door")
        trace = f"00-{'a' * 32}-{'b' * 16}-01"
        given = near.get("/api/door", headers={"X-Request-Id": "proxy-4711-a", "traceparent": trace})
        bad = near.get("/api/door", headers={"X-Request-Id": "a b" + "c" * 99, "traceparent": "no trace"})
    told = [json.loads(line) for line in lines]
    assert [t["request"] for t in told] == [r.headers["x-request-id"] for r in (own, given, bad)]
    assert (given.headers["x-request-id"], told[1]["trace"]) == ("proxy-4711-a", "a" * 32)
    assert re.fullmatch("[0-9a-f]{16}", bad.headers["x-request-id"])
    assert "trace" not in told[2]
    assert (told[0]["address"], told[0]["status"], told[0]["method"]) == ("/api/door", 200, "GET")
