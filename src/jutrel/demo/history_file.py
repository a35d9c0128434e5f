"""The twelve weeks as one compressed file: written from a database, taken into an empty one at any later day.

Its days are moved as a whole, so that the last one is yesterday. An entry's hash covers its time and the hash of the
entry before it: every hash is made anew, in the order of the logs, and put wherever the old one stood.

The file is xz. Its first line says what it is; then come blocks, each begun by a line with its name and how many bytes
follow: tables as PostgreSQL copies them, and the entries as they are hashed. In them a machine and a place between two
bytes 1 stand for the hash of the entry there, n between two bytes 2 for the number of the n-th stream, and n between
two bytes 3 for the n-th id.
"""

from __future__ import annotations

import asyncio
import hashlib
import io
import json
import lzma
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import date, timedelta
from pathlib import Path
from uuid import UUID

from jutrel.core.log.chain import START, canonical
from jutrel.core.log.entry import Entry
from jutrel.store.base import Db
from jutrel.store.queries.sites import ask_for
from jutrel.store.queries.table_copy import COLUMNS, OF_MACHINE, CopiedOut, copy_in, first_stream

FILE = Path(__file__).with_name("weeks.xz")
PART = 3_000_000
"""Bytes of a part at most."""
FORMAT = "jutrel-demo-weeks/1"
_DATE = re.compile(r"20\d\d-\d\d-\d\d(?=[T ]\d\d:)")
_HASH = re.compile(r"(?<![0-9a-f])[0-9a-f]{64}(?![0-9a-f])")
_LINK = re.compile("\x01([^\x01]+)\x01")
_STREAM = re.compile("\x02(\\d+)\x02")
_ID = re.compile(r"\b[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}\b")
_NUMBER = re.compile("\x03(\\d+)\x03")
_HALF, _REST = 1 << 79, (1 << 80) - 1


class NoHistory(Exception):
    """The file is none of ours, or it is not as it was written."""


def write_history(tables: CopiedOut, entries: Iterator[Entry], revision: str, path: Path = FILE) -> None:
    """Write down all that a database holds. `entries`: of every machine, in the order of its log."""
    if lost := tables.lost():
        raise NoHistory(f"{', '.join(lost)}: there is something in it, and this file would lose it")
    hashed, known = dict[str, list[str]](), dict[str, str]()
    for entry in entries:
        known[entry.hash] = f"{entry.machine}:{entry.seq}"
        hashed.setdefault(entry.machine, []).append(canonical(entry).decode())

    ids = Ids()

    def linked(text: str) -> str:
        return _HASH.sub(lambda m: f"\x01{known[m[0]]}\x01" if m[0] in known else m[0], text)

    def short(lines: Iterable[str]) -> str:
        return ids.short(linked("\n".join(lines)))

    streams = tables.streams()
    numbers = {no: n for n, (no, _) in enumerate(streams)}
    columns = {table: tables.columns(table) for table in COLUMNS}
    at = columns["entry"].index("stream_no")
    blocks = {table: short(tables.rows(table)) for table in COLUMNS if table not in OF_MACHINE}
    for machine, forms in hashed.items():
        rows = [_with_stream(row, at, numbers) for row in tables.rows("entry", machine)]
        made = plain_forms(columns["entry"], rows, [name for _, name in streams], {})
        odd = ["" if plain == form else form for plain, form in zip(made, map(linked, forms), strict=True)]
        blocks[f"entry {machine}"] = short(rows)
        blocks[f"hashed {machine}"] = short(odd)
        for table in ("look", "report", "record"):
            blocks[f"{table} {machine}"] = short(tables.rows(table, machine))
    blocks["ids"] = ids.written()
    sums = {name: hashlib.sha256(text.encode()).hexdigest() for name, text in blocks.items()}
    head = {
        "format": FORMAT,
        "revision": revision,
        "last": tables.last_day().isoformat(),
        "columns": columns,
        "sha256": sums,
    }
    packed = io.BytesIO()
    with lzma.open(packed, "wb", preset=9) as file:
        file.write(json.dumps(head).encode() + b"\n")
        for name, text in blocks.items():
            data = text.encode()
            file.write(f"{len(data)} {name}\n".encode() + data)
    write_parts(packed.getvalue(), path)


