"""The API keeps to its own OpenAPI document, also when it is sent nonsense, by whoever is signed in."""

from __future__ import annotations

from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from schemathesis.checks import load_all_checks

from jutrel.api.app import make_app
from jutrel.settings import Settings
from tests.conftest import CATALOG, Serve
from tests.deep import DEEP
from tests.device import Device
from tests.patience import PATIENCE_S, client

ROLES = {"Mira": "operator", "Dag": "mechanic", "Rolf": "administrator"}


@pytest.mark.parametrize("who", list(ROLES) if DEEP else list(ROLES)[-1:])
def test_the_api_keeps_to_its_own_document(bare: str, serve: Serve, who: str) -> None:
    base = serve(bare)
    with client(base) as http:
        device = Device(http)
        device.sign_in(who)
        cookie = {"cookie": f"jutrel={http.cookies['jutrel']}"}
        load_all_checks()
        schema = schemathesis.openapi.from_url(f"{base}/api/openapi.json", timeout=PATIENCE_S)
        wanted = schemathesis.checks.CHECKS.get_by_names(
            ["not_a_server_error", "status_code_conformance", "content_type_conformance", "response_schema_conformance"]
        )
        seen, good, sent, stored = 0, 0, 0, 0
        looks: dict[str, str] = {}
        for result in schema.exclude(path="/api/session", method="DELETE").get_all_operations():
            operation = result.ok()
            entries = operation.path == "/api/entries"

            @settings(
                max_examples=(90 if DEEP else 45) if entries else (4 if DEEP else 3),
                deadline=None,
                suppress_health_check=list(HealthCheck),
                database=None,
                derandomize=True,
            )
            @given(
                case=operation.as_strategy(),
                machine=st.sampled_from(["ex-01", "ex-02", "gr-09"]),
                at_home=st.booleans(),
            )
            def check(case: Any, machine: str, at_home: bool) -> None:
                nonlocal good, sent, stored
                entries = case.operation.path == "/api/entries"
                if entries and isinstance(case.body, dict) and isinstance(case.body.get("entries"), list):
                    # A state to work on: a machine that is there, a look of its own, the person who is signed in.
                    case.body["machine"] = machine
                    case.body["stream"] = looks.setdefault(machine, device.new_id())
                    for e in case.body["entries"]:
                        if isinstance(e, dict) and at_home:
                            e |= {"by": device.by, "id": device.new_id(), "at": "2026-05-04T06:00:00Z"}
                elif case.path_parameters and at_home:
                    case.path_parameters |= {
                        k: v
                        for k, v in {"machine": machine, "inspection": looks.get(machine)}.items()
                        if k in case.path_parameters and v
                    }
                response = case.call(headers=cookie, timeout=PATIENCE_S)
                case.validate_response(response, checks=wanted)
                if entries:
                    sent += 1
                    good += response.status_code == 200
                    if response.status_code == 200:
                        stored += len(response.json()["stored"])

            check()
            seen += 1
    assert seen >= 20
    assert good > 0.6 * sent, (good, sent)
    assert (stored > 5) == (who != "Rolf"), stored


def test_no_text_comes_in_that_the_database_cannot_hold() -> None:
    """A NUL in a text is refused with the field's name, wherever a text comes in; PostgreSQL has no place for one."""
    document = make_app(Settings(database_url="postgresql+psycopg://nobody@127.0.0.1:1/none"), CATALOG).openapi()
    seen: set[str] = set()
    open_: list[str] = []

    def look(schema: dict[str, Any], where: str) -> None:
        if "$ref" in schema:
            name = schema["$ref"].rpartition("/")[2]
            if name not in seen:
                seen.add(name)
                look(document["components"]["schemas"][name], name)
            return
        for key in ("anyOf", "oneOf", "allOf", "prefixItems"):
            for part in schema.get(key, []):
                look(part, where)
        for name, part in schema.get("properties", {}).items():
            look(part, f"{where}.{name}")
        for key in ("items", "additionalProperties"):
            if isinstance(schema.get(key), dict):
                look(schema[key], where)
        if (
            schema.get("type") == "string"
            and not {"pattern", "enum", "format", "const", "contentMediaType"} & schema.keys()
        ):
            open_.append(where)

    for path, deeds in document["paths"].items():
        for verb, deed in deeds.items():
            for parameter in deed.get("parameters", []):
                if parameter["in"] != "header":  # none of them can hold one
                    look(parameter["schema"], f"{verb} {path} {parameter['name']}")
            for kind, body in deed.get("requestBody", {}).get("content", {}).items():
                if kind == "application/json":
                    look(body["schema"], f"{verb} {path}")
    # What reads a model file refuses it by itself, with its line.
    assert set(open_) == {"ModelIn.text", "ModelDraftIn.text"}
    assert len(seen) > 40
