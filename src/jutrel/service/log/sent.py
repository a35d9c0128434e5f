"""Entries as devices send them: read, and where they cannot be, why not."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from jutrel.core.errors import BadInput
from jutrel.core.log.codec import EntryId, decode, time_of
from jutrel.core.log.kinds import kind_named
from jutrel.core.machine.unit import Unit
from jutrel.core.wording import Said, say
from jutrel.service.log.seal import opened

MOST_CLOCK_MS = 4_000_000_000_000
MOST_NAMED = 500


@dataclass(frozen=True, slots=True)
class Sent:
    """An entry as a device sends it: nothing of it is believed yet.

    `seal`, `pen`: its seal, and whose it claims to be; `meant`: the machine and stream that are sealed with it.
    `form`: the server made it from a form that whoever is signed in sent; there is no device to seal it.
    """

    id: str
    kind: str
    by: str
    at: datetime
    what: object
    replaces: frozenset[str] = frozenset()
    offset_ms: int | None = None
    seal: str = ""
    pen: str = ""
    meant: tuple[str, str] = ("", "")
    form: bool = False


@dataclass(frozen=True, slots=True)
class Refused:
    """An entry that was not stored. `again` says whether sending it later can help."""

    id: str
    kind: str
    says: Said
    field: str | None = None
    again: bool = False


@dataclass(frozen=True, slots=True)
class TakenBatch:
    """What became of a batch: stored now, known already, refused; and the unit with it."""

    stored: tuple[str, ...]
    known: tuple[str, ...]
    refused: tuple[Refused, ...]
    unit: Unit


class No(Exception):
    """An entry that is refused for a reason of its own."""

    def __init__(self, kind: str, says: str, again: bool = False, **values: Any) -> None:
        self.says = Said(says, tuple(values.items()))
        super().__init__(str(self.says))
        self.kind, self.again = kind, again


def of_field(error: BadInput) -> Said:
    """What is wrong with an entry, with the field it is about."""
    return say("{field}: {says}", field=error.field, says=error.says)


def read_sent(data: Any) -> Sent:
    """An entry from plain data; raises BadInput with the field."""
    if not isinstance(data, Mapping):
        raise BadInput("entry", "give fields with their values")
    if "encrypted" in data:
        raise BadInput("encrypted", "was not encrypted on a tablet of this site, or was changed since")
    if isinstance(seal := data.get("seal"), str):
        within = opened(seal)
        says = dict(within.says)
        meant = str(says.pop("machine", "")), str(says.pop("stream", ""))
        return replace(read_sent(says), seal=seal, pen=within.pen, meant=meant)
    for key in data:
        if key not in ("id", "by", "at", "what", "replaces", "offset_ms"):
            raise BadInput(str(key)[:60], "is not a known field of an entry")
    what = data.get("what")
    if not isinstance(what, Mapping) or not isinstance(what.get("kind"), str):
        raise BadInput("what.kind", "is missing")
    kind = kind_named(what["kind"])
    offset = data.get("offset_ms")
    if offset is not None and (isinstance(offset, bool) or not isinstance(offset, int) or abs(offset) > MOST_CLOCK_MS):
        raise BadInput("offset_ms", "give the clock's offset as a whole number of milliseconds")
    replaces = data.get("replaces") or []
    if not isinstance(replaces, list) or len(replaces) > MOST_NAMED:
        raise BadInput("replaces", "give a list of at most {n} ids", n=MOST_NAMED)
    return Sent(
        decode(EntryId, data.get("id"), "id"),
        kind.name,
        str(data.get("by", ""))[:60],
        time_of("at", data.get("at")),
        decode(kind.payload, {k: v for k, v in what.items() if k != "kind"}),
        frozenset(decode(EntryId, r, "replaces") for r in replaces),
        offset,
    )


def read_batch(data: Sequence[Any]) -> tuple[list[Sent], list[Refused]]:
    """Entries that can be read, and for each of the others why not."""
    good, bad = [], []
    for raw in data:
        try:
            good.append(read_sent(raw))
        except BadInput as error:
            name = raw.get("id") if isinstance(raw, Mapping) else None  # beside a seal stands the id as well
            bad.append(Refused(str(name or "")[:60], "bad-entry", of_field(error), error.field))
    return good, bad