def write_parts(packed: bytes, path: Path = FILE) -> None:
    """Write the file in parts: `weeks.xz` as `weeks-1.xz` and so on, each small enough for any keeper of files."""
    for old in _parts(path):
        old.unlink()
    for n in range(0, len(packed), PART):
        path.with_name(f"{path.stem}-{n // PART + 1}{path.suffix}").write_bytes(packed[n : n + PART])


def file_bytes(path: Path = FILE) -> bytes:
    """The whole file from its parts."""
    return b"".join(part.read_bytes() for part in _parts(path))


def _parts(path: Path) -> list[Path]:
    return sorted(path.parent.glob(f"{path.stem}-[1-9]{path.suffix}"))


def _with_stream(row: str, at: int, numbers: Mapping[str, int]) -> str:
    cells = row.split("\t")
    cells[at] = f"\x02{numbers[cells[at]]}\x02"
    return "\t".join(cells)


def read_file(path: Path = FILE) -> tuple[dict[str, object], dict[str, str]]:
    """The head and the blocks of a file; NoHistory if it is not as it was written."""
    with lzma.open(io.BytesIO(file_bytes(path)), "rb") as file:
        head = json.loads(file.readline())
        if head.get("format") != FORMAT:
            raise NoHistory(f"{path.name} is no history of a demo")
        blocks = {}
        while line := file.readline().decode():
            size, _, name = line.rstrip("\n").partition(" ")
            data = file.read(int(size))
            if hashlib.sha256(data).hexdigest() != head["sha256"].get(name):
                raise NoHistory(f"{path.name}: {name} is not as it was written")
            blocks[name] = data.decode()
    return head, blocks


async def take_in(db: Db, today: date, path: Path = FILE) -> int:
    """Take the weeks into an empty database, so that their last day is yesterday; how many entries there are.

    All or nothing with the transaction under way.
    """
    head, blocks = read_file(path)
    days = today - timedelta(days=1) - date.fromisoformat(str(head["last"]))
    moved: dict[str, str] = {}

    def day(m: re.Match[str]) -> str:
        found = moved.get(m[0])
        if found is None:
            found = moved[m[0]] = (date.fromisoformat(m[0]) + days).isoformat()
        return found

    columns = head["columns"]
    assert isinstance(columns, dict)
    ids = Ids.read(blocks.pop("ids"))
    hashes: dict[str, str] = {}
    odd = {name.partition(" ")[2]: text for name, text in blocks.items() if name.startswith("hashed ")}
    streams = [line.split("\t")[1] for line in ids.full(blocks["stream"]).split("\n")]
    entries: dict[str, str] = {}
    for machine, forms in odd.items():
        entries[machine] = _DATE.sub(day, ids.full(blocks.pop(f"entry {machine}")))
        told = dict(enumerate(_DATE.sub(day, ids.full(forms)).split("\n")))
        _hash(hashes, machine, plain_forms(columns["entry"], entries[machine].split("\n"), streams, told))

    def made(name: str) -> str:
        """A block as it is taken in."""
        table, _, machine = name.partition(" ")
        text = entries[machine] if table == "entry" else _DATE.sub(day, ids.full(blocks[name]))
        text = _LINK.sub(lambda m: hashes[m[1]], text)
        if table == "entry":
            return _numbered(text, first)
        return "\n".join(map(_as_bytes, text.split("\n"))) if table == "record" else text

    names = [f"{t} {m}" if t in OF_MACHINE else t for t in COLUMNS for m in (entries if t in OF_MACHINE else ("",))]
    site = made("site")
    await ask_for(db, site.split("\t")[columns["site"].index("id")])
    await copy_in(db, "site", columns["site"], site)
    await copy_in(db, "stream", columns["stream"], made("stream"))
    first = await first_stream(db)
    rest = [n for n in names if n not in ("site", "stream")]
    ready = asyncio.create_task(asyncio.to_thread(made, rest[0]))
    for name, following in zip(rest, [*rest[1:], None], strict=True):
        text = await ready
        if following is not None:  # the next is made while the database takes this one
            ready = asyncio.create_task(asyncio.to_thread(made, following))
        table = name.partition(" ")[0]
        await copy_in(db, table, columns[table], text)
    return len(hashes)


def _as_bytes(row: str) -> str:
    """A text as bytes: what is escaped in the copy is escaped in bytes once more."""
    plain, _, document = row.rpartition("\t")
    return plain + "\t" + document.replace("\\\\", "\\\\\\\\")


