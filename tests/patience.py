"""How long tests wait for an answer: a busy machine is no fault of what is tried, and speed is measured in bench/."""

from __future__ import annotations

import os
from typing import Any

import httpx

from tests.deep import DEEP

PATIENCE_S = float(os.environ.get("JUTREL_TEST_PATIENCE_S", "120"))
PATIENCE_MS = 1000 * PATIENCE_S


def within(seconds: float) -> float:
    """A bound on time [s]: it holds in `make test-deep`; beside other work, only that it comes to an end."""
    return seconds if DEEP else PATIENCE_S


def client(base: str, **more: Any) -> httpx.Client:
    """Whoever asks a server over the network, patiently."""
    return httpx.Client(base_url=base, timeout=PATIENCE_S, **more)
