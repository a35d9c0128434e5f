"""The API keeps to its own OpenAPI document, also when it is sent nonsense."""

from __future__ import annotations

import httpx
import schemathesis
from hypothesis import HealthCheck, given, settings
from schemathesis.checks import load_all_checks

from tests.conftest import Serve
from tests.device import Device


def test_the_api_keeps_to_its_own_document(bare: str, serve: Serve) -> None:
    base = serve(bare)
    with httpx.Client(base_url=base) as http:
        device = Device(http)
        device.sign_in("Rolf")
        cookie = {"cookie": f"jutrel={http.cookies['jutrel']}"}
    load_all_checks()
    schema = schemathesis.openapi.from_url(f"{base}/api/openapi.json")
    wanted = schemathesis.checks.CHECKS.get_by_names(
        ["not_a_server_error", "status_code_conformance", "content_type_conformance", "response_schema_conformance"]
    )
    seen = 0
    for result in schema.exclude(path="/api/session", method="DELETE").get_all_operations():
        operation = result.ok()

        @settings(
            max_examples=12, deadline=None, suppress_health_check=list(HealthCheck), database=None, derandomize=True
        )
        @given(case=operation.as_strategy())
        def check(case: schemathesis.Case) -> None:
            case.call_and_validate(headers=cookie, checks=wanted, timeout=20)

        check()
        seen += 1
    assert seen >= 15
