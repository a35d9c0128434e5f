"""What tablets keep of people who signed out, and the site's own key: neither is for whoever finds it.

How it could lose what was reported: a encrypted entry that the server cannot open any more, or a photo that comes under
another's name. How it could send somebody out: a word in somebody's name by whoever finds a tablet or a backup.
"""

from __future__ import annotations

import io
import json
import secrets
from base64 import b64encode, urlsafe_b64decode, urlsafe_b64encode
from pathlib import Path
from typing import Any

import pytest
from cryptography.hazmat.primitives.ciphers.aead import AESGCM
from fastapi.testclient import TestClient
from PIL import Image

from jutrel.api.app import make_app
from jutrel.demo.story import WHO
from jutrel.service.log.seal import holds
from jutrel.settings import Settings
from tests.api.conftest import Tablets
from tests.api.test_seals import HELD
from tests.command import run
from tests.conftest import CATALOG, Cluster, owner_of, sql
from tests.device import Device

Plain = dict[str, Any]


def raw(text: str) -> bytes:
    return urlsafe_b64decode(text + "=" * (-len(text) % 4))


def encrypted(tablet_key: str, person: str, data: bytes | Plain, bound: str) -> str:
    """Something as a tablet encrypts it, written anew from its description."""
    nonce = secrets.token_bytes(12)
    text = data if isinstance(data, bytes) else json.dumps(data).encode()
    made = nonce + AESGCM(raw(tablet_key)).encrypt(nonce, text, bound.encode())
    return f"encrypted.{person}.{urlsafe_b64encode(made).rstrip(b'=').decode()}"


def entered(device: Device, who: str) -> str:
    """Sign in with a key, and what the tablet encrypts with."""
    tablet_key = str(device.sign_in(who).json()["tablet_key"])
    device.sign_in_with_a_key(who)
    return tablet_key


def crack(device: Device, machine: str) -> Plain:
    walk = device.http.post(f"/api/machines/{machine}/walk", json={}).json()
    place = next(c["id"] for c in walk["checkpoints"] if "crack" in c["failure_modes"])
    return device.entry("answered", device.seen(machine, place), checkpoint=place, **HELD)


def post(device: Device, look: str, *entries: Plain, pens: tuple[str, ...] = ()) -> Any:
    body = {"machine": "ld-05", "stream": look, "entries": list(entries), "pens": list(pens)}
    return device.http.post("/api/entries", json=body).raise_for_status().json()


def test_what_was_encrypted_is_taken_in_its_authors_name_and_no_other_is(tablets: Tablets) -> None:
    mira, osk = tablets(), tablets()
    hers, his = entered(mira, "Mira"), entered(osk, "Osk")
    assert hers != his
    assert hers == tablets().sign_in("Mira").json()["tablet_key"], "the same on each tablet, whenever they sign in"
    look = mira.new_id()
    begun, found = mira.opening("ld-05"), crack(mira, "ld-05")
    assert post(mira, look, mira.sealed("ld-05", look, begun))["stored"] == [begun["id"]]
    box = encrypted(hers, mira.by, {"seal": mira.sealed("ld-05", look, found)["seal"]}, found["id"])
    sent = {"id": found["id"], "encrypted": box}
    # Bound to its id, to its author's key, and unchanged; whoever sends it, one that is not stops no other.
    other, cut = osk.new_id(), box.rindex(".") + 20
    changed = box[:cut] + ("A" if box[cut] != "A" else "B") + box[cut + 1 :]
    nonsense = ("", "encrypted.", "encrypted..", f"encrypted.{mira.by}.*", "x.y.z", f"encrypted.{mira.by}.AAAA")
    unread = (b"", b"[" * 20_000, b'{"a": NaN}', b"[]", b'{"by": "\\ud800"}')
    wrong: list[Plain] = [
        {"id": other, "encrypted": box},
        {"id": found["id"], "encrypted": changed},
        {"id": found["id"], "encrypted": box.replace(mira.by, osk.by)},
        {"id": found["id"], "encrypted": encrypted(his, mira.by, {"seal": "x"}, found["id"])},
        *({"id": other, "encrypted": x} for x in nonsense),
        *({"id": other, "encrypted": encrypted(his, osk.by, x, other)} for x in unread),
        {"id": other, "encrypted": encrypted(his, osk.by, {"encrypted": box}, other)},
    ]  # fmt: skip
    for one in wrong:
        reply = post(osk, look, one)
        assert (reply["stored"], [r["kind"] for r in reply["refused"]]) == ([], ["bad-entry"]), one
    assert post(osk, look, wrong[0], sent)["stored"] == [found["id"]]
    assert post(osk, look, sent)["known"] == [found["id"]], "and once"
    there = next(e for e in mira.look(look)["entries"] if e["id"] == found["id"])
    assert there["by"] == mira.by
    assert [d["checkpoint"] for d in mira.open("ld-05")] == [found["what"]["checkpoint"]]
    # A key of one's own encrypts nothing in another's name: what is inside is checked like any other.
    forged = osk.entry("noted", text="All is well")
    inside = {k: v for k, v in forged.items() if k != "id"} | {"by": mira.by}
    reply = post(osk, look, {"id": forged["id"], "encrypted": encrypted(his, osk.by, inside, forged["id"])})
    assert [r["kind"] for r in reply["refused"]] == ["unknown-pen"]


