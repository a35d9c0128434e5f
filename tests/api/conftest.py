from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import ExitStack

import pytest
from fastapi.testclient import TestClient

from jutrel.api.app import make_app
from jutrel.settings import Settings
from tests.api.office import Console
from tests.command import run
from tests.conftest import CATALOG, owner_of
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


@pytest.fixture
def console(empty: str, monkeypatch: pytest.MonkeyPatch) -> Console:
    """The server's console: what a command prints; the address of the database is the environment's."""
    monkeypatch.setenv("JUTREL_DATABASE_URL", empty)
    monkeypatch.setenv("JUTREL_OWNER_URL", owner_of(empty))

    def at(*arguments: str, code: int = 0) -> str:
        done = run(*arguments)
        assert done.returncode == code, (done.stdout, done.stderr)
        return done.stdout + done.stderr

    return at
