"""One word a thing in every language, sentences that a tired person reads once, and names that a search finds."""

from __future__ import annotations

import re

import pytest

from jutrel.catalog.texts import all_sentences, read_languages
from jutrel.core.glossary import others_for
from tests.catalog.reading_ease import ease, sentences, syllables
from tests.conftest import CATALOG

QUOTED = ("source", "regime", "also called")
"""What quotes a law or is there to be searched for, not read."""
LANGUAGES = read_languages()
ENGLISH = [s.text for s in all_sentences(CATALOG) if s.context not in QUOTED]
PAGES = {
    code: [t for text in LANGUAGES[code].pages.values() for t in re.split(r" / | \| ", text)] for code in ("en", "es")
}
SPANISH = [form for (ctx, _), forms in LANGUAGES["es"].wording.texts.items() if ctx not in QUOTED for form in forms]
MOST_WORDS, MOST_LONG = 20, 8


def uses(word: str, text: str) -> bool:
    return re.search(rf"\b{re.escape(word)}\b", text, re.IGNORECASE) is not None


def test_no_other_word_is_printed_for_a_thing() -> None:
    never = [w for t in CATALOG.glossary for w in t.never]
    nunca = [w for t in CATALOG.glossary for w in t.nunca] + ["coge", "la arranca"]
    assert len(never) > 5
    assert len(nunca) > 15
    assert [(w, t) for w in never for t in [*ENGLISH, *PAGES["en"]] if uses(w, t)] == []
    assert [(w, t) for w in nunca for t in [*SPANISH, *PAGES["es"]] if uses(w, t)] == []


@pytest.mark.parametrize(
    ("family", "said", "checkpoint"),
    [
        ("wheel-loader", "parking brake", "brake-pedal"),
        ("wheel-loader", "battery disconnect", "isolator"),
        ("wheel-loader", "lug nut", "wheel-nuts-front-left"),
        ("wheel-loader", "tire", "tyre-front-left"),
        ("wheel-loader", "urea", "def-level"),
        ("motor-grader", "moldboard", "mouldboard"),
        ("crawler-excavator", "stick", "arm"),
        ("crawler-excavator", "backup alarm", "alarm-unit"),
    ],
)
def test_what_else_people_say_finds_it(family: str, said: str, checkpoint: str) -> None:
    c = next(c for c in CATALOG.families[family].checkpoints if c.id == checkpoint)
    assert said in [*others_for(c.name, CATALOG.glossary, "en"), *c.also]


def test_sentences_are_short() -> None:
    """Twenty words at most; a handful that explain a refusal to whoever runs the server may be longer."""
    long = {x for t in [*ENGLISH, *PAGES["en"]] for x in sentences(t) if len(re.findall(r"[\w'’-]+", x)) > MOST_WORDS}
    assert len(long) <= MOST_LONG, sorted(long)


def test_the_measure_agrees_with_its_authors_table() -> None:
    """Flesch 1948: 'very easy' is over 90, 'difficult' under 50; syllables by hand."""
    assert [syllables(w, "en") for w in ("stop", "engine", "operator")] == [1, 2, 4]
    assert [syllables(w, "es") for w in ("motor", "cucharón", "persona")] == [2, 3, 3]
    assert ease("The engine is off. Look at the oil.", "en") > 90
    assert ease("Administrative responsibilities necessitate comprehensive documentation.", "en") < 0


@pytest.mark.parametrize(("language", "least"), [("en", 90.0), ("es", 80.0)])
def test_what_people_read_is_easy(language: str, least: float) -> None:
    """The whole of it, and each text of six words; under 50 is 'difficult' in both tables."""
    texts = [*(ENGLISH if language == "en" else SPANISH), *PAGES[language]]
    read = [t for t in texts if len(t.split()) >= 6]
    mean = sum(ease(t, language) for t in read) / len(read)
    assert mean > least
    hard = sorted((round(ease(t, language)), t) for t in read if ease(t, language) < 50)
    assert len(hard) <= 12, hard  # what names methods and standards


NEGATIVE = re.compile(r"\b(not|no|nobody|nothing|never|none|neither|nor|without|cannot|nowhere)\b", re.IGNORECASE)
LIST = re.compile(r"[,;:.!?]|\b(?:and|or)\b")
"""What parts the things of a list: 'no crack, no play' says one thing twice."""


def test_nobody_has_to_turn_two_negatives_over() -> None:
    """One negative in a clause is enough; a handful of errors, told to whoever writes the catalog, remain."""
    found = {
        clause.strip()
        for text in [*ENGLISH, *PAGES["en"]]
        for clause in LIST.split(re.sub(r"\{[^}]*\}", "it", text))
        if len(NEGATIVE.findall(clause)) > 1
    }
    assert len(found) <= 8, sorted(found)
