"""Sites, units and the site's own model files."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import bindparam, delete, func, select, update
from sqlalchemy.dialects.postgresql import insert

from jutrel.core.log.codec import decode, encode
from jutrel.core.machine.file import GoodPicture
from jutrel.core.machine.state import Newest, Standing
from jutrel.core.machine.unit import SiteInfo, Unit, UnitSystem
from jutrel.store.base import Db
from jutrel.store.queries.sites import ASKED_FOR, ask_for
from jutrel.store.statements import Hot
from jutrel.store.tables import GoodPictureRow, MachineRow, ModelFileRow, SiteRow


def _site(row: SiteRow) -> SiteInfo:
    return SiteInfo(
        row.id, row.name, row.zone, row.regime, row.shift_hours, UnitSystem(row.units), numbers_of(row.numbers),
        shifts_of(row.shifts),
    )  # fmt: skip


async def only_site(db: Db) -> SiteInfo | None:
    """The site that is asked for, or the only one; None before it was set up, and where there are several."""
    row = (await db.execute(select(SiteRow).where(SiteRow.id == ASKED_FOR))).scalar_one_or_none()
    return None if row is None else _site(row)


async def add_site(db: Db, site: SiteInfo) -> None:
    """Write a site down; what follows in this transaction asks for it."""
    await ask_for(db, site.id)
    shifts = [list(s) for s in site.shifts]
    db.add(
        SiteRow(
            id=site.id,
            name=site.name,
            zone=site.zone,
            regime=site.regime,
            shift_hours=site.shift_hours,
            units=site.units.value,
            numbers=[list(n) for n in site.numbers],
            shifts=shifts,
        )
    )
    await db.flush()


async def set_regime(db: Db, site: str, regime: str) -> None:
    """Write down which regime a site goes by from now on."""
    await db.execute(update(SiteRow).where(SiteRow.id == site).values(regime=regime))


def numbers_of(data: Any) -> tuple[tuple[str, str], ...]:
    """Numbers for emergencies as they are kept: who, and which."""
    return tuple((str(who), str(number)) for who, number in data)


def shifts_of(data: Any) -> tuple[tuple[str, float], ...]:
    """The shifts of a site as they are kept: when each begins, and its hours."""
    return tuple((str(begins), float(hours)) for begins, hours in data)


async def set_shifts(db: Db, site: str, shifts: Sequence[tuple[str, float]]) -> None:
    """Write down when a site's shifts begin, and how long they last [h]."""
    await db.execute(update(SiteRow).where(SiteRow.id == site).values(shifts=[list(s) for s in shifts]))


async def set_numbers(db: Db, site: str, numbers: Sequence[tuple[str, str]]) -> None:
    """Write down whom a site's people call in an emergency."""
    await db.execute(update(SiteRow).where(SiteRow.id == site).values(numbers=[list(n) for n in numbers]))


async def set_units(db: Db, site: str, units: UnitSystem) -> None:
    """Write down which units a site's people usually read."""
    await db.execute(update(SiteRow).where(SiteRow.id == site).values(units=units.value))


def unit_of(row: Any) -> Unit:
    """A unit from its row."""
    return Unit(
        id=row.id,
        name=row.name,
        model_id=row.model_id,
        options=frozenset(row.options),
        own_limits=dict(row.own_limits),
        bay=row.bay,
        active=row.active,
        photo=row.photo,
        hours=row.hour_meter,
        offset=row.meter_offset,
        standing=decode(Standing, row.standing, "standing"),
        seq=row.seq,
        head=row.head,
        newest=Newest(row.newest, row.cleared, row.ended, row.walking, row.whole),
    )


_machine = MachineRow.__table__
_unit = select(*_machine.c).where(_machine.c.site_id == bindparam("site"), _machine.c.id == bindparam("machine"))
_UNIT, _UNIT_LOCKED = Hot(_unit), Hot(_unit.with_for_update())


async def unit(db: Db, site: str, machine: str, lock: bool = False) -> Unit | None:
    """A unit, or None; `lock` keeps other writers of its log out until the transaction ends."""
    found = await (_UNIT_LOCKED if lock else _UNIT).rows(db, {"site": site, "machine": machine})
    return unit_of(found[0]) if found else None


async def units(db: Db, site: str, with_gone: bool = False) -> list[Unit]:
    """The units of a site in the order of their bays."""
    query = select(MachineRow).where(MachineRow.site_id == site)
    if not with_gone:
        query = query.where(MachineRow.active)
    return [unit_of(row) for row in (await db.execute(query.order_by(MachineRow.bay, MachineRow.id))).scalars()]


