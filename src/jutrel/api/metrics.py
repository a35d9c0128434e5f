"""What a watcher reads: how many requests, how long they took, what is amiss; no person and no machine by name.

In the text format of Prometheus. It is answered on loopback alone, and never to what came through a proxy.
"""

from __future__ import annotations

import os
import time
from collections.abc import Awaitable, Callable
from contextlib import suppress
from datetime import datetime
from ipaddress import ip_address
from typing import Any

from fastapi import APIRouter, Request, Response
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Counter, Gauge, Histogram, generate_latest
from prometheus_client import multiprocess as several
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from jutrel.api.server_log import log, note_request
from jutrel.service.problem import NotFound
from jutrel.service.site.readiness import Amiss, Readiness
from jutrel.store.base import StoreAway, StoreBusy, StoreFault

SEVERAL = "PROMETHEUS_MULTIPROC_DIR"
"""The folder in which several processes of one server keep their counts, so that each can tell all of them."""
BUCKETS = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.0, 5.0, 10.0)
FORWARDED = ("x-forwarded-for", "forwarded", "x-real-ip")

REQUESTS = Histogram(
    "jutrel_request_seconds", "Time to answer, by address, method and kind of status.", ("address", "method", "status"),
    buckets=BUCKETS,
)  # fmt: skip
FAULTS = Counter("jutrel_faults", "Requests that ended in a fault of the server.")
UNDER_WAY = Gauge("jutrel_requests_under_way", "Requests that are answered just now.", multiprocess_mode="livesum")
AMISS = Gauge(
    "jutrel_amiss", "What keeps the server from being relied on, 1 if it is.", ("what",), multiprocess_mode="mostrecent"
)
BACKUP = Gauge(
    "jutrel_backup_age_seconds",
    "Since the newest good backup began; -1: there is none.",
    multiprocess_mode="mostrecent",
)


class Timed:
    """Around every request: a number by which it is found in the log, and how long it took."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer one request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        began, status = time.perf_counter(), 500
        id_ = note_request(scope)

        async def told(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                message.setdefault("headers", []).append((b"x-request-id", id_.encode()))
            await send(message)

        UNDER_WAY.inc()
        try:
            await self.app(scope, receive, told)
        finally:
            UNDER_WAY.dec()
            took = time.perf_counter() - began
            address = address_of(scope)
            if address != EVENTS:  # it lasts as long as a page is open
                REQUESTS.labels(address, scope["method"], f"{status // 100}xx").observe(took)
            if status >= 500 and status != 503:
                FAULTS.inc()
            about = {"method": scope["method"], "address": address, "status": status, "ms": round(took * 1e3, 1)}
            log.info("request", extra={"about": about})


EVENTS = "/api/events"


def address_of(scope: Scope) -> str:
    """The address as the document of the API writes it, with places for ids: no person and no machine is in it."""
    route: Any = scope.get("route")
    path = getattr(route, "path", "")
    return path if path.startswith("/api/") else ("/api/?" if scope["path"].startswith("/api") else "/")


def is_near(request: Request) -> bool:
    """Whether a request comes from this very machine, and through no proxy."""
    if any(name in request.headers for name in FORWARDED):
        return False
    try:
        return request.client is not None and ip_address(request.client.host).is_loopback
    except ValueError:
        return False


def watcher(
    readiness: Readiness, covered: Callable[[], Awaitable[datetime | None]], now: Callable[[], datetime]
) -> APIRouter:
    """The address of whoever watches; `covered`: until when backups reach, or None."""
    router = APIRouter(prefix="/api", include_in_schema=False)

    @router.get("/metrics")
    async def metrics(request: Request) -> Response:
        """What a watcher reads."""
        if not is_near(request):
            raise NotFound("no-route", "The API has no such address.")
        amiss = await readiness.amiss()
        for one in Amiss:
            AMISS.labels(one.value).set(one in amiss)
        # Where it cannot be known just now, what was told last stands: that the database is away rings by itself.
        with suppress(StoreAway, StoreBusy, StoreFault):
            at = await covered()
            BACKUP.set(-1 if at is None else (now() - at).total_seconds())
        return Response(_written(), media_type=CONTENT_TYPE_LATEST)

    return router


def _written() -> bytes:
    if SEVERAL not in os.environ:
        return generate_latest()
    registry = CollectorRegistry()
    several.MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
    return generate_latest(registry)
