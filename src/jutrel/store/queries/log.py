"""The log: writing entries, reading them back as the core's."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import AsyncIterator, Collection, Iterable, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import Row, and_, any_, cast, false, or_, select, text, update
from sqlalchemy.dialects.postgresql import ARRAY, insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.sql import ColumnElement

from jutrel.core.defect.kinds import Rechecked
from jutrel.core.inspection.kinds import Undone
from jutrel.core.log.chain import START
from jutrel.core.log.codec import decode, encode, sparse
from jutrel.core.log.entry import Came, Entry, Pins
from jutrel.core.log.kinds import kind_of, payload_of
from jutrel.core.people import Role
from jutrel.store.base import Db
from jutrel.store.tables import EditionRow, EntryRow, RecordRow, StreamRow
from jutrel.store.tables.log import ID


class IdTaken(RuntimeError):
    """Another transaction stored one of these ids first; asked again, it is known."""


_READ: OrderedDict[bytes, Entry] = OrderedDict()
MOST_READ = 20_000
COLUMNS = (*(c for c in EntryRow.__table__.c if c.name not in ("site_id", "stream_no")), StreamRow.id.label("stream"))
WITH_STREAM = select(*COLUMNS).join(StreamRow, StreamRow.no == EntryRow.stream_no)


def entry_of(row: Row[Any]) -> Entry:
    """The core's view of a stored entry. An entry never changes, so one that was read is kept by its hash."""
    have = _READ.get(row.hash)
    if have is not None and have.id == row.id:
        _READ.move_to_end(row.hash)
        return have
    made = read_anew(row)
    _READ[row.hash] = made
    if len(_READ) > MOST_READ:
        _READ.popitem(last=False)
    return made


def read_anew(row: Row[Any], prev: str = "") -> Entry:
    """A stored entry exactly as it stands in the table now; `prev`: the hash of the one before, where it is known."""
    return Entry(
        id=row.id,
        machine=row.machine_id,
        stream=row.stream,
        by=row.by,
        at=row.at,
        what=payload_of(row.kind, row.what),
        replaces=frozenset(row.replaces or ()),
        offset_ms=row.offset_ms,
        seq=row.seq,
        role=Role(row.role),
        pen=row.pen or "",
        device=row.device,
        sent_by=row.by if row.sent_by is None else row.sent_by,
        received_at=row.received_at,
        heard_at=row.heard_at,
        pins=None if row.pins is None else decode(Pins, row.pins, "pins"),
        prev=prev,
        hash=row.hash.hex(),
        stale=row.stale,
        told=row.told or {},
        came=None if row.came is None else decode(Came, row.came, "came"),
        seal=row.seal or "",
    )


def named_by(entry: Entry) -> list[str]:
    """Ids that an entry replaces, takes back or confirms."""
    names = set(entry.replaces)
    if isinstance(entry.what, Undone):
        names.add(entry.what.target)
    if isinstance(entry.what, Rechecked):
        names.add(entry.what.release)
    return sorted(names)


def row_of(site: str, stream_no: int, e: Entry) -> dict[str, Any]:
    """An entry as the table holds it."""
    return {
        "site_id": site,
        "machine_id": e.machine,
        "seq": e.seq,
        "stream_no": stream_no,
        "at": e.at,
        "received_at": e.received_at,
        "heard_at": e.heard_at,
        "offset_ms": e.offset_ms,
        "id": e.id,
        "by": e.by,
        "pen": e.pen or None,
        "sent_by": None if e.sent_by == e.by else e.sent_by,
        "kind": kind_of(e.what).name,
        "role": e.role.value,
        "device": e.device,
        "hash": bytes.fromhex(e.hash),
        "what": sparse(e.what),
        "replaces": sorted(e.replaces) or None,
        "names": named_by(e) or None,
        "pins": None if e.pins is None else encode(e.pins),
        "stale": e.stale,
        "told": dict(e.told) or None,
        "came": None if e.came is None else encode(e.came),
        "seal": e.seal or None,
    }


async def add_entries(db: Db, site: str, entries: Sequence[Entry]) -> None:
    """Write entries at the end of a machine's log; raises IdTaken if another machine's log has one of the ids.

    Their streams have been claimed before.
    """
    if not entries:
        return
    streams = {e.stream for e in entries}
    found = await db.execute(
        select(StreamRow.id, StreamRow.no).where(StreamRow.site_id == site, StreamRow.id.in_(streams))
    )
    numbers = {row.id: row.no for row in found}
    try:
        async with db.begin_nested():
            await db.execute(insert(EntryRow), [row_of(site, numbers[e.stream], e) for e in entries])
    except IntegrityError:
        raise IdTaken from None


