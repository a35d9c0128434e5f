"""What machines tell over their bus: as of now, what happened, samples; and what a stand-in is to do."""

from __future__ import annotations

import json
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import ARRAY, Double, Text, bindparam, cast, delete, func, or_, select, text
from sqlalchemy.dialects.postgresql import insert

from jutrel.core.log.entry import Limit
from jutrel.core.panel.shown import Holds, ShownPanel
from jutrel.core.panel.signals import Lack
from jutrel.core.panel.told import PanelEventKind, PanelWord
from jutrel.core.procedure.engine import SPEED
from jutrel.core.procedure.kinds import Colour, EngineNow
from jutrel.store.base import Db
from jutrel.store.live import PANEL, PAYLOAD
from jutrel.store.statements import Hot
from jutrel.store.tables import MachineRow, PanelNowRow, PanelSampleRow, PanelToldRow, StandinOrderRow

KEPT = ((timedelta(hours=1), timedelta(hours=2), 10), (timedelta(hours=24), timedelta(hours=26), 60))
"""Samples older than this, looked through so far back, stay if they fall on so many whole seconds."""
GONE_AFTER = timedelta(days=400)
MOST_TOLD, MOST_ENGINE, MOST_RED, OF_EACH_RED = 3000, 20_000, 2000, 20
"""The newest words that are read: of all, of the engine, of red; and of each red word."""


def shown_of(at: datetime, says: Mapping[str, Any]) -> ShownPanel:
    """A panel as it was kept or told."""
    engine = says.get("engine")
    values = {k: Lack(v) if isinstance(v, str) else float(v) for k, v in says.get("values", {}).items()}
    alerts = tuple(Holds(i, Colour(c), datetime.fromisoformat(since)) for i, c, since in says.get("alerts", ()))
    now, simulated = EngineNow(engine) if engine else None, bool(says.get("simulated"))
    engines, off = tuple(says.get("engines", ())), float(says.get("clock_off", 0.0))
    plates = tuple(says.get("identities", ()))
    return ShownPanel(at, now, values, alerts, simulated, says.get("engine_from"), engines, off, plates)


_TOLD_OF = """
told as (select * from jsonb_to_recordset(cast(:told as jsonb)) as x(machine text, at timestamptz, says jsonb)),
written as (
  insert into panel_now (site_id, machine_id, at, says) select :site, machine, at, says from told order by machine
  on conflict (site_id, machine_id) do update set at = excluded.at, says = excluded.says
  where panel_now.at <= excluded.at returning machine_id, at, says
),
whole as (
  select machine_id,
    jsonb_build_object('site', cast(:site as text), 'machine', machine_id, 'at', at, 'says', says)::text as t
  from written
)
"""
# Together, in one statement: what a message costs is its way to the database and back. In the order of their names, so
# that two readers never wait for one another. Where there are so many faults that a notice cannot carry them, whoever
# listens asks.
_PUT_NOW = Hot(
    text(
        f"with {_TOLD_OF} select pg_notify(:channel, case when octet_length(t) <= :most then t "
        "else jsonb_build_object('site', cast(:site as text), 'machine', machine_id)::text end) from whole"
    ).bindparams(channel=PANEL, most=PAYLOAD)
)
_ADD_TOLD = Hot(
    text(
        "insert into panel_told (site_id, machine_id, id, at, what, word, colour, value) "
        "select :site, machine, id, at, what, word, colour, value from jsonb_to_recordset(cast(:rows as jsonb)) as "
        "x(machine text, id uuid, at timestamptz, what text, word text, colour text, value float8) "
        "order by machine, id on conflict do nothing"
    )
)
_ADD_SAMPLES = Hot(
    text(
        "insert into panel_sample (site_id, machine_id, at, says) "
        "select :site, machine, at, says from jsonb_to_recordset(cast(:rows as jsonb)) as "
        "x(machine text, at timestamptz, says jsonb) order by machine, at on conflict do nothing"
    )
)
_now = PanelNowRow.__table__
_BEFORE = Hot(
    select(_now.c.machine_id, _now.c.at).where(
        _now.c.site_id == bindparam("site"), _now.c.machine_id == func.any(bindparam("machines", type_=ARRAY(Text)))
    )
)
_machine = MachineRow.__table__
_FILES = Hot(
    select(
        _machine.c.id, _machine.c.model_id, _machine.c.own_limits, _machine.c.hour_meter, _machine.c.meter_offset
    ).where(
        _machine.c.site_id == bindparam("site"), _machine.c.id == func.any(bindparam("machines", type_=ARRAY(Text)))
    )
)


