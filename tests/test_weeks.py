"""The demo's twelve weeks: what is told in them can be told of those machines, and the file is what was lived."""

from __future__ import annotations

import asyncio
import json
import lzma
import re
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import cast

import pytest

from jutrel.core.errors import BadInput
from jutrel.core.grading.finding_grade import check_finding
from jutrel.core.inspection.finding import Finding
from jutrel.core.log.codec import decode
from jutrel.core.machine.model import checkpoint_of
from jutrel.demo.history_file import NoHistory, file_bytes, read_file, write_parts
from jutrel.demo.lives import LIVES, DefectLife
from jutrel.demo.load import load_demo
from jutrel.demo.make_history import keep_history, make_history
from jutrel.demo.story import MACHINES, SITE, WHO
from jutrel.demo.weeks import CREW, EVENINGS, FIRST, INCIDENTS, TAUGHT, driver, from_day, works_on
from jutrel.service.context import Books, here_of
from jutrel.service.log.whole_log import rebuild_all, verify_all
from jutrel.service.machine.incidents import incidents
from jutrel.service.machine.yard import yard
from jutrel.store.base import Store
from jutrel.store.queries.log import log_of
from tests.conftest import CATALOG, Cluster, _aside, sql
from tests.deep import DEEP

ESCAPED = re.compile(r"\\(.)")
SALTED = re.compile(r"\$argon2id\$[^\t]*")
UNITS = {m.id: m for m in MACHINES}


@pytest.mark.parametrize("life", LIVES, ids=lambda x: f"{x.machine}-{x.checkpoint}")
def test_a_defect_is_one_of_its_machine(life: DefectLife) -> None:
    """A place that its model has with its equipment, something that fails there, words that are asked for it."""
    unit, all_ = UNITS[life.machine], CATALOG
    place = checkpoint_of(all_.models[unit.model], life.checkpoint)
    assert place.option is None or place.option in unit.options
    assert life.mode in place.failure_modes
    assert FIRST > life.since >= life.until > 10, "the last days are told elsewhere"
    for ago in (life.since, *life.grows):
        check_finding(decode(Finding, life.finding(ago)), all_.rulebook)
    if done := life.at_once[0]:
        rule = all_.rulebook.modes[life.mode].put_right
        assert rule is not None
        assert (life.since, done) == (life.until, str(rule.says))
        assert all_.rulebook.may_put_right(decode(Finding, life.finding(life.since)), place)


def test_nobody_works_two_machines_at_once() -> None:
    """And everybody who is told of is somebody on this site, whom a machine was there for."""
    for ago in range(1, FIRST + 1):
        at_work = [driver(m, ago) for m in MACHINES if works_on(m, ago)]
        assert len(at_work) == len(set(at_work)), ago
    assert {who for pair in CREW.values() for who in pair} | {w for _, w, *_ in TAUGHT} <= set(WHO)
    for machine, ago in (*((i.machine, i.ago) for i in INCIDENTS), *EVENINGS):
        assert works_on(UNITS[machine], ago) or from_day(UNITS[machine], ago)


def test_the_file_is_whole_and_of_this_release(tmp_path: Path, empty: str, cluster: Cluster) -> None:
    """A release with other tables has to live the weeks anew: `make weeks`. One letter changed is found out."""
    head, blocks = read_file()
    told = sql(
        cluster,
        "select table_name, column_name, is_nullable = 'YES' or column_default is not null or is_identity = 'YES' "
        "from information_schema.columns where table_schema = 'public'",
        empty.rsplit("/", 1)[1],
    )
    columns = cast(dict[str, list[str]], head["columns"])
    for table, kept in columns.items():
        has = {column: may_lack for name, column, may_lack in told if name == table}
        lacks = {column for column, may_lack in has.items() if not may_lack} - set(kept)
        assert (set(kept) - set(has), lacks) == (set(), set()), f"{table}: make weeks"
    assert sum(text.count("\n") + 1 for name, text in blocks.items() if name.startswith("entry ")) > 150_000
    assert max(re.findall(r"\b20\d\d-\d\d-\d\d(?= \d\d:)", blocks["entry ex-01"])) == head["last"]
    assert date.fromisoformat(str(head["last"]))
    whole = lzma.decompress(file_bytes())
    at = whole.index(b"All well.")
    broken = tmp_path / "weeks.xz"
    write_parts(lzma.compress(whole[:at] + b"Not well" + whole[at + 8 :], preset=0), broken)
    with pytest.raises(NoHistory, match="not as it was written"):
        read_file(broken)
    write_parts(lzma.compress(b'{"format": "something/1"}\n', preset=0), broken)
    with pytest.raises(NoHistory, match="no history"):
        read_file(broken)


