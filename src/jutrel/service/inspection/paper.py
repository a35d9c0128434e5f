"""A record on paper: made beside the server, from the document as it was kept, and once for each language."""

from __future__ import annotations

import hashlib
import json
import re
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from jutrel.catalog.build_drawing import redrawn
from jutrel.catalog.kept import catalog
from jutrel.core.edition import Edition, load_edition
from jutrel.core.grading.rulebook import Rulebook
from jutrel.core.grading.verdict import Verdict
from jutrel.core.inspection.look import Status
from jutrel.core.log.codec import decode, encode
from jutrel.core.machine.drawing import plan_drawing
from jutrel.core.machine.model import walk_of
from jutrel.core.wording import Wording, spoken
from jutrel.exchange.record import Record, RecordCheckpoint, RecordVerdict
from jutrel.service.context import Here, Shop
from jutrel.service.inspection.record import CAUTION, record_bytes
from jutrel.service.site.languages import Languages
from jutrel.store.queries import log as log_store
from jutrel.store.queries import photos as photo_store
from jutrel.store.queries import projections

if TYPE_CHECKING:  # what draws takes long to load, and only the processes that print need it
    from jutrel.exchange.press import RecordWords

MOST_KEPT_BYTES = 48_000_000


@dataclass(frozen=True, slots=True)
class Paper:
    """All that a record on paper is made of, as it is sent to the process that makes it.

    `photos` by id and who took them; `texts`: a folder of languages of the site's own; `verdict` as plain data,
    for other words than those of the document.
    """

    document: bytes
    edition: str
    rules: bytes
    photos: Mapping[tuple[str, str], bytes]
    language: str
    texts: Path | None
    verdict: Any


def printed(paper: Paper) -> bytes:
    """A record on paper."""
    from jutrel.exchange.paper import record_pdf

    record = Record.model_validate_json(paper.document)
    edition = _edition(paper.edition, paper.rules)
    wording = languages_of(paper.texts).wording(paper.language)
    read = ""
    if record.language != wording.language:
        read = record.verdict.why
        record = _in_other_words(record, edition, decode(Verdict, paper.verdict, "verdict"), wording)
    authors = {e.what["photo"]: e.by for e in record.entries if e.kind == "photographed"}
    photos = {p: paper.photos[p, by] for p, by in authors.items() if (p, by) in paper.photos}
    drawing = plan_drawing(edition.model)
    words = words_of(edition.rulebook, wording)
    return record_pdf(record, edition.model, drawing, photos, words, wording, read)


_LOADED: OrderedDict[str, Edition] = OrderedDict()
MOST_LOADED = 4


def _edition(name: str, rules: bytes) -> Edition:
    """Rules that this process has read before are not read again."""
    if name not in _LOADED:
        edition = load_edition(rules)
        _LOADED[name] = edition if edition.model.parts else redrawn(catalog().drawings, edition)
        if len(_LOADED) > MOST_LOADED:
            _LOADED.popitem(last=False)
    return _LOADED[name]


@cache
def languages_of(texts: Path | None) -> Languages:
    """The languages of a folder, read once by each process."""
    return Languages(texts)


def words_of(book: Rulebook, wording: Wording) -> RecordWords:
    """The names that a rulebook has for what findings hold as ids."""
    from jutrel.exchange.press import RecordWords

    return RecordWords(
        {m.id: wording.word("failure", m.name) for m in book.modes.values()},
        {a.id: wording.word("question", a.ask) for a in book.attributes.values()},
        {(a.id, c.id): wording.word("choice", c.label) for a in book.attributes.values() for c in a.choices},
    )


