"""The real server with the catalog of a folder: for families that do not ship. Ships with the tests only."""

from __future__ import annotations

import sys
from pathlib import Path

import uvicorn

from jutrel.api.app import make_app
from jutrel.catalog.load import load_catalog
from jutrel.settings import Settings

if __name__ == "__main__":
    catalog = load_catalog(Path(sys.argv[2]))
    uvicorn.run(make_app(Settings(), catalog), host="127.0.0.1", port=int(sys.argv[1]), log_level="warning")
