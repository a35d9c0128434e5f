"""SAE J1939 both ways, against cantools reading our own database, and the transport of long fault messages.

Scales, offsets and places are from memory of SAE J1939-71 and -73; the worked figures below as well.
"""

from __future__ import annotations

import random
from dataclasses import replace
from pathlib import Path

import can
import cantools
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jutrel.core.errors import BadInput
from jutrel.core.panel.faults import DM1, Code, Collector, Faults, fault_said, frames_of, read_faults, write_faults
from jutrel.core.panel.signals import BY_PGN, SIGNALS, Lack, Signal, dbc, decode, encode, frame_id, group_of
from jutrel.exchange.logs import read_log, write_log
from jutrel.standin.scenario import frames, scenario

# From memory: SPN, PGN, first byte, bytes, scale, offset.
TABLE = {
    190: (61444, 4, 2, 0.125, 0),
    92: (61443, 3, 1, 1, 0),
    110: (65262, 1, 1, 1, -40),
    175: (65262, 3, 2, 0.03125, -273),
    100: (65263, 4, 1, 4, 0),
    98: (65263, 3, 1, 0.4, 0),
    111: (65263, 8, 1, 0.4, 0),
    94: (65263, 1, 1, 4, 0),
    168: (65271, 5, 2, 0.05, 0),
    247: (65253, 1, 4, 0.05, 0),
    96: (65276, 2, 1, 0.4, 0),
    183: (65266, 1, 2, 0.05, 0),
    1761: (65110, 1, 1, 0.4, 0),
    107: (65270, 5, 1, 0.05, 0),
    102: (65270, 2, 1, 2, 0),
    171: (65269, 4, 2, 0.03125, -273),
    108: (65269, 1, 1, 0.5, 0),
    1638: (65128, 1, 1, 1, -40),
    177: (65272, 5, 2, 0.03125, -273),
}
DATABASE = cantools.database.load_string(dbc(), "dbc")


def test_the_table_is_the_published_one() -> None:
    assert {s.spn: (s.pgn, s.byte, s.length, s.scale, s.offset) for s in SIGNALS} == TABLE


@pytest.mark.parametrize("signal", SIGNALS, ids=lambda s: s.key)
@given(share=st.floats(0, 1))
def test_there_and_back_and_as_cantools_reads_it(signal: Signal, share: float) -> None:
    value = signal.offset + share * (signal.top - signal.offset)
    data = encode(signal.pgn, {signal.key: value})
    ours = decode(signal.pgn, data)[signal.key]
    assert isinstance(ours, float)
    assert abs(ours - value) <= signal.scale / 2 + 1e-9 * max(1.0, abs(value))
    theirs = DATABASE.decode_message(frame_id(signal.pgn, 254), data, decode_choices=False)
    assert isinstance(theirs, dict)
    assert theirs[signal.key.replace("-", "_")] == pytest.approx(ours, abs=1e-6)
    back = DATABASE.encode_message(
        frame_id(signal.pgn, 254), {**theirs, signal.key.replace("-", "_"): ours}, strict=False
    )
    at = slice(signal.byte - 1, signal.byte - 1 + signal.length)
    assert back[at] == data[at]


@pytest.mark.parametrize("signal", SIGNALS, ids=lambda s: s.key)
def test_not_available_error_and_out_of_range_are_never_a_value(signal: Signal) -> None:
    for lack in (Lack.NOT_AVAILABLE, Lack.ERROR):
        assert decode(signal.pgn, encode(signal.pgn, {signal.key: lack}))[signal.key] is lack
    assert decode(signal.pgn, b"\xff" * 8)[signal.key] is Lack.NOT_AVAILABLE
    assert isinstance(decode(signal.pgn, b"")[signal.key], Lack)
    for value in (signal.top + signal.scale, signal.offset - signal.scale):
        with pytest.raises(BadInput) as wrong:
            encode(signal.pgn, {signal.key: value})
        assert wrong.value.field == signal.key


@given(st.sampled_from([*BY_PGN, DM1, 60416, 60160]), st.integers(0, 253))
def test_identifiers_go_there_and_back(pgn: int, source: int) -> None:
    assert group_of(frame_id(pgn, source)) == (pgn, source, 255)


CODES = st.builds(Code, st.integers(1, (1 << 19) - 1), st.integers(0, 31), st.integers(0, 126))


@given(st.lists(CODES, max_size=60, unique_by=lambda c: (c.spn, c.mode)), st.sets(st.sampled_from(["red", "amber"])))
def test_faults_in_one_frame_or_in_pieces(codes: list[Code], lamps: set[str]) -> None:
    told = Faults(frozenset(lamps), tuple(codes))
    assert read_faults(write_faults(told)) == told
    sent = list(frames_of(told))
    assert (len(sent) == 1) == (len(codes) <= 1)
    if len(sent) > 1:
        collector, whole = Collector(), None
        for n, (pgn, data) in enumerate(sent):
            assert len(data) == 8
            assert collector.take(60160, 9, b"\x01" + b"\x00" * 7, 0.0) is None, "another source's pieces"
            whole = collector.take(pgn, 0, data, n * 0.05)
        assert whole is not None
        assert whole[0] == DM1
        assert read_faults(whole[1]) == told
        dropped = random.Random(len(codes)).randrange(1, len(sent))
        lossy = Collector()
        done = [lossy.take(p, 0, d, n * 0.05) for n, (p, d) in enumerate(sent) if n != dropped]
        assert not any(done), "a message with a piece missing is no message"
        late = Collector()
        done = [late.take(p, 0, d, n * 1.0) for n, (p, d) in enumerate(sent)]
        assert not any(done), "nor is one whose pieces come too late"


def test_a_published_fault_message() -> None:
    """SPN 100, FMI 1, lamp red: 0x10, then 64 00 01 and the count; from memory of J1939-73's layout."""
    assert read_faults(bytes([0x10, 0xFF, 0x64, 0x00, 0x01, 0x05, 0xFF, 0xFF])) == Faults(
        frozenset({"red"}), (Code(100, 1, 5),)
    )
    assert str(fault_said(Code(100, 1))) == "Engine oil, pressure: below normal, severe (100/1)"
    assert "Parameter 5246" in str(fault_said(Code(5246, 0)))


@pytest.mark.parametrize("ending", ["asc", "blf", "log", "csv", "trc"])
def test_a_log_written_here_is_read_by_the_librarys_own_reader(tmp_path: Path, ending: str) -> None:
    """`.log` is candump's text."""
    file = tmp_path / f"run.{ending}"
    sent = [f._replace(source=n % 200) for n, f in enumerate(frames(replace(scenario("overheating"), minutes=0.3)))]
    assert write_log(file, sent) == len(sent)
    with can.LogReader(str(file)) as log:
        theirs = [(m.arbitration_id, bytes(m.data)) for m in log]
    assert theirs == [(frame_id(f.pgn, f.source), f.data) for f in sent]
    assert [f[1:] for f in read_log(file)] == [f[1:] for f in sent], "with who sent it"
    if ending == "log":
        assert "18FEEE00#" in file.read_text()
