"""Frames decoded and judged per second, against cantools decoding the same frames alone."""

from __future__ import annotations

import cantools

from bench.lines import Lines
from bench.readings import median_ms
from jutrel.core.panel.reader import Reader
from jutrel.core.panel.signals import BY_PGN, dbc, frame_id
from jutrel.standin.scenario import frames, scenario

SECONDS = 40.0


def read(lines: Lines) -> None:
    """A start of forty seconds, read and judged."""
    lines.head("The panel: frames decoded and judged")
    sent = [f for f in frames(scenario("warm-start")) if f.at < SECONDS]
    database = cantools.database.load_string(dbc(), "dbc")
    plain = [(frame_id(f.pgn, 254), f.data) for f in sent if f.pgn in BY_PGN]

    def theirs() -> None:
        for identifier, data in plain:
            database.decode_message(identifier, data)

    def ours() -> None:
        reader = Reader()
        for f in sent:
            reader.take(f.at, f.pgn, 0, f.data)

    least, took = median_ms(theirs), median_ms(ours)
    rate = len(sent) / took * 1000
    lines.add(f"as quick as cantools decoding alone ({rate:.0f} a second)", least / took, 0.5, least=True)


if __name__ == "__main__":
    read(Lines())
