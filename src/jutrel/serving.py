"""What `jutrel serve` runs, once in each of its processes."""

from __future__ import annotations

from fastapi import FastAPI

from jutrel.api.app import make_app
from jutrel.catalog import catalog
from jutrel.settings import Settings


def app() -> FastAPI:
    """The application by the environment's settings, on the catalog that ships."""
    return make_app(Settings(warm=True), catalog())
