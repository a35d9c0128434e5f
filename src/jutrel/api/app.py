"""The application: API and built front end from one process."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from datetime import datetime

from fastapi import FastAPI, Request, Response
from fastapi.routing import APIRoute

from jutrel import __version__
from jutrel.api.clearance.routes import router as clearance
from jutrel.api.compress import Compressed
from jutrel.api.defect.routes import router as defect
from jutrel.api.door import PROBLEMS, now, problem, shop_of
from jutrel.api.front_end import FrontEnd
from jutrel.api.grading.routes import router as grading
from jutrel.api.guard import guard
from jutrel.api.inspection.routes import router as inspection
from jutrel.api.log.live import router as live
from jutrel.api.log.routes import router as log
from jutrel.api.machine.drafts import router as model_drafts
from jutrel.api.machine.incidents import router as incidents
from jutrel.api.machine.life import router as machine_life
from jutrel.api.machine.lists import router as machine_lists
from jutrel.api.machine.overnight import router as overnight
from jutrel.api.machine.routes import router as machine
from jutrel.api.machine.yard import router as yard
from jutrel.api.metrics import Timed, watcher
from jutrel.api.panel.routes import readers
from jutrel.api.panel.routes import router as panel
from jutrel.api.people.asks import router as asks
from jutrel.api.people.company import router as company
from jutrel.api.people.passkeys import router as passkeys
from jutrel.api.people.routes import router as people
from jutrel.api.people.staff import router as staff
from jutrel.api.procedure.routes import router as procedure
from jutrel.api.reading.routes import router as reading
from jutrel.api.reading.routes import series
from jutrel.api.request_limits import Limits
from jutrel.api.route.routes import router as route
from jutrel.api.server_log import log_plainly
from jutrel.api.site.devices import router as devices
from jutrel.api.site.instruments import router as instruments
from jutrel.api.site.languages import router as languages
from jutrel.api.site.routes import router as site
from jutrel.api.site.setup import router as setup
from jutrel.api.wire import HealthOut, ReadyOut
from jutrel.core.wording import say
from jutrel.service.context import Catalog, Shop, here_of
from jutrel.service.machine.judge_anew import judge_all
from jutrel.service.site.backups import backup_reach
from jutrel.service.site.readiness import SAYS, Readiness
from jutrel.service.site.shops import Shops
from jutrel.settings import Settings
from jutrel.store.base import StoreAway, StoreBusy

TRY_AGAIN_S = 5.0
"""How long it waits for a store that is away before it judges machines anew [s]."""


def _operation_id(route: APIRoute) -> str:
    return route.name


async def _judged(shops: Shops) -> None:
    """Judge anew what earlier rules judged, on every site, as soon as the store is there."""
    while True:
        try:
            async for shop in shops.all():
                await judge_all(shop, now())
            return
        except (StoreAway, StoreBusy):
            await asyncio.sleep(TRY_AGAIN_S)


def make_app(settings: Settings, catalog: Catalog) -> FastAPI:
    """The application for these settings, on this catalog."""
    log_plainly()

    @asynccontextmanager
    async def life(app: FastAPI) -> AsyncIterator[None]:
        beside = [asyncio.create_task(_judged(app.state.shops))]
        if settings.warm:
            beside.append(asyncio.create_task(app.state.shop.aside.warm()))
        yield
        for task in beside:
            task.cancel()
        await app.state.shop.close()

    app = FastAPI(
        title="Jutrel",
        version=__version__,
        lifespan=life,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        generate_unique_id_function=_operation_id,
        description="Walk round an earthmoving machine, read it, grade it, record it.",
    )
    app.state.settings = settings
    pages = FrontEnd(settings.web_folder)
    app.state.shop = Shop.open(settings.database_url, catalog, settings.texts, settings.beside_s, settings.key_file)
    readiness = Readiness(app.state.shop.store, now, app.state.shop.books.site_keys)
    app.add_middleware(Compressed)
    app.state.shops = Shops(app.state.shop)
    app.add_middleware(Limits)
    guard(app)
    app.add_middleware(Timed)
    # What is asked most stands first.
    for router in (
        log,
        readers,
        yard,
        route,
        inspection,
        people,
        staff,
        passkeys,
        company,
        asks,
        machine,
        machine_lists,
        model_drafts,
        overnight,
        defect,
        devices,
        clearance,
        incidents,
        machine_life,
        grading,
        reading,
        procedure,
        panel,
        instruments,
        site,
        setup,
        live,
        languages,
        series,
    ):
        app.include_router(router)

    @app.get("/api/health", tags=["health"], responses={503: PROBLEMS[503]})
    async def health(request: Request) -> HealthOut:
        """Whether the record store answers."""
        try:
            await shop_of(request).store.answers()
        except (StoreAway, StoreBusy):
            return HealthOut(database=False, version=__version__)
        return HealthOut(database=True, version=__version__)

    @app.get("/api/ready", tags=["health"], responses={503: {"model": ReadyOut}})
    async def ready(response: Response) -> ReadyOut:
        """Whether this server can be relied on: its database takes what is written, and the clocks agree.

        503 if not. For watchers; looked at no more than once in five seconds.
        """
        amiss = await readiness.amiss()
        response.status_code = 503 if amiss else 200
        return ReadyOut(ready=not amiss, amiss={a.value: SAYS[a] for a in amiss})

    async def covered() -> datetime | None:
        oldest: datetime | None = None  # before a site is set up there is nothing to back up
        async for shop in app.state.shops.all():
            async with shop.store.transaction() as db:
                until = (await backup_reach(await here_of(db, shop.books, now()))).covered
            if until is None:
                return None
            oldest = min(oldest or until, until)
        return oldest

    app.include_router(watcher(readiness, covered, now))

    @app.get("/{path:path}", include_in_schema=False)
    async def page(request: Request, path: str) -> Response:
        """The built front end; every address that is not a file is the single page."""
        if path.startswith("api/") or path == "api":
            return problem(request.scope, 404, "no-route", say("The API has no such address."))
        return pages.answer(request.scope, path, request.headers.get("accept-encoding", ""))

    return app
