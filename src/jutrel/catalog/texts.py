"""Languages: what the catalog and the code say, in each language that has files of its own.

A language is a folder named by its code (BCP 47): `sentences.po` holds what the server says, keyed by the
English sentence, `interface.json` what the pages say. English is in the catalog, the code and the pages.
"""

from __future__ import annotations

import ast
import dataclasses
import hashlib
import json
import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from string import Formatter
from typing import Any

from babel import Locale, UnknownLocaleError
from babel.messages.catalog import Catalog as Messages
from babel.messages.pofile import read_po, write_po
from babel.numbers import get_decimal_symbol

from jutrel.catalog.whole import FOLDER, Catalog
from jutrel.core.wording import ENGLISH, Wording, worded_fields

TEXTS = FOLDER / "texts"
ROOT = FOLDER.parent
SENTENCE_AT = {
    "say": 0,
    "BadInput": 1,
    "Problem": 1,
    "NotFound": 1,
    "NotSignedIn": 1,
    "NotAllowed": 1,
    "Conflict": 1,
    "TooSoon": 1,
    "No": 1,
    "refuse": 1,
    "BadFile": 3,
}
"""Calls whose argument at that place is a sentence for people."""


@dataclass(frozen=True, slots=True)
class Sentence:
    """Something that is said: its context, its English form, and the one for other numbers than one."""

    context: str
    text: str
    many: str = ""

    @property
    def places(self) -> frozenset[str]:
        """Names of the values it has places for."""
        return places_of(self.text) | places_of(self.many)


def places_of(text: str) -> frozenset[str]:
    """Names of the places in a sentence.

    >>> sorted(places_of("{n} left, next: {name}"))
    ['n', 'name']
    """
    return frozenset(name for _, name, _, _ in Formatter().parse(text) if name)


def has_words(text: str) -> bool:
    """Whether there is anything to translate beside the places.

    >>> has_words("{names}. {why}"), has_words("{n} left")
    (False, True)
    """
    return bool(re.search(r"[^\W\d_]", re.sub(r"\{[^{}]*\}", "", text)))


def _literal(node: ast.expr | None) -> str:
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""