async def claim_stream(db: Db, site: str, stream: str, machine: str) -> str:
    """The machine that a stream belongs to; this one if it belongs to none yet."""
    have = await machine_of_stream(db, site, stream)
    if have is None:
        await db.execute(insert(StreamRow).values(site_id=site, id=stream, machine_id=machine).on_conflict_do_nothing())
        have = await machine_of_stream(db, site, stream)
    return str(have)


async def machine_of_stream(db: Db, site: str, stream: str) -> str | None:
    """The machine a stream belongs to, or None."""
    return await db.scalar(select(StreamRow.machine_id).where(StreamRow.site_id == site, StreamRow.id == stream))


async def _entries(db: Db, *where: Any) -> list[Entry]:
    return [entry_of(row) for row in await db.execute(WITH_STREAM.where(*where).order_by(EntryRow.seq))]


async def entries_by_id(db: Db, site: str, ids: Collection[str]) -> dict[str, Entry]:
    """Stored entries by id, whichever machine they belong to."""
    found = await _entries(db, EntryRow.site_id == site, EntryRow.id.in_(ids)) if ids else []
    return {e.id: e for e in found}


async def entries_of_stream(db: Db, site: str, stream: str) -> list[Entry]:
    """A look's, file's or defect's entries in the order of the log."""
    number = select(StreamRow.no).where(StreamRow.site_id == site, StreamRow.id == stream).scalar_subquery()
    return await _entries(db, EntryRow.stream_no == number)


async def entries_in_streams(db: Db, site: str, streams: Collection[str], kind: str) -> list[Entry]:
    """The entries of one kind in some streams."""
    if not streams:
        return []
    numbers = select(StreamRow.no).where(StreamRow.site_id == site, StreamRow.id.in_(streams))
    return await _entries(db, EntryRow.stream_no.in_(numbers), EntryRow.kind == kind)


async def entries_of_kinds(db: Db, site: str, machine: str, kinds: Collection[str]) -> list[Entry]:
    """A machine's entries of some kinds."""
    return await _entries(db, EntryRow.site_id == site, EntryRow.machine_id == machine, EntryRow.kind.in_(kinds))


async def latest_of_kinds(db: Db, site: str, machine: str, kinds: Collection[str], count: int) -> list[Entry]:
    """A machine's newest entries of some kinds, in the order of the log."""
    mine = (EntryRow.site_id == site, EntryRow.machine_id == machine, EntryRow.kind.in_(kinds))
    found = await db.execute(WITH_STREAM.where(*mine).order_by(EntryRow.seq.desc()).limit(count))
    return [entry_of(row) for row in found][::-1]


async def telling(db: Db, site: str, machine: str, kinds: Collection[str], before: int, count: int) -> list[Entry]:
    """A machine's newest entries of some kinds before a place in its log, newest first; of answers those with a
    defect, of readings those before which something was put right."""
    what = EntryRow.what
    plain = [k for k in kinds if k not in ("answered", "read", "measured")]
    told = or_(
        EntryRow.kind.in_(plain),
        and_(EntryRow.kind == "answered", what["answer"].astext == "defect") if "answered" in kinds else false(),
        and_(EntryRow.kind.in_(("read", "measured")), what.has_key("put_right")) if "read" in kinds else false(),
    )
    mine = (EntryRow.site_id == site, EntryRow.machine_id == machine, EntryRow.seq < before, told)
    found = await db.execute(WITH_STREAM.where(*mine).order_by(EntryRow.seq.desc()).limit(count))
    return [entry_of(row) for row in found]


async def hash_at(db: Db, site: str, machine: str, seq: int) -> str:
    """The hash of the entry at a place in a machine's log; empty if there is none."""
    where = (EntryRow.site_id == site, EntryRow.machine_id == machine, EntryRow.seq == seq)
    found = await db.scalar(select(EntryRow.hash).where(*where))
    return found.hex() if found else ""


async def hashes_at(db: Db, site: str, machine: str, places: Collection[int]) -> dict[int, str]:
    """The hashes of the entries at some places in a machine's log."""
    if not places:
        return {}
    where = (EntryRow.site_id == site, EntryRow.machine_id == machine, EntryRow.seq.in_(places))
    return {row.seq: row.hash.hex() for row in await db.execute(select(EntryRow.seq, EntryRow.hash).where(*where))}


