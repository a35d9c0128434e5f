from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import ExitStack

import pytest
from fastapi.testclient import TestClient

from jutrel.api.app import make_app
from jutrel.settings import Settings
from tests.conftest import CATALOG
from tests.device import Device

Tablets = Callable[[], Device]


@pytest.fixture
def tablets(bare: str) -> Iterator[Tablets]:
    """Tablets on one running application with an empty yard."""
    with ExitStack() as stack:
        first = stack.enter_context(
            TestClient(make_app(Settings(database_url=bare), CATALOG), base_url="http://yard.test")
        )

        def another() -> Device:
            client = TestClient(first.app, base_url="http://yard.test")
            client.portal = first.portal
            return Device(client)

        yield another


@pytest.fixture
def tablet(tablets: Tablets) -> Device:
    device = tablets()
    assert device.sign_in().is_success
    return device
