"""A backup is put back: what the server had said it took since comes again from the tablet, once, as it was sealed."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import NewHand
from tests.conftest import Cluster, Serve, owner_of, put_on, sql
from tests.test_running import script

pytestmark = pytest.mark.browser
LOG = "select id::text, by::text, kind, what::text, seal from entry where kind <> 'filed' order by id"


def test_after_a_restore_tablets_send_again_what_it_lacks(
    bare: str, cluster: Cluster, serve: Serve, hand: NewHand, tmp_path: Path
) -> None:
    """Mira's taps, and those of somebody whose pen and session the backup has never heard of."""
    base = serve(bare)
    me = hand(base)
    me.sign_in()
    me.begin("ex-01")
    me.sound("stance")
    me.all_sent()
    made = script("backup.sh", str(tmp_path), url=owner_of(bare))
    assert made.returncode == 0, made.stderr
    me.sound("pools")
    me.all_sent()
    me.page.goto("/")
    me.sign_out()
    me.sign_in("Osk Brandel")
    me.begin("ld-05")
    me.sound("stance")
    me.defect("people", "hazard", "People in the danger area")
    me.save()
    me.all_sent()
    before = sql(cluster, LOG, bare.rsplit("/", 1)[1])

    name = f"back_{os.getpid()}"
    sql(cluster, f'create database "{name}"')
    back = script("restore.sh", made.stdout.strip(), url=cluster.url_of(name, owner=True))
    assert back.returncode == 0, back.stderr
    assert len(sql(cluster, LOG, name)) < len(before)
    # Mira signed out after the backup was made, which knows nothing of it: nobody is signed in on what was put back.
    assert sql(cluster, "select count(*) > 0 from session", bare.rsplit("/", 1)[1]) == [(True,)]
    assert sql(cluster, "select count(*) from session", name) == [(0,)]
    put_on(base, cluster.url_of(name, owner=False))
    # Nobody is signed in on the server that was put back. Mira comes; what Osk wrote is sealed by his own pen.
    me.page.goto("/")
    me.sign_in()
    for _ in range(60):
        if len(sql(cluster, LOG, name)) >= len(before):
            break
        me.page.wait_for_timeout(500)
    assert sql(cluster, LOG, name) == before
    expect(me.see("connection")).to_have_text("All sent")
    assert script("restore.sh", made.stdout.strip(), url=cluster.url_of(name, owner=True)).returncode == 1
    # Asked again, nothing is sent twice.
    me.page.reload()
    me.all_sent()
    assert sql(cluster, LOG, name) == before
