from __future__ import annotations

from typing import Any

import pytest

from tests.conftest import Serve, _copy
from tests.device import Device
from tests.panel.processes import KEY
from tests.patience import client


@pytest.fixture(scope="module")
def site(bare_template: str, cluster: Any, serve_all: Serve) -> Device:
    base = serve_all(_copy(cluster, bare_template), JUTREL_DEVICE_KEY=KEY, JUTREL_DEMO_PIN="2468")
    me = Device(client(base))
    assert me.sign_in("Mira").is_success
    return me
