"""A tablet for tests: signs in, makes entries, sends them over HTTP."""

from __future__ import annotations

import secrets
import time
from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from typing import Any

import httpx

from jutrel.demo.story import MACHINES, PIN, WHO
from jutrel.service.ids import uuid7
from jutrel.service.log.seal import new_site_key, sealed
from tests.walks import as_read

Plain = dict[str, Any]
OPTIONS = {m.id: m.options for m in MACHINES}
ASKS_AGAIN = ("released", "rechecked", "accepted", "limits-accepted", "examined", "putting-right", "meter-corrected")
CRACK = {
    "answer": "defect",
    "findings": [{"failure_mode": "crack", "attributes": {"crack_where": "parent"}, "note": "n"}],
}


def whole_run(told: dict[str, Any]) -> dict[str, Any]:
    """A run as the page puts it together: what does not change in it, and how its steps stand."""
    written = {s["id"]: s for s in told["fixed"]["steps"]}
    steps = [{**written[s["id"]], **s} for s in told["steps"]]
    return {**told, **told["fixed"], "steps": steps}


class Device:
    """One tablet on one HTTP client (in process or over the network)."""

    def __init__(self, http: httpx.Client, name: str | None = None) -> None:
        self.http = http
        self.name = name or "tab-" + secrets.token_hex(4)
        self.by = ""
        self.pens: dict[str, str] = {}
        self.keys: dict[str, tuple[str, str]] = {}
        self.seals = True
        self.drift = timedelta()
        self.gives_pin = True
        self.pin = PIN
        self._last = 0

    def sign_in(self, who: str = "Mira", pin: str = PIN, key: str = "", own: str = "") -> httpx.Response:
        body = {"person": WHO[who], "pin": pin, "device": self.name, "key": key, "new_pin": own}
        reply = self.http.post("/api/session", json=body)
        if reply.is_success:
            self.by = WHO[who]
            self.pens[self.by] = reply.json()["pen"]["secret"]
        return reply

    def sign_in_with_a_key(self, who: str = "Mira") -> Plain:
        """Sign in as a browser does that can make a key pair; the pen. What is sent then is sealed, unless `seals`."""
        private, public = new_site_key()
        pen = dict(self.sign_in(who, key=public).raise_for_status().json()["pen"])
        self.keys[self.by] = private, pen["id"]
        return pen

    def sealed(self, machine: str, stream: str, entry: Plain) -> Plain:
        """An entry as its author's pen seals it."""
        private, pen = self.keys[entry["by"]]
        return {"id": entry["id"], "seal": sealed(private, pen, {**entry, "machine": machine, "stream": stream})}

    def clock(self) -> datetime:
        """What the tablet takes for the time."""
        return datetime.now(UTC) + self.drift

    def new_id(self) -> str:
        self._last = max(self._last + 1, int(self.clock().timestamp() * 1000))
        return uuid7(datetime.fromtimestamp(self._last / 1000, UTC))

    def entry(self, kind: str, replaces: Iterable[str] = (), **what: Any) -> Plain:
        return {
            "id": self.new_id(),
            "by": self.by,
            "at": self.clock().isoformat(),
            "what": {"kind": kind, **what},
            "replaces": list(replaces),
            "offset_ms": None,
        }

    def send(self, machine: str, stream: str, entries: list[Plain], **more: Any) -> httpx.Response:
        """Send entries; with them the pens of others who wrote on this tablet, and the PIN where it is asked again."""
        for e in entries:
            if self.gives_pin and e.get("what", {}).get("kind") in ASKS_AGAIN:
                self.pin_again(e["id"], by=e["by"])
        pens = [secret for by, secret in self.pens.items() if by != self.by]
        if self.seals:
            entries = [self.sealed(machine, stream, e) if e.get("by") in self.keys else e for e in entries]
        body = {"machine": machine, "stream": stream, "entries": entries, "pens": pens, **more}
        return self.http.post("/api/entries", json=body)

    def pin_again(self, *ids: str, by: str = "", pin: str = "") -> httpx.Response:
        """Give the PIN again for what these entries say."""
        return self.http.post(
            "/api/session/pin", json={"person": by or self.by, "pin": pin or self.pin, "entries": list(ids)}
        )

    def opening(self, machine: str, **more: Any) -> Plain:
        """An opening as a tablet makes it that has the machine's page open: it says how far it knows its log."""
        seen = self.http.get(f"/api/machines/{machine}/log/end")
        end = seen.json() if seen.is_success else {"seq": 0, "head": ""}
        known = {"knew": end["seq"], "head": end["head"]}
        given = {"hour_meter": 20000.0, "options": sorted(OPTIONS[machine]), **known, **more}
        return self.entry("opened", **given)

    def look(self, inspection: str) -> Plain:
        return dict(self.http.get(f"/api/inspections/{inspection}").raise_for_status().json())

    def pdf(self, inspection: str, **params: str) -> bytes:
        """The record on paper; on a busy machine the server says that it took too long just now, and is asked again."""
        for _ in range(6):
            reply = self.http.get(f"/api/inspections/{inspection}/record.pdf", params=params)
            if reply.status_code != 503:
                break
            time.sleep(1)
        return reply.raise_for_status().content

    def yard(self, machine: str) -> Plain:
        rows = self.http.get("/api/yard").raise_for_status().json()["machines"]
        return next(m for m in rows if m["machine"]["id"] == machine)

    def open(self, machine: str) -> list[Plain]:
        """What is open on a machine."""
        return list(self.http.get(f"/api/machines/{machine}/walk").raise_for_status().json()["carried"])

    def seen(self, machine: str, checkpoint: str, inspection: str = "") -> list[str]:
        """The entries that somebody who stands there with the page open has seen."""
        found = [e for d in self.open(machine) if d["checkpoint"] == checkpoint for e in d["entries"]]
        reply = self.http.get(f"/api/inspections/{inspection}") if inspection else None
        if reply is not None and reply.is_success:
            found += [h for a in reply.json()["answers"] if a["checkpoint"] == checkpoint for h in a["heads"]]
        return list(dict.fromkeys(found))

    def _planned(self, machine: str, occasion: dict[str, Any]) -> dict[str, Any]:
        """The way as the server plans it; where it has no time just now it is asked again when it says so."""
        for _ in range(8):
            reply = self.http.post(f"/api/machines/{machine}/walk", json=occasion)
            if reply.status_code != 503:
                break
            time.sleep(float(reply.headers["retry-after"]))
        return dict(reply.raise_for_status().json())

    def walk(self, machine: str, answers: dict[str, Plain] | None = None, **opened: Any) -> list[Plain]:
        """A whole walk but for the signature: sound except for `answers`."""
        out = [self.opening(machine, **opened)]
        occasion = {k: opened[k] for k in ("purpose", "conditions") if k in opened}
        walk = self._planned(machine, occasion)
        posture = {r["id"]: r["extension_at_check"] for r in walk["tank"]["rods"]}
        seen: dict[str, list[str]] = {}
        for defect in walk["carried"]:
            seen.setdefault(defect["checkpoint"], []).extend(defect["entries"])
        for c in walk["checkpoints"]:
            given = (answers or {}).get(c["id"])
            named = seen.get(c["id"], [])
            if given is None and c["reading"]:
                level = {"seen": 0.5, "oil_c": 15.0, "pitch_deg": 0.0, "roll_deg": 0.0, "extensions": posture}
                out.append(self.entry("read", named, **as_read({"checkpoint": c["id"], **level})))
            elif given and "seen" in given:
                out.append(self.entry("read", named, **as_read({"checkpoint": c["id"], **given})))
            else:
                out.append(self.entry("answered", named, checkpoint=c["id"], **(given or {"answer": "sound"})))
        return out

    def signature(self, inspection: str, outcome: str | None = None) -> Plain:
        seen = self.look(inspection)
        covers = [e["id"] for e in seen["entries"] if e["kind"] != "signed"]
        return self.entry("signed", covers=covers, outcome=outcome or seen["verdict"]["outcome"])

    def whole(self, machine: str, answers: dict[str, Plain] | None = None, **opened: Any) -> str:
        """A look from begin to signature."""
        inspection = self.new_id()
        taken = self.send(machine, inspection, self.walk(machine, answers, **opened)).json()
        assert taken["refused"] == [], taken["refused"]
        taken = self.send(machine, inspection, [self.signature(inspection)]).json()
        assert taken["refused"] == [], taken["refused"]
        return inspection
