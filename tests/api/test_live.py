"""What is written is told at once to who listens, to nobody who may not, and through another process too."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

import httpx

from jutrel.api.log.live import MOST_OF_ONE, MOST_PAGES, ListeningPages
from jutrel.cluster import free_port
from tests.api.conftest import Tablets
from tests.conftest import Serve
from tests.device import Device
from tests.patience import client, within


def listen(base: str, cookies: httpx.Cookies, heard: list[float], ready: threading.Event) -> None:
    with client(base, cookies=cookies) as http, http.stream("GET", "/api/events") as reply:
        assert reply.headers["content-type"].startswith("text/event-stream")
        for line in reply.iter_lines():
            if line.startswith("data:"):
                heard.append(time.monotonic())
                ready.set()
            if len(heard) > 1:
                return


def test_a_tap_through_one_server_is_heard_at_another(bare: str, serve: Serve) -> None:
    here, there = serve(bare), serve(bare)
    with client(here) as http, client(there) as other:
        mira, osk = Device(http), Device(other)
        mira.sign_in()
        osk.sign_in("Osk")
        heard: list[float] = []
        ready = threading.Event()
        worker = threading.Thread(target=listen, args=(there, other.cookies, heard, ready), daemon=True)
        worker.start()
        assert ready.wait(within(10))
        time.sleep(0.5)
        before = time.monotonic()
        look = mira.new_id()
        mira.send("ex-01", look, [mira.opening("ex-01")]).raise_for_status()
        worker.join(within(5))
        assert len(heard) == 2
        assert heard[1] - before < within(2.0)


def test_a_stranger_hears_nothing(bare: str, serve: Serve) -> None:
    with client(serve(bare)) as http:
        assert http.get("/api/events").status_code == 401


def test_a_page_that_listens_does_not_keep_the_server_from_ending(bare: str, serve: Serve) -> None:
    port = free_port()
    command = [str(Path(sys.executable).with_name("jutrel")), "serve", "--port", str(port)]

    process = subprocess.Popen(command, env={**os.environ, "JUTREL_DATABASE_URL": bare})
    base = f"http://127.0.0.1:{port}"
    try:
        for _ in range(100):
            try:
                httpx.get(base + "/api/health", timeout=2)
                break
            except httpx.TransportError:
                time.sleep(0.1)
        with client(base) as http:
            Device(http).sign_in()
            heard: list[float] = []
            ready = threading.Event()

            def hold() -> None:
                with suppress(httpx.TransportError):  # cut off, or ended in order
                    listen(base, http.cookies, heard, ready)

            worker = threading.Thread(target=hold, daemon=True)
            worker.start()
            assert ready.wait(within(10))
            process.terminate()
            assert process.wait(within(10)) is not None
            worker.join(within(5))
    finally:
        process.kill()


def test_one_person_does_not_take_all_places(tablets: Tablets) -> None:
    """Found so: one person's tabs took all 400, and nobody else heard anything."""
    me = tablets()
    me.sign_in()
    app: Any = me.http.app
    pages = app.state.shop.books.one(ListeningPages)
    pages.by[me.by] = MOST_OF_ONE
    refused = me.http.get("/api/events")
    assert (refused.status_code, refused.json()["wait_s"]) == (503, 30)
    pages.by[me.by] = 0
    pages.by["somebody else"] = MOST_OF_ONE
    pages.open = MOST_PAGES
    assert me.http.get("/api/events").status_code == 503
