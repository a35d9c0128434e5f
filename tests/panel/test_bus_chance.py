"""Random histories of a bus: several senders, silences, clocks, floods, long messages; against the oracle.

30 in `make test`, 4,000 in `make test-deep`.
"""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Iterator

import pytest

from jutrel.core.panel.faults import Code, Faults, frames_of
from jutrel.core.panel.reader import Reader
from jutrel.core.panel.senders import Senders
from jutrel.core.panel.signals import BY_PGN, EVERYBODY, Lack, encode
from jutrel.core.panel.told import PanelEvent, PanelEventKind
from jutrel.core.procedure.kinds import Colour
from jutrel.exchange.logs import Frame
from tests.deep import DEEP
from tests.panel.oracle import Tenth, may_be_stopped, may_stand, reds_that_stood

BY = {"oil": {"oil-low"}, "lamp": {"lamp-red", "fault-100-1", "fault-many"}}
"""As which word each red is told."""
MANY, PARTS = (4000, 20) if DEEP else (30, 1)


def engine(rng: random.Random) -> list[Tenth]:
    """Some minutes of an engine: at rest, running, with oil or without, silent at times, a lamp now and then."""
    out: list[Tenth] = []
    speed, oil = 0.0, 0.0
    while len(out) < rng.randint(400, 1500):
        match rng.choice(("rest", "run", "run", "run", "no-oil", "no-oil", "silent", "lamp", "stutter", "wrong")):
            case "rest":
                speed, oil = 0.0, rng.choice((0.0, 0.0, 0.0, 340.0))
            case "run":
                speed, oil = 800.0, 340.0
            case "no-oil":
                oil = rng.choice((0.0, 40.0))
            case "lamp":  # for so long, and then not
                lit = rng.randint(15, 90)
                out += [Tenth(speed, oil if n % 5 == 0 else None, True if n % 10 == 0 else None) for n in range(lit)]
                out += [Tenth(speed, oil, False)]
            case "silent":
                out += [Tenth()] * rng.randint(1, 90)
            case "stutter":  # values with none in between
                oil = rng.choice((0.0, 0.0, 340.0))
                gaps = rng.choice(((oil, -1.0), (oil, oil, -1.0), (oil, -1.0, -1.0)))
                for n in range(rng.randint(3, 30)):
                    out += [Tenth(speed, gaps[n % len(gaps)]), *[Tenth(speed)] * 4]
            case "wrong":  # one wrong value of the speed
                out.append(Tenth(0.0 if speed else 800.0, oil))
        for n in range(rng.randint(5, 160)):
            out.append(Tenth(speed, oil if n % 5 == 0 else None, False if n % 10 == 0 else None))
    return out


def others(rng: random.Random, at: float) -> Iterator[Frame]:
    """What others send in a tenth of a second: a display that repeats, a gearbox, packets for one unit, noise."""
    if rng.random() < 0.3:
        yield Frame(at, 65263, 40, encode(65263, {"oil-pressure": rng.choice((340.0, 0.0))}))
        yield Frame(at, 61444, 1, encode(61444, {"engine-speed": rng.choice((0.0, 900.0))}))
    if rng.random() < 0.1:
        amber = Faults(frozenset({"amber"}), tuple(Code(rng.randrange(500, 900), 3) for _ in range(rng.randrange(9))))
        yield from (Frame(at, pgn, 3, data) for pgn, data in frames_of(rng.choice((Faults(), amber))))
    if rng.random() < 0.1:
        yield Frame(at, 60416, 0, rng.randbytes(8), 3)
        yield Frame(at, 60160, 0, rng.randbytes(8), 3)
    if rng.random() < 0.02:
        for _ in range(300):
            pgn = rng.choice((*BY_PGN, 60416, 60160, rng.randrange(60000)))
            yield Frame(at, pgn, rng.randrange(4, 256), rng.randbytes(rng.randrange(9)), EVERYBODY)


def play(rng: random.Random, said: list[Tenth]) -> list[PanelEvent]:
    """What is told of it, its times counted in tenths."""
    reader, clock, told, codes = Reader(senders=Senders(0)), 1000.0, list[PanelEvent](), 0
    for n, t in enumerate(said):
        if rng.random() < 0.002:
            clock -= rng.choice((3600.0, 40.0))
        clock += 0.1
        frames = list(others(rng, clock))
        if t.speed is not None:
            frames.append(Frame(clock, 61444, 0, encode(61444, {"engine-speed": t.speed})))
        if t.oil is not None:
            value = Lack.NOT_AVAILABLE if t.oil < 0 else t.oil
            frames.append(Frame(clock, 65263, 0, encode(65263, {"oil-pressure": value})))
        if t.red is not None:
            codes = codes if t.red else rng.randrange(5)
            faults = Faults(frozenset({"red"}), tuple(Code(100 + k, 1) for k in range(codes)))
            for k, (pgn, data) in enumerate(frames_of(faults if t.red else Faults())):
                frames.append(Frame(clock, pgn, 0, data))
                if rng.random() < 0.5:  # the same unit sends something long to another one
                    frames.append(Frame(clock, 60160, 0, bytes([k + 1]) + rng.randbytes(7), 3))
        for frame in frames:
            reader.take(frame.at, frame.pgn, frame.source, frame.data, frame.to)
        reader.tick(clock)
        told += [PanelEvent(float(n), h.what, h.word, h.colour, h.value) for h in reader.happened]
        reader.happened.clear()
    return told


@pytest.mark.parametrize("part", range(PARTS))
def test_a_red_that_stood_is_told_and_nothing_stands_or_stops_that_does_not(part: int) -> None:
    found: Counter[str] = Counter()
    for seed in range(part * MANY // PARTS, (part + 1) * MANY // PARTS):
        rng = random.Random(seed)
        said = engine(rng)
        told = play(rng, said)
        holds: set[str] = set()
        red_at = [frozenset[str]()] * len(said)
        events = iter(sorted(told, key=lambda h: h.at))
        event = next(events, None)
        for n in range(len(said)):
            while event is not None and event.at <= n:
                if event.what is PanelEventKind.ALERT and event.colour is Colour.RED:
                    holds.add(event.word)
                elif event.what is PanelEventKind.OVER:
                    holds.discard(event.word)
                event = next(events, None)
            red_at[n] = frozenset(holds)
        about = [h for h in told if h.colour is Colour.RED or h.what is PanelEventKind.OVER]
        for n, why in reds_that_stood(said):
            found[why] += 1
            assert red_at[n] & BY[why], (seed, n, about)
        for h in told:
            n = int(h.at)
            if h.what is PanelEventKind.STOOD and h.word == "oil-pressure":
                found["stood"] += 1
                assert may_stand(said, n), (seed, n, said[max(0, n - 40) : n + 1])
            if h.what is PanelEventKind.ENGINE and h.word == "stopped":
                found["stopped"] += 1
                assert may_be_stopped(said, n), (seed, n, said[max(0, n - 20) : n + 1])
    print(dict(found))
    assert min(found["oil"], found["lamp"], found["stood"], found["stopped"]) > MANY / PARTS / 3, found
