"""The stand-in for a company's own sign-in, served while something is tried."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

import uvicorn

from jutrel.cluster import free_port
from jutrel.standin.company import StandInCompany, make_company


@contextmanager
def served(host: str = "localhost") -> Iterator[StandInCompany]:
    port = free_port()
    it = StandInCompany(f"http://{host}:{port}")
    server = uvicorn.Server(uvicorn.Config(make_company(it), host="127.0.0.1", port=port, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    try:
        yield it
    finally:
        server.should_exit = True
        thread.join(10)