def _hash(hashes: dict[str, str], machine: str, forms: Iterable[str | None]) -> None:
    """Add the hash of each entry of a machine, by machine and place, from the forms that are hashed."""
    for seq, form in enumerate(forms, 1):
        assert form is not None
        link = _LINK.sub(lambda m: hashes[m[1]], form)
        hashes[f"{machine}:{seq}"] = hashlib.sha256(link.encode()).hexdigest()


def plain_forms(
    columns: Sequence[str], rows: Iterable[str], streams: Sequence[str], told: Mapping[int, str]
) -> Iterator[str | None]:
    """The form in which each entry is hashed, from its row; None for one that is not that plain.

    `told`: the form of those that are not, by their place from 0 on, and empty for the others.
    """
    at = {name: n for n, name in enumerate(columns)}
    plain = [at[c] for c in ("sent_by", "names", "pins", "seal", "replaces")]
    empty = [at[c] for c in ("told", "came")]
    for n, row in enumerate(rows):
        if told.get(n):
            yield told[n]
            continue
        c = row.split("\t")
        what = c[at["what"]]
        if (
            "\\" in what
            or c[at["stale"]] != "f"
            or any(c[x] != "\\N" for x in plain)
            or any(c[x] not in ("null", "\\N") for x in empty)
        ):
            yield None
            continue
        machine, seq = c[at["machine_id"]], int(c[at["seq"]])
        role, offset, pen = c[at["role"]], c[at["offset_ms"]], c[at["pen"]]
        said = json.dumps(json.loads(what), sort_keys=True, separators=(",", ":"), ensure_ascii=True)
        link = START if seq == 1 else f"\x01{machine}:{seq - 1}\x01"
        yield "".join(
            (
                f'{{"at":"{_iso(c[at["at"]])}","by":"{c[at["by"]]}","device":"{c[at["device"]]}",',
                f'"heard_at":"{_iso(c[at["heard_at"]])}","id":"{c[at["id"]]}","kind":"{c[at["kind"]]}",',
                f'"machine":"{machine}",',
                "" if offset == "\\N" else f'"offset_ms":{offset},',
                "" if pen == "\\N" else f'"pen":"{pen}",',
                f'"prev":"{link}","received_at":"{_iso(c[at["received_at"]])}",',
                "" if role == "operator" else f'"role":"{role}",',
                f'"sent_by":"{c[at["by"]]}","seq":{seq},"stream":"{streams[int(c[at["stream_no"]].strip(chr(2)))]}",',
                f'"what":{said}}}',
            )
        )


def _iso(time: str) -> str:
    """A time as it is hashed, from how the database writes it.

    >>> _iso("2026-09-07 05:12:06.6+00"), _iso("2026-09-07 05:12:01+00")
    ('2026-09-07T05:12:06.600000Z', '2026-09-07T05:12:01Z')
    """
    day, clock = time[:-3].split(" ")
    whole, dot, part = clock.partition(".")
    return f"{day}T{whole}{dot}{part.ljust(6, '0')}Z" if dot else f"{day}T{whole}Z"


class Ids:
    """Ids by numbers, in the order in which they were met: what is chance in them takes room once."""

    def __init__(self) -> None:
        self._numbers: dict[str, int] = {}
        self._all: list[str] = []

    def short(self, text: str) -> str:
        """A text with numbers in place of ids."""

        def number(m: re.Match[str]) -> str:
            n = self._numbers.setdefault(m[0], len(self._all))
            if n == len(self._all):
                self._all.append(m[0])
            return f"\x03{n}\x03"

        return _ID.sub(number, text)

    def full(self, text: str) -> str:
        """A text with its ids."""
        return _NUMBER.sub(lambda m: self._all[int(m[1])], text)

    def written(self) -> str:
        """All of them, each as its difference from the one before."""
        whole = [int(x.replace("-", ""), 16) for x in self._all]
        steps = (b - a for a, b in zip([0, *whole], whole, strict=False))
        return "\n".join(f"{(s + _HALF) >> 80},{((s + _HALF) & _REST) - _HALF}" for s in steps)

    @classmethod
    def read(cls, text: str) -> Ids:
        """As they were written."""
        made, last = cls(), 0
        for line in text.split("\n"):
            high, low = line.split(",")
            last += (int(high) << 80) + int(low)
            made._all.append(str(UUID(int=last)))
        return made


def _numbered(text: str, first: int) -> str:
    return _STREAM.sub(lambda m: str(first + int(m[1])), text)
