"""The seals of an exported record, checked by whoever holds the file: no server and no database is asked."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from jutrel.core.errors import BadInput
from jutrel.core.log.chain import said_by_device
from jutrel.core.log.entry import Entry
from jutrel.core.wording import Said, say
from jutrel.service.log.seal import holds, opened
from jutrel.service.log.sent import read_sent

NO_WORD = say("The site's word for its pen is not in the record, or another site gave it.")
OTHER = say("It is not what its pen sealed: somebody changed it.")
NOT_ITS_PEN = say("The pen that sealed it belongs to somebody else, or to another role.")


@dataclass(frozen=True, slots=True)
class WrongSeal:
    """An entry whose seal does not hold: its id, its place in the machine's log, why."""

    id: str
    seq: int
    says: Said


@dataclass(frozen=True, slots=True)
class CheckedSeals:
    """What came of it. `key`: by which site's key; `sealed`, `bare`: how many entries have a seal that holds, none."""

    key: str
    sealed: int
    bare: int
    wrong: tuple[WrongSeal, ...]


def check_seals(document: Mapping[str, Any], key: str = "") -> CheckedSeals:
    """Check every entry of a record. `key`: the site's public key as it is known from elsewhere; else the record's own.

    Raises
    ------
    BadInput
        If the document is no record, or has no key to check it by.
    """
    site, entries = document.get("site"), document.get("entries")
    if not isinstance(site, Mapping) or not isinstance(entries, list):
        raise BadInput("file", "it is no record of an inspection")
    every = [*entries, *document.get("others", [])]
    key = key or str(site.get("key") or "")
    if not key and any(e.get("seal") for e in every):
        raise BadInput("site.key", "the record names no key of its site; give the key with --key")
    pens = document.get("pens") or {}
    machine = str((document.get("machine") or {}).get("id", ""))
    wrong, sealed = [], 0
    for entry in every:
        if not entry.get("seal"):
            continue
        why = _why_not(entry, machine, str(pens.get(entry.get("pen"), "")), key)
        if why is None:
            sealed += 1
        else:
            wrong.append(WrongSeal(str(entry.get("id")), int(entry.get("seq") or 0), why))
    return CheckedSeals(key, sealed, len(every) - sealed - len(wrong), tuple(wrong))


def _why_not(entry: Mapping[str, Any], machine: str, certificate: str, key: str) -> Said | None:
    """Why an entry's seal does not hold; None: it does."""
    if not certificate or not holds(certificate, key):
        return NO_WORD
    vouched = opened(certificate).says
    if [vouched.get(k) for k in ("pen", "person", "role")] != [entry.get(k) for k in ("pen", "by", "role")]:
        return NOT_ITS_PEN
    if not holds(entry["seal"], str(vouched.get("key"))):
        return OTHER
    try:
        sent = read_sent({"seal": entry["seal"]})
        told = read_sent(
            {k: entry.get(k) for k in ("id", "by", "at", "replaces", "offset_ms")}
            | {"what": {**entry["what"], "kind": entry["kind"]}}
        )
    except (BadInput, KeyError, TypeError):
        return OTHER
    made = Entry(sent.id, *sent.meant, sent.by, sent.at, sent.what, replaces=sent.replaces, offset_ms=sent.offset_ms)
    meant = (machine, str(entry.get("stream", "")))
    same = Entry(told.id, *meant, told.by, told.at, told.what, replaces=told.replaces, offset_ms=told.offset_ms)
    return None if sent.id == told.id and said_by_device(made) == said_by_device(same) else OTHER