async def log_of(db: Db, site: str, machine: str, batch: int = 2000) -> AsyncIterator[Entry]:
    """A machine's whole log in order, as it stands in the table now."""
    last, prev = 0, START
    while True:
        query = (
            WITH_STREAM.where(EntryRow.site_id == site, EntryRow.machine_id == machine, EntryRow.seq > last)
            .order_by(EntryRow.seq)
            .limit(batch)
        )
        rows = (await db.execute(query)).all()
        for row in rows:
            yield read_anew(row, prev)
            prev = row.hash.hex()
        if len(rows) < batch:
            return
        last = rows[-1].seq


async def related(db: Db, site: str, machine: str, ids: Iterable[str], without: str) -> list[Entry]:
    """Entries of other streams that name some entries, those that name these, and the signatures over them.

    Entries of the stream `without` are known to the caller and not read again.
    """
    return await linked(
        db, and_(EntryRow.site_id == site, EntryRow.machine_id == machine, StreamRow.id != without), ids
    )


async def related_of_many(db: Db, site: str, machines: Collection[str], ids: Iterable[str]) -> list[Entry]:
    """Entries of these machines that name some entries, those that name these, and the signatures over them."""
    return await linked(db, and_(EntryRow.site_id == site, EntryRow.machine_id.in_(machines)), ids)


async def linked(db: Db, here: ColumnElement[bool], ids: Iterable[str]) -> list[Entry]:
    """What hangs together with some entries by names, as far as it stands `here`, and the signatures over it."""
    asked: set[str] = set()
    todo = set(ids)
    found: dict[str, Entry] = {}
    while todo:
        asked |= todo
        array = cast(list(todo), ARRAY(ID))
        named = or_(EntryRow.names.overlap(array), EntryRow.id == any_(array))
        for row in await db.execute(WITH_STREAM.where(here, named)):
            found.setdefault(row.id, entry_of(row))
        todo = {*found} - asked
    if streams := {e.stream for e in found.values()}:
        signed = and_(StreamRow.id.in_(streams), EntryRow.kind == "signed")
        for row in await db.execute(WITH_STREAM.where(here, signed)):
            found.setdefault(row.id, entry_of(row))
    return list(found.values())


async def keep_edition(db: Db, name: str, content: bytes, at: datetime) -> None:
    """Keep an edition's content under its hash, once."""
    await db.execute(insert(EditionRow).values(hash=name, content=content, first_used=at).on_conflict_do_nothing())


async def edition_content(db: Db, name: str) -> bytes | None:
    """A kept edition's content."""
    return await db.scalar(select(EditionRow.content).where(EditionRow.hash == name))


async def keep_record(db: Db, site: str, signature: str, look: str, document: bytes, verdict: Any) -> None:
    """Keep what a signature stands for."""
    await db.execute(
        insert(RecordRow).values(site_id=site, signature=signature, look=look, document=document, verdict=verdict)
    )


async def record_of(db: Db, site: str, signature: str) -> tuple[bytes, Any] | None:
    """The document and the verdict that a signature stands for."""
    row = await db.get(RecordRow, (site, signature))
    return None if row is None else (row.document, row.verdict)


async def documents_about(db: Db, site: str, person: str) -> AsyncIterator[tuple[str, bytes]]:
    """Each kept document in which a person's id stands, with the signature that it is of; read one after the other."""
    about = text("position(:person in record.document) > 0").bindparams(person=person.encode())
    query = select(RecordRow.signature).where(RecordRow.site_id == site, about).order_by(RecordRow.signature)
    for signature in list((await db.execute(query)).scalars()):
        document = await db.scalar(
            select(RecordRow.document).where(RecordRow.site_id == site, RecordRow.signature == signature)
        )
        assert document is not None
        yield signature, document


async def change_document(db: Db, site: str, signature: str, document: bytes) -> None:
    """Keep a document as it is to be from now on: only the database's owner may."""
    mine = RecordRow.site_id == site, RecordRow.signature == signature
    await db.execute(update(RecordRow).where(*mine).values(document=document))


async def signatures_of(db: Db, site: str, look: str) -> list[str]:
    """The signatures of a look that a record is kept of."""
    query = select(RecordRow.signature).where(RecordRow.site_id == site, RecordRow.look == look)
    return list((await db.execute(query)).scalars())


async def announced_by(db: Db, site: str, photo: str) -> set[str]:
    """Who announced a photo of this id in a log."""
    query = select(EntryRow.by).where(
        EntryRow.site_id == site,
        EntryRow.kind.in_(("photographed", "pictured", "good-shown")),
        EntryRow.what["photo"].astext == photo,
    )
    return set((await db.execute(query)).scalars())