@dataclass(frozen=True, slots=True)
class BusFile:
    """What a machine's bus is compared with. `hours`: what its meter read last, without what was read off another."""

    model_id: str
    own_limits: Mapping[str, Limit]
    hours: float


async def bus_files(db: Db, site: str, machines: Collection[str]) -> dict[str, BusFile]:
    """What the files of machines say, for those that there are."""
    found = await _FILES.rows(db, {"site": site, "machines": list(machines)})
    return {r.id: BusFile(r.model_id, r.own_limits, r.hour_meter - r.meter_offset) for r in found}


async def told_before(db: Db, site: str, machines: Collection[str]) -> dict[str, datetime]:
    """When readers of machines told last, for those that were ever read."""
    found = await _BEFORE.rows(db, {"site": site, "machines": list(machines)})
    return {r.machine_id: r.at for r in found}


async def put_now(db: Db, site: str, panels: Mapping[str, tuple[datetime, Mapping[str, Any]]]) -> None:
    """Write machines' panels in place of what they were, unless that is newer; tell every page that listens."""
    told = [{"machine": m, "at": at.isoformat(), "says": says} for m, (at, says) in panels.items()]
    await _PUT_NOW.rows(db, {"site": site, "told": json.dumps(told)})


async def now_of(db: Db, site: str, machine: str) -> ShownPanel | None:
    """A machine's panel as its reader said last; None: it was never read."""
    row = await db.get(PanelNowRow, (site, machine))
    return None if row is None else shown_of(row.at, row.says)


async def add_told(db: Db, site: str, told: Mapping[str, Sequence[PanelWord]]) -> None:
    """Add what happened, by machine; what is there already stays as it is."""
    rows = [
        {
            "machine": machine,
            "id": t.id,
            "at": t.at.isoformat(),
            "what": t.what.value,
            "word": t.word,
            "colour": t.colour.value,
            "value": t.value,
        }
        for machine, words in told.items()
        for t in words
    ]
    if rows:
        await _ADD_TOLD.rows(db, {"site": site, "rows": json.dumps(rows)})


async def stood_before(db: Db, site: str, machine: str, at: datetime) -> datetime | None:
    """When a machine told last, before a time, that its engine stands."""
    row = PanelToldRow
    mine = (row.site_id == site, row.machine_id == machine, row.at <= at)
    stands = (row.what == PanelEventKind.ENGINE.value, row.word == EngineNow.STOPPED.value)
    return (await db.execute(select(func.max(row.at)).where(*mine, *stands))).scalar()


async def red_before(db: Db, site: str, machine: str, at: datetime) -> datetime | None:
    """When a machine told red last, before a time."""
    row = PanelToldRow
    mine = (row.site_id == site, row.machine_id == machine, row.at < at)
    return (await db.execute(select(func.max(row.at)).where(*mine, row.colour == Colour.RED.value))).scalar()


async def told_of(db: Db, site: str, machine: str, since: datetime, until: datetime | None = None) -> list[PanelWord]:
    """What a machine told from a time on, in order; where it is very much, the newest, and by themselves the engine's
    and the red words.

    Nothing that comes and goes all day, red or not, may push out that the engine runs, or another red.
    """
    row = PanelToldRow
    asked = select(row).where(row.site_id == site, row.machine_id == machine, row.at >= since)
    if until is not None:
        asked = asked.where(row.at < until)
    newest = asked.order_by(row.at.desc(), row.id.desc())
    found = {r.id: r for r in (await db.execute(newest.limit(MOST_TOLD))).scalars()}
    if len(found) == MOST_TOLD:
        engine = newest.where(or_(row.what == PanelEventKind.ENGINE.value, row.word == SPEED)).limit(MOST_ENGINE)
        red = asked.where(row.colour == Colour.RED.value)
        nth = func.row_number().over(partition_by=row.word, order_by=row.at.desc())
        each = red.add_columns(nth.label("nth")).subquery()
        few = select(each.c.id).where(each.c.nth <= OF_EACH_RED).order_by(each.c.at.desc()).limit(MOST_RED)
        for more in (engine, red.where(row.id.in_(few))):
            found |= {r.id: r for r in (await db.execute(more)).scalars()}
    return [
        PanelWord(str(r.id), r.at, PanelEventKind(r.what), r.word, Colour(r.colour), r.value)
        for r in sorted(found.values(), key=lambda r: (r.at, r.id))
    ]


