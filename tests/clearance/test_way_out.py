"""No dead end: from every refusal of a random history the acts that it names, done by who may, lead to clearance."""

from __future__ import annotations

import pytest

from jutrel.core.clearance.answer import Act as Step
from jutrel.core.machine.file import MeterCorrected
from jutrel.service.inspection.look import meter_now, open_defects
from jutrel.service.machine.file import write_file
from jutrel.store.queries import machines as machine_store
from jutrel.store.queries import people as people_store
from tests.clearance.chance import history
from tests.clearance.conftest import Told
from tests.clearance.oracle import Act
from tests.clearance.world import PEOPLE, PLACES, SITE, Asked, World, made
from tests.deep import DEEP

PARTS, EACH = (20, 100) if DEEP else (1, 18)
MOST_STEPS = 16
ME = "Mira"


async def acts_for(world: World, step: Step, now: int) -> list[Act]:
    """What a refusal asks for, as people who may would do it."""

    def act(minute: int, who: str, what: str, on: str = "", **more: object) -> Act:
        return made(now + minute, who, what, on, now + minute, (), **more)  # type: ignore[arg-type]

    world.now = now
    async with world.store.transaction() as db:
        here = await world.here(db)
        unit = await machine_store.unit(db, SITE, world.machine)
        assert unit is not None
        hours = unit.hours
        match step:
            case Step.WALK | Step.SEE:
                return [act(0, ME, "whole", hours=hours)]
            case Step.SHORT:
                return [act(0, ME, "short", hours=hours)]
            case Step.FINISH:
                assert unit.newest.walking is not None
                world.looks[ME] = unit.newest.walking
                return [act(0, ME, "abandons")]
            case Step.REPAIR:
                out = []
                for n, d in enumerate(await open_defects(here, unit)):
                    on = next(k for k, v in PLACES.items() if v == d.key[0])
                    out += [act(2 * n, "Dag", "releases", on), act(2 * n + 1, ME, "checks", on)]
                return out
            case Step.EXAMINE:
                assert unit.standing.incidents is not None
                told = unit.standing.incidents.waiting[0]
                world.incidents.append(told.id)
                return [act(0, "Pell" if told.by == PEOPLE["Dag"] else "Dag", "examines")]
            case Step.UNLOCK:
                return [act(0, "Dag", "unlocks")]
            case Step.ACCEPT:
                places = {d.key[0] for d in await open_defects(here, unit)}
                return [act(n, "Pell", "accepts", k) for n, (k, v) in enumerate(PLACES.items()) if v in places]
            case Step.METER:
                meter = await meter_now(here, unit)
                furthest = max(meter.readings, key=lambda r: r.total)
                what = MeterCorrected(furthest.entry, None, "misread by ten")
                entry = world.new_id()
                await people_store.note_pin(db, SITE, PEOPLE["Dag"], [entry], "", here.now)
                await write_file(here, await world.actor(db, "Dag"), world.machine, entry, what)
                return []
            case Step.FILE:
                return [act(0, "Pell", "takes-back")]
    raise AssertionError(step)


@pytest.mark.parametrize("part", range(PARTS))
@pytest.mark.timeout(1800)
def test_what_a_refusal_asks_for_leads_to_clearance(told: Told, part: int) -> None:
    taken: dict[str, int] = {}
    for seed in range(part * EACH, (part + 1) * EACH):
        acts, asked = history(seed)
        _, world = told(acts, asked)
        now = world.now + 30
        for _ in range(MOST_STEPS):
            answers, _ = told.loop.run_until_complete(world.play([], [Asked(now, ME, True, True)])), None
            c = answers[0][1]
            if c.work.may:
                break
            # What holds it comes first, as the page says it.
            lack = next((x for x in c.work.lacks if x.held), c.work.lacks[0])
            assert str(lack.says), lack
            taken[lack.act] = taken.get(lack.act, 0) + 1
            todo = told.loop.run_until_complete(acts_for(world, lack.act, now))
            told.loop.run_until_complete(world.play(todo, []))
            now = max([now, *(a.signed or a.at for a in todo)]) + 12
        else:
            raise AssertionError(f"seed {seed}: {[x.key for x in c.work.lacks]}, {world.refused[-3:]}")
    assert {Step.WALK, Step.REPAIR, Step.SHORT, Step.ACCEPT} <= set(taken), taken
