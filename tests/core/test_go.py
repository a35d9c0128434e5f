"""Whether a machine may go, held against what was done, told in order, for many days that chance made.

The oracle reads the plain list of what happened; the code under test knows only the rows that it keeps.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from hypothesis import given, settings
from hypothesis import strategies as st
from jutrel.core.machine.go import Go, looks_named, may_go, short_clears_not

from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.look import Status
from jutrel.core.log.entry import Entry
from jutrel.core.machine.incident import GRAVE, Examined, Happened, Incident, incidents_of
from jutrel.core.machine.state import LookSummary, Standing, Word, newest_of
from jutrel.core.people import Role
from jutrel.core.wording import NOTHING

DAWN = datetime(2026, 3, 2, 5, tzinfo=UTC)
SHIFT_H = 10.0


@dataclass(frozen=True)
class Did:
    """Something done at an hour: a look of a kind from then for a while, an incident, or an examination of the last."""

    hour: float
    what: str
    took: float = 0.5


def look(n: int, did: Did) -> LookSummary:
    at = DAWN + timedelta(hours=did.hour)
    signed = at + timedelta(hours=did.took)
    clears = did.what in ("whole", "short")
    until = (signed + timedelta(hours=SHIFT_H), 110.0 + did.hour) if clears else (None, None)
    return LookSummary(
        id=f"l{n:03}", kind=did.what, clears=clears, ends=did.what == "night", status=Status.SIGNED, begun_at=at,
        begun_by="m", begun_received=at, clock_known=True, last_at=signed, last_by="m", signed_at=signed,
        signed_by="m", signed_received=signed, outcome="ready", why=NOTHING, own=Word(Grade.SOUND, NOTHING),
        shift_hours=SHIFT_H, hour_meter=100.0 + did.hour, valid_until=until[0],
        valid_until_hour=until[1], answered=1, planned=1, worst=(), news={}, rulebook="1",
        continues=did.what == "short",
    )  # fmt: skip


def entry(n: int, did: Did, of: str = "") -> Entry:
    at = DAWN + timedelta(hours=did.hour)
    what = Examined(of, "looked at it") if did.what == "examined" else Incident(Happened(did.what))
    return Entry(id=f"e{n:03}", machine="m", stream="defect.x", by="m", at=at, what=what, offset_ms=0,
                 role=Role.MECHANIC, received_at=at)  # fmt: skip


def allowed(days: list[Did], now: float) -> bool:
    """The oracle: walked whole after everything that ends it, still in its time; a short one goes on from that."""
    grave = 0
    whole_end = short_end = -1.0  # until which hour it holds
    whole_begun = -1.0
    for d in sorted(days, key=lambda d: d.hour):
        if d.hour + (d.took if d.what in ("whole", "short", "night") else 0) > now:
            continue
        if d.what == "examined":
            grave = 0
        elif d.what in ("whole", "short", "night"):
            continue
        elif d.what in GRAVE:
            grave += 1
    ends = [d.hour for d in days if d.what not in ("whole", "short", "examined") and d.hour <= now]
    for d in (d for d in days if d.what == "whole" and d.hour + d.took <= now):
        if d.hour > max(ends, default=-1.0) and d.hour > whole_begun:
            whole_begun, whole_end = d.hour, min(d.hour + d.took + SHIFT_H, d.hour + 10.0)
    newest = max((d for d in days if d.what in ("whole", "short") and d.hour + d.took <= now),
                 key=lambda d: d.hour, default=None)  # fmt: skip
    if newest is not None and newest.what == "short":
        held = whole_begun >= 0 and newest.hour <= whole_end
        short_end = min(newest.hour + newest.took + SHIFT_H, newest.hour + 10.0) if held else -1.0
        return not grave and now <= short_end
    return not grave and now <= whole_end


HOURS = st.integers(0, 25).map(float)
WHATS = st.sampled_from(["whole", "whole", "short", "short", "night", "struck", "slid", "tipped", "examined"])
DAYS = st.lists(st.builds(Did, HOURS, WHATS), min_size=1, max_size=6, unique_by=lambda d: d.hour)
FIRST = st.builds(Did, st.just(0.25), st.just("whole"))


@settings(max_examples=600)
@given(st.builds(lambda first, rest: [first, *rest], FIRST, DAYS), HOURS)
def test_only_a_whole_look_after_it_all_lets_a_machine_go(days: list[Did], later: float) -> None:
    now = later + 0.1
    done = [d for d in sorted(days, key=lambda d: d.hour) if d.hour + d.took <= now or d.what not in ("whole", "short")]
    done = [d for d in done if d.hour <= now and (d.what != "night" or d.hour + d.took <= now)]
    looks = [look(n, d) for n, d in enumerate(done) if d.what in ("whole", "short", "night")]
    told: list[Entry] = []
    for n, d in enumerate(done):
        if d.what == "examined":
            told += [entry(1000 + 10 * n + k, d, e.id) for k, e in enumerate(told) if isinstance(e.what, Incident)]
        elif d.what not in ("whole", "short", "night"):
            told.append(entry(n, d))
    rows = looks_named(newest_of(looks), {x.id: x for x in looks})
    standing = Standing(incidents=incidents_of(reversed(told)))
    go, word = may_go(standing, rows, {}, 100.0 + now, DAWN + timedelta(hours=now))
    assert (go is Go.READY) == allowed(done, now), (go, str(word.why))
    # What is said on the approach of a short one is what would come of it.
    if go in (Go.UNINSPECTED, Go.READY):
        short = look(900, Did(now - 0.01, "short", 0.005))
        after = looks_named(newest_of([*looks, short]), {x.id: x for x in [*looks, short]})
        would, _ = may_go(standing, after, {}, 100.0 + now, DAWN + timedelta(hours=now))
        says = short_clears_not(standing, rows, {}, 100.0 + now, DAWN + timedelta(hours=now))
        assert (would is Go.READY) == (not says), (would, str(says))
    if any(h.waits for h in standing.incidents.waiting) if standing.incidents else False:
        assert go is Go.HELD