def sentences_in_code(root: Path = ROOT) -> Iterator[Sentence]:
    """Every sentence that the code says, as it stands there in quotes."""
    for path in sorted(root.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(node, ast.Call):
                continue
            name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
            at = SENTENCE_AT.get(name)
            if at is None or len(node.args) <= at:
                continue
            named = {k.arg: k.value for k in node.keywords}
            # One word of a choice between two sentences counts for itself: `say("a") if x else say("b")` is two calls.
            text = _literal(node.args[at])
            context, many = _literal(named.get("context")), _literal(named.get("many"))
            if text and has_words(text):
                yield Sentence(context if name == "say" else "", text, many if name == "say" else "")


def sentences_in_catalog(catalog: Catalog) -> Iterator[Sentence]:
    """Every text of the catalog that people read, with its context."""
    seen: set[int] = set()

    def walk(thing: Any, context: str) -> Iterator[Sentence]:
        if isinstance(thing, str):
            if context and has_words(thing):
                yield Sentence(context, thing)
        elif dataclasses.is_dataclass(thing) and not isinstance(thing, type):
            if id(thing) in seen:
                return
            seen.add(id(thing))
            for name, of in worded_fields(type(thing)):
                yield from walk(getattr(thing, name), of)
        elif isinstance(thing, Mapping):
            for value in thing.values():
                yield from walk(value, context)
        elif isinstance(thing, (list, tuple)):
            for value in thing:
                yield from walk(value, context)

    yield from walk(catalog, "")


def all_sentences(catalog: Catalog) -> tuple[Sentence, ...]:
    """Everything that is said, each once, in the order of context and text."""
    once: dict[tuple[str, str], Sentence] = {}
    for sentence in (*sentences_in_code(), *sentences_in_catalog(catalog)):
        have = once.get((sentence.context, sentence.text))
        once[sentence.context, sentence.text] = sentence if have is None or sentence.many else have
    return tuple(once[key] for key in sorted(once))


def template(sentences: Iterable[Sentence], language: str = "", have: Wording = ENGLISH) -> Messages:
    """The sentences as a translation file, with what a language has already."""
    made = Messages(locale=_locale(language), fuzzy=False)
    for s in sentences:
        told = have.texts.get((s.context, s.text), ())
        id_: Any = (s.text, s.many) if s.many else s.text
        string: Any = tuple(told) if s.many else (told[0] if told else "")
        made.add(id_, string, context=s.context or None)
    return made


def _locale(language: str) -> Locale | None:
    try:
        return Locale.parse(language, sep="-") if language else None
    except (UnknownLocaleError, ValueError):
        return None


HEADER = """# {about}
msgid ""
msgstr ""
"Language: {language}\\n"
"Content-Type: text/plain; charset=utf-8\\n"
"Content-Transfer-Encoding: 8bit\\n"
"Plural-Forms: {plural}\\n"

"""


def write_translation(messages: Messages, path: Path) -> None:
    """Write a translation file: the same bytes for the same sentences."""
    about = "What the server says, by the English sentence. Sentences without a translation are shown in English."
    header = HEADER.format(about=about, language=messages.locale_identifier or "", plural=messages.plural_forms)
    with path.open("wb") as out:
        out.write(header.encode())
        write_po(out, messages, omit_header=True, sort_output=True, width=0, ignore_obsolete=True)


def _plural(messages: Messages) -> str:
    return str(messages.plural_expr).strip("()") or "n != 1"


def read_wording(folder: Path) -> Wording:
    """A language's sentences; those with a place missing or too much are left out, so that no value is lost."""
    path = folder / "sentences.po"
    if not path.exists():
        return Wording(folder.name)
    with path.open("rb") as source:
        messages = read_po(source)
    texts: dict[tuple[str, str], tuple[str, ...]] = {}
    for message in messages:
        if not message.id or message.fuzzy:
            continue
        ids = message.id if isinstance(message.id, tuple) else (message.id,)
        forms = message.string if isinstance(message.string, tuple) else (message.string,)
        wanted = places_of(str(ids[0])) | places_of(str(ids[-1]))
        told = tuple(str(form) for form in forms)
        if told and all(told) and all(places_of(form) <= wanted for form in told) and places_of(told[-1]) == wanted:
            texts[message.context or "", str(ids[0])] = told
    return Wording(folder.name, texts, _plural(messages), _decimal(folder.name))


def _decimal(language: str) -> str:
    locale = _locale(language)
    return get_decimal_symbol(locale) if locale else "."


def _flat(told: Any, under: str = "") -> Iterator[tuple[str, str]]:
    """The texts of an interface file by their path."""
    if isinstance(told, Mapping):
        for key, value in told.items():
            yield from _flat(value, f"{under}.{key}" if under else str(key))
    elif isinstance(told, str):
        yield under, told


@dataclass(frozen=True)
class Language:
    """A language: its sentences, the pages' texts as they are in its file, and its name in itself."""

    wording: Wording
    interface: bytes
    name: str

    @property
    def tag(self) -> str:
        """What names the pages' texts: another for other texts."""
        return hashlib.sha256(self.interface).hexdigest()[:20]

    @property
    def pages(self) -> dict[str, str]:
        """The pages' texts by their path."""
        return dict(_flat(json.loads(self.interface)))


def read_language(folder: Path) -> Language:
    """A language from its folder; either of its two files may be missing."""
    path = folder / "interface.json"
    interface = path.read_bytes() if path.exists() else b"{}"
    name = json.loads(interface).get("name", folder.name)
    return Language(read_wording(folder), interface, str(name))


@lru_cache(maxsize=4)
def read_languages(more: Path | None = None) -> Mapping[str, Language]:
    """All languages by their codes: English, those that ship, and those in a folder of the site's own."""
    found = {"en": Language(ENGLISH, (TEXTS / "en" / "interface.json").read_bytes(), "English")}
    for folder in (TEXTS, more):
        for path in sorted(folder.iterdir()) if folder is not None and folder.is_dir() else ():
            if path.is_dir() and path.name != "en" and re.fullmatch(r"[a-z]{2,3}(-[A-Za-z0-9]{2,8})*", path.name):
                found[path.name] = read_language(path)
    return found


def lacking(language: Language, catalog: Catalog) -> tuple[list[Sentence], list[str], int, int]:
    """What a language has no words for: sentences, paths of the pages' texts, and of how many of each."""
    texts = language.wording.texts
    english = read_languages()["en"].pages
    own = language.pages
    every = _every(id(catalog), catalog)
    missing = [] if language.wording.language == "en" else [s for s in every if (s.context, s.text) not in texts]
    return missing, [path for path in english if path not in own], len(every), len(english)


_EVERY: dict[int, tuple[Sentence, ...]] = {}


def _every(key: int, catalog: Catalog) -> tuple[Sentence, ...]:
    """All sentences of a catalog; reading the code for them takes a second, so it is done once."""
    if key not in _EVERY:
        _EVERY.clear()
        _EVERY[key] = all_sentences(catalog)
    return _EVERY[key]
