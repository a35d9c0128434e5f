"""Many machines in one message: it says what each by itself would say, and one that is refused holds up no other."""

from __future__ import annotations

import json
import time
from datetime import UTC, datetime, timedelta
from typing import Any, cast

from jutrel.core.panel.signals import encode
from jutrel.exchange.logs import Frame
from jutrel.panel.bus_reader import BusLine, Clock, Follower
from jutrel.panel.teller import Teller
from tests.device import Device
from tests.panel.wire import CALLED, HEADERS, Plain, Wire, hours_of, message, told

YARD = ("ex-01", "ld-05", "rh-08")


def together(me: Device, machines: Plain, **headers: str) -> Any:
    bodies = {m: {"identities": CALLED.get(m, []), **body} for m, body in machines.items()}
    return me.http.put("/api/panels", json={"machines": bodies}, headers=headers or HEADERS)


def panel(me: Device, machine: str) -> Plain:
    found: Plain = me.http.get(f"/api/machines/{machine}/panel").raise_for_status().json()
    return found


def test_together_is_as_one_by_one(site: Device) -> None:
    """Values, what happened, samples, the file's engine and figures; told twice it counts once."""
    at = datetime.now(UTC) - timedelta(minutes=5)
    hours = {m: hours_of(site, m) for m in YARD}
    bodies = {m: message(hours[m], told("engine", "running", at)) for m in YARD}
    for body in bodies.values():
        body["samples"] = [{"at": at.isoformat(), "values": {"coolant": 41.0}}]
    first, again = together(site, bodies), together(site, bodies)
    assert first.status_code == again.status_code == 200
    shown = {m: panel(site, m) for m in YARD}
    for machine in YARD:
        alone = site.http.put(
            f"/api/machines/{machine}/panel",
            json={"identities": CALLED.get(machine, []), **bodies[machine]},
            headers=HEADERS,
        ).json()
        assert first.json()["machines"][machine] == {k: alone[k] for k in ("engine", "figures")}
        assert panel(site, machine) == shown[machine]
        since = (at - timedelta(minutes=1)).isoformat()
        asked = {"since": since, "until": datetime.now(UTC).isoformat(), "key": ["coolant"]}
        course = site.http.get(f"/api/machines/{machine}/panel/course", params=asked).json()
        assert [s["low"] for s in course["lines"][0]["stretches"]] == [41.0]


def test_all_of_a_message_is_taken_or_none(site: Device) -> None:
    """A machine that there is not, one that the device is not named for, a value that is none."""
    before = panel(site, "ex-01")
    good = message(hours_of(site, "ex-01"))
    for name, bad, status in (
        ("zz-99", message(1.0), 404),
        ("ld-05", {**message(1.0), "values": {"coolant": 1e12}}, 422),
    ):
        refused = together(site, {"ex-01": good, name: bad})
        assert refused.status_code == status, refused.text
        assert name in refused.text or "coolant" in refused.text
    admin = Device(site.http.__class__(base_url=site.http.base_url, timeout=30))
    assert admin.sign_in("Rolf").is_success
    key = admin.http.put("/api/devices/one-reader", json={"machines": ["ex-01"]}).raise_for_status().json()["key"]
    named = {"x-device-key": key}
    two = {"ex-01": good, "ld-05": message(1.0)}
    assert together(site, two, **named).status_code == 403
    assert panel(site, "ex-01") == before
    assert together(site, {"ex-01": good}, **named).status_code == 200
    assert together(site, two, **{"x-device-key": "guessed"}).status_code == 401


class Yard:
    """The teller's way to the server, through the test's own client."""

    def __init__(self, me: Device) -> None:
        self.me, self.statuses, self.away, self.other = me, list[int](), False, False

    def request(self, method: str, path: str, body: str) -> tuple[int, Any]:
        if self.away:
            return 0, None
        if self.other:
            return 200, {"welcome": "to the site's network"}
        reply = self.me.http.request(method, path, json=json.loads(body), headers=HEADERS)
        self.statuses.append(reply.status_code)
        return reply.status_code, reply.json()


def test_one_that_is_refused_holds_up_no_other(site: Device) -> None:
    """A reader with a machine that nobody set up: the others are told of at once, and together again from then on."""
    lines = [BusLine(m, "virtual", "nobody") for m in ("ex-01", "zz-99", "ld-05")]
    followers = [Follower(line, cast(Any, Wire(site, line.machine)), Clock()) for line in lines]
    yard = Yard(site)
    teller = Teller(followers, cast(Any, yard))

    def turn(speed: float) -> float:
        time.sleep(0.3)  # values are gone through a few times a second
        for follower in followers:
            at = follower.clock()
            follower.take(at, Frame(at, 61444, 0, encode(61444, {"engine-speed": speed})))
        return teller.tell(0.4)

    turn(801.0)
    assert yard.statuses == [404]
    assert [f.refused.split(" There")[0] for f in followers] == ["", "the server says 404", ""]
    for n in range(1, 4):
        turn(801.0 + n)
        for machine in ("ex-01", "ld-05"):
            needle = next(x for x in panel(site, machine)["needles"] if x["key"] == "engine-speed")
            assert needle["value"] == 801.0 + n
    assert yard.statuses == [404, 200, 200, 200]
    yard.away = True
    assert turn(806.0) == 0.8, "a server that is away is asked less and less"
    assert followers[0].refused == "the server does not answer"
    # Something between here and the server answers in its place: it took nothing.
    yard.away, yard.other = False, True
    assert turn(807.0) == 0.8
    assert followers[0].refused == "the server does not answer"
    yard.other = False
    turn(805.0)
    assert followers[0].refused == ""
