"""Whether the long searches run: `make test-deep`."""

from __future__ import annotations

import os

DEEP = bool(os.environ.get("JUTREL_DEEP"))