def test_from_a_tablet_without_keys_the_secret_is_encrypted_too(tablets: Tablets) -> None:
    mira, osk = tablets(), tablets()
    given = mira.sign_in("Mira").json()
    his = osk.sign_in("Osk").json()["tablet_key"]
    look, begun, found = mira.new_id(), mira.opening("ld-05"), crack(mira, "ld-05")
    assert post(mira, look, begun)["stored"] == [begun["id"]]
    inside = {k: v for k, v in found.items() if k != "id"}
    sent = {"id": found["id"], "encrypted": encrypted(given["tablet_key"], mira.by, inside, found["id"])}
    secret = encrypted(given["tablet_key"], mira.by, given["pen"]["secret"].encode(), "pen")
    for pens in ((), (encrypted(his, osk.by, given["pen"]["id"].encode(), "pen"),), (secret.replace(mira.by, osk.by),)):
        assert [r["again"] for r in post(osk, look, sent, pens=pens)["refused"]] == [True], "kept, until it can be told"
    assert post(osk, look, sent, pens=(secret,))["stored"] == [found["id"]]
    # A photo: hers, though he sends it; with a secret that cannot be opened it stays on the tablet.
    out = io.BytesIO()
    Image.new("RGB", (20, 20), "red").save(out, "JPEG")
    photo = mira.new_id()
    shown = mira.entry("photographed", checkpoint=found["what"]["checkpoint"], photo=photo)
    assert post(mira, look, shown)["stored"] == [shown["id"]]
    body = raw(encrypted(given["tablet_key"], mira.by, out.getvalue(), photo).rsplit(".", 1)[1])

    def put(by: str, pen: str, data: bytes = body) -> int:
        return osk.http.put(
            f"/api/photos/{photo}", params={"inspection": look, "encrypted_by": by}, content=data, headers={"pen": pen}
        ).status_code

    assert put(osk.by, secret) == put(mira.by, secret[:-4] + "AAAA") == put(mira.by, secret, body[:-1]) == 422
    assert mira.http.get(f"/api/photos/{photo}").status_code == 404
    assert put(mira.by, secret) == 204
    assert mira.http.get(f"/api/photos/{photo}").status_code == 200


def door(url: str, key_file: Path | None) -> TestClient:
    return TestClient(make_app(Settings(database_url=url, key_file=key_file), CATALOG), base_url="http://yard.test")


def test_a_sites_key_is_encrypted_by_a_file_and_a_database_alone_opens_nothing(
    bare: str, cluster: Cluster, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    name, file = bare.rsplit("/", 1)[1], tmp_path / "site.key"
    with door(bare, None) as open_still:
        before = Device(open_still)
        tablet_key = before.sign_in("Mira").json()["tablet_key"]
        public = before.http.get("/api/site/key").json()["key"]
    assert "PRIVATE KEY" in str(sql(cluster, "select private from site_key", name))
    monkeypatch.setenv("JUTREL_DATABASE_URL", bare)
    monkeypatch.setenv("JUTREL_OWNER_URL", owner_of(bare))
    assert "lies open in the database" in run("check").stdout
    assert "Set JUTREL_KEY_FILE" in run("site", "encrypt-key").stderr
    monkeypatch.setenv("JUTREL_KEY_FILE", str(file))
    assert "lies open in the database" in run("check").stdout, "a file alone encrypts nothing"
    said = run("site", "encrypt-key").stdout
    assert "encrypted now" in said
    assert "Keep a copy" in said
    assert (file.stat().st_mode & 0o777) == 0o600
    assert "was encrypted already" in run("site", "encrypt-key").stdout
    assert "good   The site's own key is encrypted by a file outside the database." in run("check").stdout
    dump = str(sql(cluster, "select private from site_key", name))
    assert "PRIVATE KEY" not in dump
    assert tablet_key not in dump
    # With the file all is as before: the same key, the same keys of tablets, words that hold.
    with door(bare, file) as http:
        mira = Device(http)
        pen = mira.sign_in_with_a_key("Mira")
        assert holds(pen["certificate"], public)
        assert mira.sign_in("Mira").json()["tablet_key"] == tablet_key
        assert http.get("/api/ready").status_code == 200
    # Without it, with another or with one that is none: nobody signs in, and it says why.
    other, none = tmp_path / "other.key", tmp_path / "none.key"
    other.write_text(b64encode(secrets.token_bytes(32)).decode())
    none.write_text("not a key at all")
    body = {"person": WHO["Mira"], "pin": "2468", "device": "tab"}
    away = tmp_path / "away"
    for wrong, says in (
        (None, "names no file"),
        (away, "names no file"),
        (other, "another file"),
        (none, "encrypt-key"),
    ):
        with door(bare, wrong) as http:
            reply = http.post("/api/session", json=body)
            assert reply.status_code == 503
            assert says in reply.json()["detail"], wrong
            if wrong not in (None, other):
                assert list(http.get("/api/ready").json()["amiss"]) == ["key"]
        monkeypatch.setenv("JUTREL_KEY_FILE", str(wrong)) if wrong else monkeypatch.delenv("JUTREL_KEY_FILE")
        assert "Nobody can sign in." in run("check").stdout
    with door(bare, file) as http:
        assert http.post("/api/session", json=body).status_code == 200


def test_a_new_sites_key_is_never_open(bare: str, cluster: Cluster, tmp_path: Path) -> None:
    name = bare.rsplit("/", 1)[1]
    file = tmp_path / "site.key"
    file.write_text(b64encode(secrets.token_bytes(32)).decode())
    with door(bare, file) as http:
        assert Device(http).sign_in("Mira").is_success
    assert str(sql(cluster, "select private from site_key", name)).startswith("[('encrypted:")
