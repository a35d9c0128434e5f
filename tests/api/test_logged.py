"""What goes wrong in the server is told in one line of its log, and the person is told plainly."""

from __future__ import annotations

import json
import logging

import pytest

from jutrel.api.machine import incidents
from jutrel.api.server_log import JsonLine, log
from tests.device import Device


def test_a_fault_is_one_line_that_can_be_read(tablet: Device, monkeypatch: pytest.MonkeyPatch) -> None:
    lines: list[str] = []

    class Kept(logging.Handler):
        def emit(self, record: logging.LogRecord) -> None:
            lines.append(JsonLine().format(record))

    async def broken(*_: object) -> None:
        raise RuntimeError("line one\nline two")

    monkeypatch.setattr(incidents, "incidents", broken)
    kept = Kept()
    log.addHandler(kept)
    try:
        reply = tablet.http.get("/api/machines/ex-01/incidents")
    finally:
        log.removeHandler(kept)
    assert (reply.status_code, reply.json()["type"]) == (500, "/problems/fault")
    assert "Nothing was stored" in reply.json()["detail"]
    assert "line one" not in reply.text, "what broke is for the log"
    (line,) = lines
    assert "\n" not in line
    told = json.loads(line)
    assert (told["event"], told["level"]) == ("request failed", "error")
    assert (told["method"], told["path"]) == ("GET", "/api/machines/ex-01/incidents")
    assert "RuntimeError: line one" in told["exception"]
