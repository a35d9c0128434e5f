"""What goes wrong in the server is told in one line of its log, and the person is told plainly."""

from __future__ import annotations

import json
import logging
from collections.abc import Iterator
from contextlib import contextmanager

import pytest

from jutrel.api.machine import incidents
from jutrel.api.server_log import JsonLine, log
from tests.device import Device


class Kept(logging.Handler):
    def __init__(self) -> None:
        super().__init__()
        self.lines: list[str] = []

    def emit(self, record: logging.LogRecord) -> None:
        self.lines.append(JsonLine().format(record))


@contextmanager
def kept_lines(level: str = "WARNING") -> Iterator[list[str]]:
    """What is written to the log meanwhile, from a level on."""
    kept, before = Kept(), log.level
    log.addHandler(kept)
    log.setLevel(level)
    try:
        yield kept.lines
    finally:
        log.removeHandler(kept)
        log.setLevel(before)


def test_a_fault_is_one_line_that_can_be_read(tablet: Device, monkeypatch: pytest.MonkeyPatch) -> None:
    async def broken(*_: object) -> None:
        raise RuntimeError("line one\nline two")

    monkeypatch.setattr(incidents, "incidents", broken)
    with kept_lines() as lines:
        reply = tablet.http.get("/api/machines/ex-01/incidents")
    assert (reply.status_code, reply.json()["type"]) == (500, "/problems/fault")
    assert "Nothing was stored" in reply.json()["detail"]
    assert "line one" not in reply.text, "what broke is for the log"
    (line,) = lines
    assert "\n" not in line
    told = json.loads(line)
    assert (told["event"], told["level"]) == ("request failed", "error")
    assert (told["method"], told["path"]) == ("GET", "/api/machines/ex-01/incidents")
    assert "RuntimeError: line one" in told["exception"]
    assert told["request"] == reply.headers["x-request-id"], "whoever tells of it is found"
