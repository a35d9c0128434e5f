"""Pens that are key pairs: what a stolen, copied, cleared or lying tablet can and cannot do.

How it could send somebody out: a release, a signature or an acceptance in the name of somebody who never wrote it.
How it could lose what was reported: a defect of a pen that has ended, or that another tablet sends, turned away.
"""

from __future__ import annotations

import json
from base64 import urlsafe_b64decode, urlsafe_b64encode
from pathlib import Path
from typing import Any

from jutrel.service.log.seal import holds, new_site_key, opened, sealed
from tests.api.conftest import Tablets
from tests.command import run
from tests.conftest import Cluster, sql

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


def test_whoever_holds_a_record_checks_who_wrote_it(tablets: Tablets, tmp_path: Path) -> None:
    """The file alone, no server: whatever is changed in it, or put under another's name, is found."""
    mira = tablets()
    mira.sign_in_with_a_key("Mira")
    look = mira.new_id()
    assert refused(mira.send("gr-09", look, mira.walk("gr-09"))) == []
    record = mira.http.get(f"/api/inspections/{look}/record.json").raise_for_status().json()
    key = mira.http.get("/api/site/key").json()["key"]
    sealed_here = [e for e in record["entries"] if e["seal"]]
    assert len(sealed_here) > 10
    (pen,) = record["pens"]

    def checked(document: Plain, *more: str) -> tuple[int, Plain]:
        path = tmp_path / "record.json"
        path.write_text(json.dumps(document))
        done = run("seals", str(path), *more)
        return done.returncode, json.loads(done.stdout)

    code, found = checked(record, "--key", key)
    assert (code, found["wrong"], found["sealed"], found["bare"]) == (0, [], len(sealed_here), 0)
    place = next(n for n, e in enumerate(record["entries"]) if e["kind"] == "answered")
    first = record["entries"][place]
    changes: list[Plain] = [
        {"what": {**first["what"], "answer": "unseen", "reason": "dark"}},
        {"what": {**first["what"], "checkpoint": "teeth"}},
        {"at": "2020-01-01T00:00:00Z"},
        {"by": "osk", "role": "operator"},
        {"role": "mechanic"},
        {"id": mira.new_id()},
        {"stream": mira.new_id()},
        {"replaces": [sealed_here[0]["id"]]},
        {"kind": "noted", "what": {"text": "t"}},
        {"seal": sealed_here[-1]["seal"]},
        {"seal": "a.b.c"},
    ]
    for change in changes:
        bad = {**record, "entries": [{**e, **(change if n == place else {})} for n, e in enumerate(record["entries"])]}
        code, found = checked(bad)
        assert code == 1, change
        assert [w["seq"] for w in found["wrong"]] == [first["seq"]], change
    elsewhere = {**record, "machine": {**record["machine"], "id": "rh-08"}}
    assert len(checked(elsewhere)[1]["wrong"]) == len(sealed_here)
    # A whole site made up by somebody: it holds by its own key, and not by the one that is known.
    private, public = new_site_key()
    says = opened(record["pens"][pen]).says
    made_up = {**record, "site": {**record["site"], "key": public}, "pens": {pen: sealed(private, "site:x", says)}}
    assert checked(made_up)[0] == 0
    assert len(checked(made_up, "--key", key)[1]["wrong"]) == len(sealed_here)
    stripped = {**record, "entries": [{**e, "seal": ""} for e in record["entries"]]}
    assert checked(stripped)[1]["bare"] == len(record["entries"]), "what bears no seal is counted as that"


def test_a_pen_that_a_backup_has_never_heard_of_is_taken_by_the_sites_own_seal(
    bare: str, cluster: Cluster, tablets: Tablets
) -> None:
    """After a restore. By any other seal, for another site, or for somebody who is not there, it is no pen."""
    mira, other = tablets(), tablets()
    name = bare.rsplit("/", 1)[1]
    pen = mira.sign_in_with_a_key("Mira")
    look = mira.new_id()
    walk = [mira.sealed("gr-09", look, e) for e in mira.walk("gr-09")]
    other.sign_in_with_a_key("Osk")

    def send(*certificates: str) -> list[str]:
        body = {"machine": "gr-09", "stream": look, "entries": walk, "pens": [], "certificates": list(certificates)}
        return sorted(set(refused(other.http.post("/api/entries", json=body))))

    # What the server was told since the backup was made is away with it.
    sql(cluster, f"delete from session where pen_id = '{pen['id']}'", name)
    sql(cluster, f"delete from pen where id = '{pen['id']}'", name)
    says = dict(opened(pen["certificate"]).says)
    own, site = new_site_key()[0], f"site:{says['site']}"
    head, body, signature = pen["certificate"].split(".")
    chief = urlsafe_b64encode(json.dumps({**says, "role": "mechanic"}).encode()).rstrip(b"=").decode()
    for wrong in (
        (),
        (sealed(own, site, says),),
        (sealed(other.keys[other.by][0], site, says),),
        (f"{head}.{chief}.{signature}",),
        ("a.b.c", "", f"{head}.{body}.{signature[:-4]}AAAA"),
        (dict(other.sign_in_with_a_key("Ines"))["certificate"],),
    ):
        assert send(*wrong) == ["unknown-pen"], wrong
    assert sql(cluster, f"select count(*) from pen where id = '{pen['id']}'", name) == [(0,)]
    assert send(pen["certificate"]) == []
    kept = sql(cluster, f"select role, device, key from pen where id = '{pen['id']}'", name)
    assert kept == [("operator", mira.name, says["key"])]
    assert send(pen["certificate"]) == [], "and once more it is known"
    assert len(other.look(look)["answers"]) == len(walk) - 1
