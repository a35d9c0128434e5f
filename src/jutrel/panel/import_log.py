"""A recorded log taken into a machine's course: its values second by second, at the times at which they were told."""

from __future__ import annotations

import time
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from jutrel.core.errors import BadInput
from jutrel.core.panel.reader import Reader
from jutrel.core.panel.signals import Lack
from jutrel.exchange.logs import read_log
from jutrel.panel.bus_reader import Server

BATCH = 60
PAUSES_S = (0.5, 1.0, 2.0, 4.0)
"""How long a server that does not answer is given before it is asked again."""
FROM_ZERO = 1e8
"""A time smaller than this counts from the log's beginning, not from 1970 [s]."""


def seconds_of(log: Path, shift: float = 0.0) -> Iterator[dict[str, Any]]:
    """The values of a log, once a second: what each signal said last; one that says nothing is left out.

    Raises
    ------
    BadInput
        If its times count from zero and nobody says when it began.
    """
    reader, last = Reader(), float("-inf")
    for at, pgn, source, data, to in read_log(log):
        if at + shift < FROM_ZERO:
            raise BadInput("began", "the log's times count from zero: say when it began")
        if int(at) > last and reader.frames:
            last = int(at)
            values = {k: v for k, v in reader.panel.values.items() if not isinstance(v, Lack)}
            yield {"at": datetime.fromtimestamp(at + shift, UTC).isoformat(), "values": values}
        reader.take(at, pgn, source, data, to)


def import_values(log: Path, server: Server, began: str = "") -> int:
    """Send the values of a log, which is read through first; how many were kept.

    Raises
    ------
    BadInput
        If its times cannot be, or the server does not take them, in its own words.
    """
    shift, first = 0.0, 0.0
    for n, frame in enumerate(read_log(log)):  # a broken one is refused before anything of it is kept
        first = frame.at if n == 0 else first
    if began:
        when = datetime.fromisoformat(began)
        shift = (when if when.tzinfo else when.replace(tzinfo=UTC)).timestamp() - first
    kept, batch = 0, list[dict[str, Any]]()

    def send() -> int:
        status, answer = server.ask("POST", "panel/samples", {"samples": batch})
        for pause in PAUSES_S:
            if status:
                break
            time.sleep(pause)  # sent twice they count once
            status, answer = server.ask("POST", "panel/samples", {"samples": batch})
        if status != 200:
            says = answer.get("detail", "") if isinstance(answer, dict) else ""
            raise BadInput("server", f"it says {status} {says}".rstrip() if status else "it does not answer")
        batch.clear()
        return int(answer["kept"])

    for sample in seconds_of(log, shift):
        batch.append(sample)
        if len(batch) == BATCH:
            kept += send()
    return kept + (send() if batch else 0)