@pytest.mark.skipif(not DEEP, reason="the life of a demo takes them in, too")
def test_taken_in_the_weeks_end_yesterday_and_their_chains_hold(empty: str) -> None:
    """Times and hashes are made anew; who comes today goes on from there."""
    now = datetime(2031, 3, 9, 10, 20, tzinfo=UTC)
    assert _aside(lambda: load_demo(empty, CATALOG, now, weeks=True))
    assert not _aside(lambda: load_demo(empty, CATALOG, now, weeks=True))
    for machine in ("gr-09", "tr-16") if not DEEP else (None,):
        checked = _aside(lambda m=machine: verify_all(empty, CATALOG, m))
        assert all(line.whole for line in checked), checked

    async def ask() -> tuple[datetime, datetime, int, set[str], int]:
        store = Store(empty)
        async with store.transaction() as db:
            log = [e async for e in log_of(db, SITE[0], "gr-09")]
            here = await here_of(db, Books(CATALOG), now)
            go = {m.unit.id: m.go.value for m in await yard(here)}
            told = len((await incidents(here, "ah-07"))[1])
        await store.close()
        return log[1].at, log[-1].at, len(log), set(go.values()), told

    first, last, entries, go, told = _aside(lambda: asyncio.run(ask()))
    assert (now.date() - first.date(), now.date() - last.date()) == (timedelta(FIRST), timedelta(1))
    assert entries > 5000
    assert {"ready", "uninspected"} <= go
    assert told == 1


def alike(name: str, text: str) -> object:
    """A block without salts; in records, what others wrote beside a walk in one order."""
    if not name.startswith("record "):
        return SALTED.sub("", text)
    out = []
    for row in text.split("\n"):
        *cells, document = row.split("\t")
        whole = json.loads(ESCAPED.sub(lambda m: "\n" if m[1] == "n" else m[1], document), strict=False)
        out.append((cells, {**whole, "others": sorted(whole["others"], key=lambda e: int(e["seq"]))}))
    return out


@pytest.mark.skipif(not DEEP, reason="six minutes of walking")
@pytest.mark.timeout(2400)
def test_lived_again_they_are_what_ships(empty: str, tmp_path: Path) -> None:
    """The same people, days and findings give the same log and the same projections, but for ids and salts."""
    head, shipped = read_file()
    day = datetime.combine(date.fromisoformat(str(head["last"])), datetime.min.time(), UTC) + timedelta(1)
    _aside(lambda: make_history(empty, CATALOG, day))
    rebuilt = _aside(lambda: rebuild_all(empty, CATALOG))
    assert all(line.whole for line in rebuilt), rebuilt
    _aside(lambda: keep_history(empty, tmp_path / "weeks.xz"))
    _, again = read_file(tmp_path / "weeks.xz")
    assert shipped.keys() == again.keys()
    for name in shipped.keys() - {"ids"}:
        assert alike(name, again[name]) == alike(name, shipped[name]), name


def test_a_wrong_attribute_is_found() -> None:
    """The check above can fail."""
    with pytest.raises(BadInput):
        check_finding(decode(Finding, {"failure_mode": "wear", "attributes": {"wear": "a lot"}}), CATALOG.rulebook)
