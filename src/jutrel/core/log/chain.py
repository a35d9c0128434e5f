"""The chain: each entry of a machine holds the hash of the one before, so that no change stays unseen."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable
from dataclasses import dataclass, replace

from jutrel.core.log.codec import Plain, encode, sparse
from jutrel.core.log.entry import Entry
from jutrel.core.log.kinds import kind_of

START = "0" * 64


def canonical(entry: Entry) -> bytes:
    """The form that is hashed: every field that does not hold its default, without the hash, sorted, as compact JSON.

    So a field that a kind gets later changes no hash of before.
    """
    plain = sparse(entry)
    plain.pop("hash", None)
    plain["kind"] = kind_of(entry.what).name
    return _compact(plain)


def _first_form(entry: Entry) -> bytes:
    """The form that was hashed at first: every field, also those that hold their default."""
    plain = encode(replace(entry, hash=""))
    plain["kind"] = kind_of(entry.what).name
    return _compact(plain)


def _compact(plain: Plain) -> bytes:
    return json.dumps(plain, sort_keys=True, separators=(",", ":"), ensure_ascii=True).encode()


def hash_of(entry: Entry) -> str:
    """SHA-256 of the canonical form, in hex."""
    return hashlib.sha256(canonical(entry)).hexdigest()


def _unchanged(entry: Entry) -> bool:
    """Whether an entry is what was hashed when it was written, in the form of that time."""
    return entry.hash in (hash_of(entry), hashlib.sha256(_first_form(entry)).hexdigest())


def said_by_device(entry: Entry) -> str:
    """A digest of what the device made: tells a repeated entry from another one that took its id."""
    made = [entry.machine, entry.stream, kind_of(entry.what).name, entry.by, encode(entry.at), encode(entry.what)]
    text = json.dumps([*made, sorted(entry.replaces), entry.offset_ms], sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()


@dataclass(frozen=True, slots=True)
class Broken:
    """Where a chain is broken, and how."""

    seq: int
    says: str


def chained(entry: Entry, seq: int, prev: str) -> Entry:
    """The entry as the next link."""
    linked = replace(entry, seq=seq, prev=prev, hash="")
    return replace(linked, hash=hash_of(linked))


def verify(entries: Iterable[Entry], head: tuple[int, str] | None = None) -> Broken | None:
    """The first place at which a machine's log, given in order, is not what it was; None if it is whole.

    `head` is the last seq and hash that were noted apart from the log: it finds a log cut short.
    """
    prev, seq = START, 0
    for entry in entries:
        seq += 1
        if entry.seq != seq:
            return Broken(seq, f"entry {seq} is missing" if entry.seq > seq else f"entry {entry.seq} is there twice")
        if entry.prev != prev:
            return Broken(seq, f"entry {seq} does not follow the one before it")
        if not _unchanged(entry):
            return Broken(seq, f"entry {seq} was changed after it was written")
        prev = entry.hash
    if head is not None and head != (seq, prev if seq else START):
        return Broken(seq + 1, f"the log ends at entry {seq}, but was written to entry {head[0]}")
    return None
