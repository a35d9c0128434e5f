"""Model files from site to site: changed on the way they are found out, and a stranger's key is compared by people."""

from __future__ import annotations

import json
from base64 import urlsafe_b64decode, urlsafe_b64encode
from typing import Any

import httpx
import pytest

from jutrel.service.log.seal import new_site_key, sealed
from jutrel.service.machine.signed_models import FORMAT, fingerprint
from tests.api.conftest import Tablets
from tests.device import Device

PRIVATE, PUBLIC = new_site_key()
KEY = fingerprint(PUBLIC)


def take(me: Device, text: str, keep: bool = True, signer: str = "", id_: str = "") -> httpx.Response:
    body = {"id": id_ or me.new_id(), "name": "from afar.jws", "text": text, "keep": keep, "signer": signer}
    return me.http.post("/api/models", json=body)


def file_of(me: Device, volume: str) -> str:
    """The excavator's file as another site might have changed it."""
    return me.http.get("/api/models/tolvane-e24/file.yaml").text.replace("name: E24", f"name: {volume}", 1)


def foreign(file: str, **more: Any) -> str:
    says = {"format": FORMAT, "model": "tolvane-e24", "file": file, "site": "Ostmere quarry"}
    return sealed(PRIVATE, KEY, {**says, "at": "2026-11-01T06:00:00Z", "key": PUBLIC, **more})


def edition(me: Device) -> tuple[int, str]:
    models = me.http.get("/api/models").json()["models"]
    return next((m["edition"], m["name"]) for m in models if m["id"] == "tolvane-e24")


def test_a_site_knows_its_own_file_again(tablets: Tablets) -> None:
    me = tablets()
    me.sign_in("Dag")
    signed = me.http.get("/api/models/tolvane-e24/file.jws")
    assert (signed.status_code, signed.headers["content-type"].split(";")[0]) == (200, "application/jose")
    taken = take(me, signed.text + "\n").raise_for_status().json()
    assert (taken["id"], taken["edition"]) == ("tolvane-e24", 1)
    own = me.http.get("/api/models").json()["key"]
    assert taken["signed_by"] == {**taken["signed_by"], "own": True, "key": own}
    assert me.http.get("/api/models/nothing-e1/file.jws").status_code == 404


def test_a_strangers_file_is_taken_in_with_the_key_that_was_compared(tablets: Tablets) -> None:
    me = tablets()
    me.sign_in("Dag")
    text = foreign(file_of(me, "E24 QUARRY"))
    looked = take(me, text, keep=False).raise_for_status().json()
    assert looked["signed_by"]["site"] == "Ostmere quarry"
    assert looked["signed_by"]["key"] == KEY
    assert edition(me) == (0, "E24"), "it was only looked at"
    for wrong in ("", "0000 0000 0000 0000 0000", KEY[:-1]):
        no = take(me, text, signer=wrong)
        assert (no.status_code, no.json()["field"]) == (409, "signer")
        assert KEY in no.json()["detail"]
        assert edition(me) == (0, "E24")
    sending = me.new_id()
    for _ in range(2):
        assert take(me, text, signer=KEY.lower(), id_=sending).status_code == 200
    assert edition(me) == (1, "E24 QUARRY"), "sent twice, taken in once"
    chief = tablets()
    chief.sign_in("Rolf")
    account = json.dumps(chief.http.get("/api/account").json())
    assert "Ostmere quarry" in account
    assert KEY in account
    operator = tablets()
    operator.sign_in("Mira")
    assert take(operator, text, signer=KEY).status_code == 403


def _payload(signed: str, **more: Any) -> str:
    """A signed file with other words under the same signature."""
    head, says, signature = signed.split(".")
    told = {**json.loads(urlsafe_b64decode(says + "=" * (-len(says) % 4))), **more}
    return f"{head}.{urlsafe_b64encode(json.dumps(told).encode()).rstrip(b'=').decode()}.{signature}"


@pytest.mark.parametrize(
    ("harm", "why"),
    [
        (lambda text, file: _payload(text, file=file.replace("name: E24", "name: E25", 1)), "changed on the way"),
        (lambda text, file: _payload(text, key=new_site_key()[1]), "changed on the way"),
        (lambda text, file: text[:-4] + "AAAA", "changed on the way"),
        (lambda text, file: foreign(file, format="jutrel-route/1"), "no model file"),
        (lambda text, file: foreign(file, key="not a key"), "changed on the way"),
        (lambda text, file: foreign(""), "file"),
        (lambda text, file: foreign(file, at="yesterday"), "not a time"),
        (lambda text, file: foreign(file.replace("family:", "familie:", 1)), "famil"),
        (lambda text, file: "a.b.c", "three parts"),
    ],
)
def test_what_is_not_as_it_was_signed_changes_nothing(tablets: Tablets, harm: Any, why: str) -> None:
    """Another tyre pressure in a file from afar would go out with every machine of its model."""
    me = tablets()
    me.sign_in("Dag")
    file = file_of(me, "E24 X")
    no = take(me, harm(foreign(file), file), signer=KEY)
    assert no.status_code == 422, no.text
    assert why in no.json()["detail"]
    assert edition(me) == (0, "E24")
