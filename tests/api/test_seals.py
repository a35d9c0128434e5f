"""Pens that are key pairs: what a stolen, copied, cleared or lying tablet can and cannot do.

How it could send somebody out: a release, a signature or an acceptance in the name of somebody who never wrote it.
How it could lose what was reported: a defect of a pen that has ended, or that another tablet sends, turned away.
"""

from __future__ import annotations

import json
from base64 import urlsafe_b64decode, urlsafe_b64encode
from typing import Any

from jutrel.service.seal import holds, new_site_key, opened, sealed
from tests.api.conftest import Tablets

Plain = dict[str, Any]
HELD = {
    "answer": "defect",
    "findings": [{"failure_mode": "crack", "attributes": {"crack_where": "parent"}, "note": "n"}],
}


def refused(reply: Any) -> list[str]:
    return [r["kind"] for r in reply.raise_for_status().json()["refused"]]


def made(alg: str, payload: bytes, kid: str = "p") -> str:
    """Something in the form of a seal."""
    head = json.dumps({"alg": alg, "kid": kid}).encode()
    return ".".join(urlsafe_b64encode(part).rstrip(b"=").decode() for part in (head, payload, b"s" * 64))


def test_what_a_pen_seals_is_taken_from_any_tablet_and_from_no_other_pen(tablets: Tablets) -> None:
    mira, other = tablets(), tablets()
    pen = mira.sign_in_with_a_key("Mira")
    walk = mira.walk("gr-09")
    look = mira.new_id()
    assert refused(mira.send("gr-09", look, walk)) == []
    # The site vouches for the pen, and anybody can check that.
    site = mira.http.get("/api/site/key").json()
    assert holds(pen["certificate"], site["key"])
    says = opened(pen["certificate"]).says
    assert (says["pen"], says["name"], says["role"], says["device"]) == (
        pen["id"],
        "Mira Tolland",
        "operator",
        mira.name,
    )
    assert (
        mira.http.get(f"/api/pens/{pen['id']}").json()["certificate"].split(".")[1] == pen["certificate"].split(".")[1]
    )
    # Another person's tablet carries what Mira sealed: her seal is enough, her secret is not shown.
    carried = mira.entry(
        "answered", checkpoint=walk[-1]["what"]["checkpoint"], answer="sound", replaces=[walk[-1]["id"]]
    )
    seal = mira.sealed("gr-09", look, carried)
    other.sign_in_with_a_key("Osk")
    assert (
        refused(
            other.http.post("/api/entries", json={"machine": "gr-09", "stream": look, "entries": [seal], "pens": []})
        )
        == []
    )
    # Changed on the way, sealed by another key, or under another's name: refused, whoever sends it.
    head, body, signature = seal["seal"].split(".")
    payload = json.loads(urlsafe_b64decode(body + "=="))
    private, _ = new_site_key()
    forged = [
        sealed(private, pen["id"], {**payload, "id": other.new_id()}),
        sealed(other.keys[other.by][0], other.keys[other.by][1], {**payload, "id": other.new_id()}),
        sealed(other.keys[other.by][0], pen["id"], {**payload, "id": other.new_id()}),
        f"{head}.{body}.{signature[:-4]}AAAA",
    ]
    for wrong in forged:
        sent = {"machine": "gr-09", "stream": look, "entries": [{"id": other.new_id(), "seal": wrong}], "pens": []}
        kinds = refused(other.http.post("/api/entries", json=sent))
        assert kinds in (["bad-seal"], ["unknown-pen"]), kinds
    # A seal for one machine is none for another; nonsense is refused with its field.
    elsewhere = {"machine": "rh-08", "stream": other.new_id(), "entries": [seal], "pens": []}
    assert refused(other.http.post("/api/entries", json=elsewhere)) == ["other-machine"]
    hostile = [
        made("ES256", b"[" * 20_000),
        made("ES256", b'{"what": NaN}'),
        made("ES256", b'{"by": "\\ud800"}'),
        made("none", body.encode()),
        made("ES256", b"{}", kid="\x00"),
        made("ES256", json.dumps({"seal": seal["seal"]}).encode()),
    ]
    for nonsense in ("a.b.c", "x", "..", seal["seal"].replace(".", ""), *hostile):
        sent = {"machine": "gr-09", "stream": look, "entries": [{"id": other.new_id(), "seal": nonsense}], "pens": []}
        assert refused(other.http.post("/api/entries", json=sent)) == ["bad-entry"]
    bad = {"person": other.by, "pin": "2468", "device": "tab", "key": "AAAA"}
    assert other.http.post("/api/session", json=bad).json()["field"] == "key"


def test_a_copied_secret_gives_nothing_and_what_it_reports_still_counts(tablets: Tablets) -> None:
    """Somebody reads the secret and the cookie out of the tablet: the private half they cannot take."""
    mira = tablets()
    mira.sign_in_with_a_key("Mira")
    look = mira.new_id()
    assert refused(mira.send("ld-05", look, mira.walk("ld-05"))) == []
    mira.seals = False
    assert refused(mira.send("ld-05", look, [mira.signature(look)])) == ["no-seal"], "it clears nothing"
    walk = mira.http.post("/api/machines/ld-05/walk", json={}).json()
    place = next(c["id"] for c in walk["checkpoints"] if "crack" in c["failure_modes"])
    worse = mira.entry("answered", mira.seen("ld-05", place, look), checkpoint=place, **HELD)
    assert refused(mira.send("ld-05", look, [worse])) == [], "what makes worse always counts"
    assert any(d["checkpoint"] == place for d in mira.open("ld-05"))
    mira.seals = True
    assert refused(mira.send("ld-05", look, [mira.signature(look)])) == []


def test_a_tablet_without_keys_works_as_before(tablets: Tablets) -> None:
    osk = tablets()
    pen = dict(osk.sign_in("Osk").json()["pen"])
    assert pen["certificate"] == ""
    osk.whole("ah-07")
    assert osk.http.get(f"/api/pens/{pen['id']}").status_code == 404