def _in_other_words(record: Record, edition: Edition, verdict: Verdict, wording: Wording) -> Record:
    """A record in another language than it was signed in: its verdict, and the names of the rules it is bound to."""
    places = {c.id: c for c in walk_of(edition.model, frozenset(edition.model.options)).checkpoints}
    said = {key: wording.say(level.judgement.action) for key, level in verdict.levels}
    kind = edition.kinds.get(record.kind)

    def row(c: RecordCheckpoint) -> RecordCheckpoint:
        if (place := places.get(c.id)) is None:
            return c
        name, system = wording.word("checkpoint", place.name), wording.word("system", place.system.name)
        return c.model_copy(update={"name": name, "system": system, "note": said.get(c.id, c.note)})

    return record.model_copy(
        update={
            "machine": record.machine.model_copy(update={"family": wording.word("family", edition.model.family.name)}),
            "kind_name": wording.word("inspection", kind.name) if kind else record.kind_name,
            "caution": wording.say(CAUTION),
            "checkpoints": [row(c) for c in record.checkpoints],
            "verdict": RecordVerdict.model_validate(spoken(verdict, wording)),
        }
    )


@dataclass(frozen=True, slots=True)
class Wanted:
    """A record that somebody wants on paper: printed already, or what it is to be made of."""

    machine: str
    name: str
    """Another for other content."""
    data: bytes | None
    paper: Paper | None = None


class Papers:
    """Records that were printed, by what they are made of: a signed one is made once."""

    def __init__(self) -> None:
        self._kept: OrderedDict[str, bytes] = OrderedDict()

    async def wanted(self, here: Here, look_id: str, language: str = "en") -> Wanted:
        """A look's record for a reader. As long as it is signed, nothing is worked out for it here."""
        photos = await photo_store.photo_ids_of(here.db, here.site.id, look_id)
        signed = await _signed(here, look_id)
        if signed is not None:
            machine, signature = signed
            name = _name(signature, language, photos)
            if name in self._kept:
                return Wanted(machine, name, self._kept[name])
            found = await log_store.record_of(here.db, here.site.id, signature)
            assert found is not None
            document, verdict = found
            edition = _edition_of(document)
        else:
            document, s = await record_bytes(here, look_id, here.books.languages.wording(language))
            machine, edition, verdict = s.unit.id, s.heard.look.pins.edition, encode(s.verdict)
            name = _name(hashlib.sha256(document).hexdigest(), language, photos)
            if name in self._kept:
                return Wanted(machine, name, self._kept[name])
        pictures = {(p.id, p.by): p.data for p in await photo_store.photos_of(here.db, here.site.id, look_id)}
        rules = await here.books.edition_content(here.db, edition)
        return Wanted(
            machine, name, None, Paper(document, edition, rules, pictures, language, here.books.texts, verdict)
        )

    async def pdf(self, shop: Shop, wanted: Wanted) -> bytes:
        """A record on paper, made beside the server if it is new."""
        if wanted.data is not None:
            self._kept.move_to_end(wanted.name)
            return wanted.data
        assert wanted.paper is not None
        made = await shop.aside.run(printed, wanted.paper)
        self._kept[wanted.name] = made
        while len(self._kept) > 1 and sum(map(len, self._kept.values())) > MOST_KEPT_BYTES:
            self._kept.popitem(last=False)
        return made


def _name(content: str, language: str, photos: Sequence[tuple[str, str]]) -> str:
    return json.dumps([content, language, photos])


def _edition_of(document: bytes) -> str:
    """The edition that a kept document goes by.

    The document is long and is read where it is printed; in it only the outermost fields stand one space in.
    """
    found = re.search(rb'^ "edition": "([0-9a-f]+)"', document, re.MULTILINE)
    assert found is not None
    return found[1].decode()


async def _signed(here: Here, look_id: str) -> tuple[str, str] | None:
    """Machine and signature of a look that is signed and was signed once."""
    rows = await projections.looks_of(here.db, here.site.id, ids={look_id})
    if not rows or rows[0][1].status is not Status.SIGNED:
        return None
    signatures = await log_store.signatures_of(here.db, here.site.id, look_id)
    if len(signatures) != 1:  # one may have been taken back: the log says which stands
        return None
    return rows[0][0], signatures[0]