async def units_by_id(db: Db, site: str, ids: Collection[str]) -> list[Unit]:
    """These units of a site."""
    query = select(MachineRow).where(MachineRow.site_id == site, MachineRow.id.in_(ids))
    return [unit_of(row) for row in (await db.execute(query)).scalars()]


async def unit_named(db: Db, site: str, name: str) -> str | None:
    """The id of the unit of that name."""
    return await db.scalar(select(MachineRow.id).where(MachineRow.site_id == site, MachineRow.name == name))


async def put_unit(db: Db, site: str, u: Unit) -> None:
    """Write a unit's row anew."""
    values = {
        "name": u.name,
        "model_id": u.model_id,
        "options": sorted(u.options),
        "own_limits": dict(u.own_limits),
        "bay": u.bay,
        "active": u.active,
        "photo": u.photo,
        "hour_meter": u.hours,
        "meter_offset": u.offset,
        "standing": encode(u.standing),
        "seq": u.seq,
        "head": u.head,
        "newest": u.newest.signed,
        "cleared": u.newest.cleared,
        "ended": u.newest.ended,
        "walking": u.newest.walking,
        "whole": u.newest.whole,
    }
    await db.execute(
        insert(MachineRow)
        .values(site_id=site, id=u.id, **values)
        .on_conflict_do_update(index_elements=["site_id", "id"], set_=values)
    )


async def put_good_pictures(db: Db, site: str, machine: str, pictures: Sequence[GoodPicture]) -> None:
    """Write what a machine's file shows of how its checkpoints look when they are sound, in place of what it showed."""
    mine = (GoodPictureRow.site_id == site, GoodPictureRow.machine_id == machine)
    await db.execute(delete(GoodPictureRow).where(*mine))
    rows = [{"site_id": site, "machine_id": machine, **asdict(p)} for p in pictures]
    if rows:
        await db.execute(insert(GoodPictureRow), rows)


_good = GoodPictureRow.__table__
_GOOD = Hot(
    select(*_good.c)
    .join(_machine, (_machine.c.site_id == _good.c.site_id) & (_machine.c.id == _good.c.machine_id))
    .where(_good.c.site_id == bindparam("site"))
    .where(
        (_good.c.machine_id == bindparam("machine"))
        | (_good.c.whole_model & (_machine.c.model_id == bindparam("model")))
    )
)


async def good_pictures_of(
    db: Db, site: str, machine: str, model: str
) -> tuple[list[GoodPicture], list[GoodPicture]]:  # fmt: skip
    """What a machine's own file shows, and what the files of all units of a model show for the whole model."""
    rows = await _GOOD.rows(db, {"site": site, "machine": machine, "model": model})
    all_ = [(r.machine_id, GoodPicture(r.checkpoint, r.photo, r.by, r.at, r.whole_model)) for r in rows]
    return [p for m, p in all_ if m == machine and not p.whole_model], [p for _, p in all_ if p.whole_model]


@dataclass(frozen=True, slots=True)
class ModelFile:
    """One edition of a model file that the site wrote itself."""

    model_id: str
    edition: int
    name: str
    text: str
    at: datetime
    by: str


async def model_files(db: Db, site: str, model: str | None = None) -> list[ModelFile]:
    """The newest edition of each of the site's own model files, or of one."""
    query = select(ModelFileRow).where(ModelFileRow.site_id == site)
    if model is not None:
        query = query.where(ModelFileRow.model_id == model)
    query = query.distinct(ModelFileRow.model_id).order_by(ModelFileRow.model_id, ModelFileRow.edition.desc())
    rows = (await db.execute(query)).scalars()
    return [ModelFile(r.model_id, r.edition, r.name, r.text, r.at, r.by) for r in rows]


_FILES = Hot(
    select(func.concat_ws("/", func.count(), func.max(ModelFileRow.at))).where(
        ModelFileRow.site_id == bindparam("site")
    )
)


async def model_files_version(db: Db, site: str) -> str:
    """A text that changes with every edition of a model file that the site writes."""
    return str((await _FILES.rows(db, {"site": site}))[0][0])


async def model_file_by_id(db: Db, site: str, file: str) -> str | None:
    """The text of a model file by the id it was sent under."""
    return await db.scalar(select(ModelFileRow.text).where(ModelFileRow.site_id == site, ModelFileRow.id == file))


async def add_model_file(
    db: Db, site: str, model: str, file: str, name: str, text: str, at: datetime, by: str
) -> None:  # fmt: skip
    """Keep a model file as the next edition."""
    last = await db.scalar(
        select(func.max(ModelFileRow.edition)).where(ModelFileRow.site_id == site, ModelFileRow.model_id == model)
    )
    db.add(
        ModelFileRow(site_id=site, model_id=model, edition=(last or 0) + 1, id=file, name=name, text=text, at=at, by=by)
    )
    await db.flush()
