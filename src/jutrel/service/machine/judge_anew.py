"""Judging every machine anew when rules, a regime or a model have changed: in one job that is seen to end.

Until a machine was judged anew nothing clears it: its row says by which edition it was judged, and that is not the one
in force. So a job that was broken off leaves nobody on a machine that the new rules hold.
"""

from __future__ import annotations

import asyncio
import logging
from datetime import datetime

from jutrel.service.context import Here, Shop, here_of
from jutrel.service.machine.models import known_models
from jutrel.service.machine.standing import judged_anew
from jutrel.store.base import StoreAway, StoreBusy
from jutrel.store.queries import machines as machine_store

log = logging.getLogger("jutrel")


async def waiting(here: Here) -> list[str]:
    """Machines that were not judged by the rules and the model that are in force now."""
    models = {key: known.model for key, known in (await known_models(here)).items()}
    out = []
    for unit in await machine_store.units(here.db, here.site.id, with_gone=True):
        model = models.get(unit.model_id)
        if model is not None and unit.standing.judged_by != await asyncio.to_thread(here.editions.name_of, model):
            out.append(unit.id)
    return out


async def judge_all(shop: Shop, at: datetime) -> int:
    """Judge those anew, each in a transaction of its own; how many there were. Begun again, it goes on where it was."""
    async with shop.store.transaction() as db:
        if await machine_store.only_site(db) is None:
            return 0
        todo = await waiting(await here_of(db, shop.books, at))
    for machine in todo:
        try:
            await _judge(shop, machine, at)
        except (StoreAway, StoreBusy):
            raise  # it is begun again, and goes on where it was
        except Exception:
            # It stays refused, and no other machine for its sake.
            log.exception("not judged anew", extra={"about": {"machine": machine}})
    return len(todo)


async def _judge(shop: Shop, machine: str, at: datetime) -> None:
    async with shop.turns.of(machine), shop.store.transaction() as db:
        here = await here_of(db, shop.books, at)
        unit = await machine_store.unit(db, here.site.id, machine, lock=True)
        if unit is not None:
            await judged_anew(here, unit)
