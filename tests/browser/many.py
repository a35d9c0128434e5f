"""A yard of hundreds, made of the few that the server tells."""

from __future__ import annotations

import json
from typing import Any

from playwright.sync_api import Route

MANY = 500


def grown(route: Route) -> None:
    """Answer with each machine of the yard many times under other numbers."""
    told: dict[str, Any] = route.fetch(headers={**route.request.headers, "if-none-match": ""}).json()
    some = told["machines"]
    told["machines"] = [
        {**m, "machine": {**m["machine"], "id": f"m-{n}", "name": f"{m['machine']['name'][:2]}-{n:04}"}}
        for n in range(MANY)
        for m in [some[n % len(some)]]
    ]
    route.fulfill(status=200, content_type="application/json", body=json.dumps(told))
