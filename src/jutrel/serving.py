"""What `jutrel serve` runs, once in each of its processes."""

from __future__ import annotations

import gc
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from fastapi import FastAPI


def app() -> FastAPI:
    """The application by the environment's settings, on the catalog that ships.

    Nothing of what is loaded here ever becomes garbage: it is not looked for meanwhile, which is a third of the start,
    nor later, whenever the server tidies up.
    """
    gc.disable()
    from jutrel.api.app import make_app
    from jutrel.catalog import catalog
    from jutrel.settings import Settings

    made = make_app(Settings(warm=True), catalog())
    gc.freeze()
    gc.enable()
    return made
