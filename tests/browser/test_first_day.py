"""A company's first day by the page alone, with no demo: site, administrator, people, a device, three machines, the
first inspection, a backup; over TLS with a certificate of the company's own authority.
"""

from __future__ import annotations

import os
import re
import ssl
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address
from pathlib import Path

import pytest
from cryptography import x509
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat
from cryptography.x509.oid import NameOID
from playwright.sync_api import expect

from jutrel.cluster import free_port
from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.command import run
from tests.conftest import ROOT, _aside, owner_of
from tests.test_running import script

pytestmark = pytest.mark.browser
CHIEF, OWN = "Ada Berg-Test", "730418"
PEOPLE = (("Rut Berg-Test", "Administrator"), ("Sam Test", "Supervisor"), ("Olu Test", "Operator"))
MACHINES = (("ex-1", "EX-1", "Tolvane E24"), ("ex-2", "EX-2", "Tolvane E48"), ("wl-1", "WL-1", "Korveth KW32"))


def certificate(folder: Path) -> tuple[Path, Path]:
    """A certificate for this computer by an authority of the company's own, and its key."""
    authority, key = ec.generate_private_key(ec.SECP256R1()), ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Ridge Dam authority")])
    now = datetime.now(UTC)
    made = (
        x509.CertificateBuilder()
        .subject_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "machines.ridge.test")]))
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=30))
        .add_extension(x509.SubjectAlternativeName([x509.IPAddress(ip_address("127.0.0.1"))]), critical=False)
        .sign(authority, SHA256())
    )
    (folder / "site.pem").write_bytes(made.public_bytes(Encoding.PEM))
    (folder / "site.key").write_bytes(key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption()))
    return folder / "site.pem", folder / "site.key"


@pytest.fixture
def secure(empty: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """The real server over TLS on a database with nothing in it; its address."""
    pem, key = certificate(tmp_path)
    locking = tmp_path / "lock.key"
    monkeypatch.setenv("JUTREL_DATABASE_URL", empty)
    monkeypatch.setenv("JUTREL_OWNER_URL", owner_of(empty))
    monkeypatch.setenv("JUTREL_KEY_FILE", str(locking))
    assert "There is no site yet" in _aside(lambda: run("site", "encrypt-key")).stdout
    port = free_port()
    base = f"https://127.0.0.1:{port}"
    env = {**os.environ, "JUTREL_DATABASE_URL": empty, "JUTREL_PUBLIC_ADDRESS": base, "JUTREL_KEY_FILE": str(locking)}
    jutrel = str(Path(sys.executable).with_name("jutrel"))
    serve = [jutrel, "serve", "--port", str(port), "--certificate", str(pem), "--certificate-key", str(key)]
    process = subprocess.Popen(serve, env=env, cwd=ROOT)
    trusting = ssl._create_unverified_context()  # only to see that it answers
    for _ in range(600):
        try:
            with urllib.request.urlopen(f"{base}/api/health", context=trusting, timeout=5):
                break
        except OSError:
            assert process.poll() is None
            time.sleep(0.1)
    yield base
    process.terminate()
    process.wait(10)


def enter(me: Hand, name: str, first: str, own: str) -> None:
    """Sign in for the first time: the PIN that was given, and one's own twice."""
    me.page.get_by_role("button", name=name).click()
    for pin in (first, own, own):
        me.type_pin(pin)
    me.page.get_by_role("heading", name="Today").wait_for()


def test_from_an_empty_server_to_the_first_inspection_and_its_backup(
    empty: str, secure: str, hand: NewHand, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    me = hand(secure, ignore_https_errors=True)  # the browser of a test does not know the company's authority
    # The site, with the code of the console.
    me.page.goto("/")
    expect(me.page.get_by_role("heading", name="Set up a new site")).to_be_visible()
    assert me.axe() == []
    for field, value in (("name", "Ridge Dam"), ("who-0", "Ambulance"), ("which-0", "112"), ("chief", CHIEF)):
        me.see(field).fill(value)
    me.see("code").fill("AAAA-BBBB-CCCC")
    me.tap("set-up")
    expect(me.page.get_by_role("alert")).to_contain_text("not the code from the console")
    code = re.search(r"[A-Z2-9]{4}-[A-Z2-9]{4}-[A-Z2-9]{4}", _aside(lambda: run("site", "code")).stdout)
    assert code is not None
    me.see("code").fill(code[0])
    me.tap("more-shifts")
    me.tap("set-up")
    first = me.see("first-pin").inner_text()
    assert me.axe() == []
    me.tap("to-sign-in")
    # The first administrator, people, and a device.
    enter(me, CHIEF, first, OWN)
    cookies = me.page.context.cookies()
    assert sorted(c["name"] for c in cookies) == ["__Host-jutrel", "__Host-jutrel-tablet"]
    assert all(c["secure"] and c["httpOnly"] for c in cookies)
    me.page.get_by_role("link", name="People").click()
    for name, role in PEOPLE:
        me.tap("add-person")
        me.see("person-name").fill(name)
        me.page.get_by_role("combobox", name="Role").click(force=True)
        me.page.get_by_role("option", name=role, exact=True).click()
        me.see("person-pin").fill("4711")
        me.tap("save-person")
        expect(me.page.get_by_text(name).first).to_be_visible()
    me.page.goto("/")
    me.sign_out()
    # A supervisor clears machines: the second administrator confirms that there is one.
    enter(me, "Rut Berg-Test", "4711", "604193")
    me.tap("confirm-role")
    for digit in "604193":
        me.page.get_by_role("button", name=digit, exact=True).click()
    me.tap("enter")
    expect(me.page.get_by_test_id("roles-asked")).to_have_count(0)
    me.sign_out()
    # The supervisor takes three machines in.
    enter(me, "Sam Test", "4711", "518264")
    for id_, name, model in MACHINES:
        me.page.goto("/machines/new")
        me.see("machine-id").fill(id_)
        me.see("machine-name").fill(name)
        me.page.get_by_role("combobox", name="Model").click(force=True)
        me.page.get_by_role("option", name=re.compile(model)).first.click()
        me.tap("save-file")
        me.page.wait_for_url(f"**/machines/{id_}")
    me.page.goto("/")
    me.sign_out()
    # An operator walks round the first of them, whole, and signs.
    enter(me, "Olu Test", "4711", "829475")
    me.begin_at("ex-1")
    me.walk_the_rest()
    me.all_sent()
    me.tap("sign")
    me.tap("sign-now")
    expect(me.page.get_by_text("signed by Olu Test")).to_be_visible()
    # A backup, and what is still wrong with the installation.
    made = script("backup.sh", str(tmp_path / "backups"), url=owner_of(empty))
    assert made.returncode == 0, made.stderr
    monkeypatch.setenv("JUTREL_PUBLIC_ADDRESS", secure)
    monkeypatch.setenv("JUTREL_BACKUP_STAMP", str(tmp_path / "backups" / "newest"))
    checked = _aside(lambda: run("check")).stdout
    assert [line for line in checked.splitlines() if line.startswith("WRONG") and "disk" not in line] == [], checked