async def add_samples(db: Db, site: str, samples: Mapping[str, Mapping[datetime, Mapping[str, Any]]]) -> None:
    """Add values of moments, one a second, by machine."""
    rows = [
        {"machine": machine, "at": at.isoformat(), "says": dict(values)}
        for machine, moments in samples.items()
        for at, values in moments.items()
    ]
    if rows:
        await _ADD_SAMPLES.rows(db, {"site": site, "rows": json.dumps(rows)})


async def samples_of(db: Db, site: str, machine: str, since: datetime) -> list[tuple[datetime, dict[str, Any]]]:
    """Values since a time, in order."""
    row = PanelSampleRow
    asked = select(row.at, row.says).where(row.site_id == site, row.machine_id == machine, row.at >= since)
    return [(at, says) for at, says in await db.execute(asked.order_by(row.at))]


async def first_value(db: Db, site: str, machine: str, key: str, since: datetime, until: datetime) -> float | None:
    """The first value of a signal that was told in a stretch of time; None: none was."""
    row = PanelSampleRow
    mine = (row.site_id == site, row.machine_id == machine, row.at >= since, row.at < until)
    there = func.jsonb_typeof(row.says[key]) == "number"
    found = (await db.execute(select(row.says[key]).where(*mine, there).order_by(row.at).limit(1))).scalar()
    return None if found is None else float(found)


@dataclass(frozen=True, slots=True)
class Stretch:
    """The values of a signal in a stretch of time: the lowest and the highest. `at`: its middle."""

    at: datetime
    low: float
    high: float


async def course_of(
    db: Db, site: str, machine: str, keys: Sequence[str], since: datetime, until: datetime, most: int
) -> dict[str, list[Stretch]]:
    """How signals went between two times, in at most so many stretches: nothing that stood out is lost."""
    row = PanelSampleRow
    width = (until - since).total_seconds() / most
    slot = func.floor(func.extract("epoch", row.at - since) / width)
    out: dict[str, list[Stretch]] = {}
    for key in keys:
        value = cast(row.says[key], Double)
        there = (row.site_id == site, row.machine_id == machine, row.at >= since, row.at < until)
        asked = (
            select(slot.label("slot"), func.min(value), func.max(value))
            .where(*there, func.jsonb_typeof(row.says[key]) == "number")
            .group_by("slot")
            .order_by("slot")
        )
        out[key] = [
            Stretch(since + timedelta(seconds=(float(n) + 0.5) * width), low, high)
            for n, low, high in await db.execute(asked)
        ]
    return out


async def thin(db: Db, site: str, machine: str, now: datetime) -> None:
    """Let go of samples in between, the more the older they are."""
    row = PanelSampleRow
    mine = (row.site_id == site, row.machine_id == machine)
    second = func.floor(func.extract("epoch", row.at))
    for after, back, every in KEPT:
        between = (row.at < now - after, row.at >= now - back)
        await db.execute(delete(row).where(*mine, *between, func.mod(second, every) != 0))
    await db.execute(delete(row).where(*mine, row.at < now - GONE_AFTER))


async def put_orders(db: Db, site: str, machine: str, orders: Mapping[str, Any], at: datetime, by: str) -> None:
    """What the stand-in of a machine is to do from now on."""
    values = {"orders": dict(orders), "at": at, "by": by}
    await db.execute(
        insert(StandinOrderRow)
        .values(site_id=site, machine_id=machine, **values)
        .on_conflict_do_update(index_elements=["site_id", "machine_id"], set_=values)
    )


async def orders_of(db: Db, site: str, machine: str) -> dict[str, Any] | None:
    """What the stand-in of a machine is to do; None: nobody said."""
    row = await db.get(StandinOrderRow, (site, machine))
    return None if row is None else dict(row.orders)
