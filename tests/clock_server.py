"""The real server with a clock that a test can put forward: for waits of minutes. Ships with the tests only."""

from __future__ import annotations

import os
import sys
import time
from datetime import datetime, timedelta, tzinfo
from pathlib import Path

import uvicorn

from jutrel.api import door
from jutrel.api.app import make_app
from jutrel.catalog import catalog
from jutrel.settings import Settings

AHEAD = Path(os.environ.get("CLOCK", os.devnull))
"""A file with the seconds by which the clock is ahead, or `60 1780000000`: sixty times as fast since then."""


class Ahead(datetime):
    """The time, put forward."""

    @classmethod
    def now(cls, tz: tzinfo | None = None) -> datetime:  # type: ignore[override]
        first, *since = (AHEAD.read_text() or "0").split()
        ahead = (float(first) - 1) * (time.time() - float(since[0])) if since else float(first)
        return datetime.now(tz) + timedelta(seconds=ahead)


if __name__ == "__main__":
    door.datetime = Ahead  # type: ignore[attr-defined]
    uvicorn.run(make_app(Settings(), catalog()), host="127.0.0.1", port=int(sys.argv[1]), log_level="warning")
