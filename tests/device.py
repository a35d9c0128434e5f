"""A tablet for tests: signs in, makes entries, sends them over HTTP."""

from __future__ import annotations

import secrets
from datetime import UTC, datetime
from typing import Any

import httpx

from jutrel.demo.story import MACHINES, PIN, WHO
from jutrel.service.ids import uuid7

Plain = dict[str, Any]
OPTIONS = {m.id: m.options for m in MACHINES}


class Device:
    """One tablet on one HTTP client (in process or over the network)."""

    def __init__(self, http: httpx.Client, name: str | None = None) -> None:
        self.http = http
        self.name = name or "tab-" + secrets.token_hex(4)
        self.by = ""
        self._last = 0

    def sign_in(self, who: str = "Mira", pin: str = PIN) -> httpx.Response:
        reply = self.http.post("/api/session", json={"person": WHO[who], "pin": pin, "device": self.name})
        if reply.is_success:
            self.by = WHO[who]
        return reply

    def new_id(self) -> str:
        self._last = max(self._last + 1, int(datetime.now(UTC).timestamp() * 1000))
        return uuid7(datetime.fromtimestamp(self._last / 1000, UTC))

    def entry(self, kind: str, **what: Any) -> Plain:
        return {"id": self.new_id(), "by": self.by, "at": datetime.now(UTC).isoformat(), "what": {"kind": kind, **what}}

    def send(self, machine: str, inspection: str, entries: list[Plain]) -> httpx.Response:
        return self.http.post("/api/entries", json={"machine": machine, "inspection": inspection, "entries": entries})

    def opening(self, machine: str, **more: Any) -> Plain:
        return self.entry("opened", **{"hour_meter": 20000.0, "options": sorted(OPTIONS[machine]), **more})

    def walk(self, machine: str, answers: dict[str, Plain] | None = None, **opened: Any) -> list[Plain]:
        """A whole walk but for the signature: sound except for `answers`."""
        out = [self.opening(machine, **opened)]
        occasion = {k: opened[k] for k in ("purpose", "conditions") if k in opened}
        walk = self.http.post(f"/api/machines/{machine}/walk", json=occasion).raise_for_status().json()
        posture = {r["id"]: r["extension_at_check"] for r in walk["tank"]["rods"]}
        for c in walk["checkpoints"]:
            given = (answers or {}).get(c["id"])
            if given is None and c["reading"]:
                out.append(
                    self.entry(
                        "measured",
                        checkpoint=c["id"],
                        seen=0.5,
                        oil_c=15.0,
                        pitch_deg=0.0,
                        roll_deg=0.0,
                        extensions=posture,
                    )
                )
            else:
                out.append(self.entry("answered", checkpoint=c["id"], **(given or {"answer": "sound"})))
        return out

    def signature(self, inspection: str, outcome: str | None = None) -> Plain:
        seen = self.http.get(f"/api/inspections/{inspection}").json()
        late = set(seen["late"])
        covers = [e["id"] for e in seen["entries"] if e["kind"] != "signed" and e["id"] not in late]
        return self.entry("signed", covers=covers, outcome=outcome or seen["verdict"]["outcome"])
