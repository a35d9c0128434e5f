"""A database of the release before comes along: its log, with every hash as it was, in the leaner tables."""

from __future__ import annotations

import hashlib
import json
from dataclasses import replace

import psycopg
from alembic import command
from psycopg.types.json import Jsonb

from jutrel.cluster import Cluster
from jutrel.core.log.chain import START as FIRST
from jutrel.core.log.codec import encode
from jutrel.core.log.kinds import kind_of
from jutrel.service.log.whole_log import verify_all
from jutrel.store.migrate import alembic_config
from tests.conftest import CATALOG, sql
from tests.walks import MIRA, START, core, defect, walked

COLUMNS = (
    "seq, id, stream, kind, what, by, at, replaces, names, offset_ms, role, sent_by, received_at, heard_at, pins, "
    "prev, hash, site_id, machine_id, pen, device"
)
ADD = f"insert into entry ({COLUMNS}) values ({'%s, ' * 17} 's', 'ex-01', '', 'tab')"


def test_its_entries_keep_their_hashes(cluster: Cluster) -> None:
    sql(cluster, "create database before")  # one test, so one worker
    owner = cluster.url_of("before", owner=True)
    command.upgrade(alembic_config(owner), "0004")
    log = walked({"boom": defect("crack", crack_where="parent")})
    look = log[0]["id"]
    head, hashes = FIRST, []
    with psycopg.connect(owner.replace("+psycopg", "")) as db:
        db.execute("insert into site (id, name, zone, regime, shift_hours) values ('s', 'S', 'UTC', 'house', 10)")
        db.execute(
            "insert into machine (site_id, id, name, model_id, options, hour_meter, bay, own_limits, meter_offset, "
            "active, standing, seq, head) "
            "values ('s', 'ex-01', 'EX-01', 'tolvane-e24', '{}', 0, 1, '{}', 0, true, '{}', 0, '')"
        )
        db.execute("insert into stream (site_id, id, machine_id) values ('s', %s, 'ex-01')", [look])
        for e in core(log):
            named = sorted(e.replaces)
            made = replace(
                e, stream=look, sent_by=MIRA, device="tab", received_at=START, heard_at=e.at, prev=head, pins=None
            )
            plain = {**encode(made), "kind": kind_of(e.what).name}
            text = json.dumps(plain, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
            head = hashlib.sha256(text.encode()).hexdigest()
            hashes.append(head)
            what = Jsonb(encode(e.what))
            values = [e.seq, e.id, look, plain["kind"], what, e.by, e.at, named, named, None, e.role.value, MIRA, START]
            db.execute(ADD, [*values, e.at, None, made.prev, head])
        db.execute("update machine set seq = %s, head = %s", [len(hashes), head])
    command.upgrade(alembic_config(owner), "head")
    kept = sql(cluster, "select encode(hash, 'hex') from entry order by seq", "before")
    assert [row[0] for row in kept] == hashes
    assert [(line.whole, line.says) for line in verify_all(owner, CATALOG)] == [
        (True, f"ex-01: whole, {len(log)} entries")
    ]
