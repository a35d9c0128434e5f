from __future__ import annotations

from tests.api.conftest import tablet, tablets

__all__ = ["tablet", "tablets"]
