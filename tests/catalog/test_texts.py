"""Every sentence has its words in every language that ships, each value its place, and no text is left over."""

from __future__ import annotations

import ast
import importlib
import pkgutil
import re
from collections.abc import Iterator
from dataclasses import fields, is_dataclass
from pathlib import Path
from typing import get_type_hints

import pytest
from babel import Locale
from babel.messages.pofile import read_po
from hypothesis import given
from hypothesis import strategies as st

import jutrel.core
from jutrel.catalog.texts import (
    ROOT,
    SENTENCE_AT,
    TEXTS,
    all_sentences,
    lacking,
    places_of,
    read_languages,
    read_wording,
    template,
    write_translation,
)
from jutrel.core.wording import AS_WRITTEN, ENGLISH, Number, Said, Wording, context_of, say
from tests.conftest import CATALOG
from tests.conftest import ROOT as PROJECT

SHIPPED = [code for code in read_languages() if code != "en"]
WEB = PROJECT / "web" / "src"
EVERY = all_sentences(CATALOG)


@pytest.mark.parametrize("code", SHIPPED)
def test_nothing_is_missing_and_nothing_left_over(code: str) -> None:
    language = read_languages()[code]
    sentences, pages, of_sentences, of_pages = lacking(language, CATALOG)
    assert (sentences, pages) == ([], [])
    assert of_sentences > 1500
    assert of_pages > 400
    with (TEXTS / code / "sentences.po").open("rb") as source:
        kept = {(m.context or "", str(m.id[0] if isinstance(m.id, tuple) else m.id)) for m in read_po(source) if m.id}
    assert kept == {(s.context, s.text) for s in EVERY}
    assert set(language.pages) == set(read_languages()["en"].pages)


@pytest.mark.parametrize("code", SHIPPED)
def test_every_value_has_its_place(code: str) -> None:
    language = read_languages()[code]
    for s in EVERY:
        forms = language.wording.texts[s.context, s.text]
        assert len(forms) == (1 if not s.many else len(forms)), s
        assert places_of(forms[-1]) == s.places, s
        assert all(places_of(form) <= s.places for form in forms), s
    for path, text in read_languages()["en"].pages.items():
        own = language.pages[path]
        assert places_of(own.replace("|", " ")) == places_of(text.replace("|", " ")), path
        assert own.count("|") == text.count("|"), path


def _calls() -> Iterator[tuple[str, ast.Call, str, bool]]:
    """Calls that say a sentence: where, the call, its name, and whether it stands in a constant of its file."""
    for path in sorted(ROOT.rglob("*.py")):
        tree = ast.parse(path.read_text())
        constant = {id(n) for part in tree.body if isinstance(part, ast.Assign) for n in ast.walk(part)}
        for node in ast.walk(tree):
            if isinstance(node, ast.Call):
                name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
                if name in SENTENCE_AT:
                    yield f"{path.name}:{node.lineno}", node, name, id(node) in constant


def test_who_says_a_sentence_gives_what_it_has_places_for_and_nothing_else() -> None:
    seen = 0
    for where, call, name, constant in _calls():
        at = SENTENCE_AT[name]
        if len(call.args) <= at or not isinstance(call.args[at], ast.Constant):
            continue
        own = {"say": {"many", "context"}, "No": {"again"}}.get(name, {"field", "wait_s", "line"})
        values = {k.arg for k in call.keywords} - own
        many = [k.value for k in call.keywords if k.arg == "many"]
        texts = [str(n.value) for n in [call.args[at], *many] if isinstance(n, ast.Constant)]
        wanted = {place for text in texts for place in places_of(text)}
        if constant and not values:
            continue  # a sentence that is named here and said elsewhere
        assert values - {"n"} == wanted - {"n"}, where
        seen += 1
    assert seen > 250


def test_the_pages_use_every_text_and_none_that_is_not_there() -> None:
    literal: set[str] = set()
    begun: set[str] = set()
    asked: set[str] = set()
    for path in WEB.rglob("*"):
        if path.suffix in (".vue", ".ts") and path.name != "schema.d.ts":
            source = path.read_text()
            # Keys as they are asked for, also within a choice: t(x ? "a.b" : "a.c").
            literal |= set(re.findall(r'["\']([a-z]\w*(?:\.[\w-]+)+|[a-z]+)["\']', source))
            asked |= set(re.findall(r'\bt\(\s*"([\w.-]+)"', source))
            begun |= set(re.findall(r"`([a-z]\w*\.(?:[\w-]+\.)*)\$\{", source))
            begun |= {f"{a}.$.{b}" for a, b in re.findall(r"`([a-z]\w*)\.\$\{[^`]*?\}\.([\w-]+)`", source)}
            begun |= {f"walk.$${b}" for b in re.findall(r"`walk\.\$\{[^`]*?\}(\w+)`", source)}
    pages = read_languages()["en"].pages
    unused = []
    for key in pages:
        if key in literal or key == "name":
            continue
        parts = key.split(".")
        if any(key.startswith(p) and "$" not in p for p in begun):
            continue
        if any("$." in b and key.startswith(b.split("$.")[0]) and key.endswith("." + b.split("$.")[1]) for b in begun):
            continue
        if parts[0] == "walk" and any(key.endswith(b.split("$$")[1]) for b in begun if "$$" in b):
            continue
        unused.append(key)
    assert unused == []
    assert asked - set(pages) == set()


def test_no_words_for_people_are_a_bare_text_in_the_core() -> None:
    """Whatever the core calls a name or a sentence is marked as the catalog's words or said with its values."""
    names = {"name", "says", "why", "action", "label", "ask", "asks", "look", "how", "stance", "posture", "limit"}
    own = {
        "Model.name",
        "Unit.name",
        "SiteInfo.name",
        "AuthorityRow.says",
        "Broken.says",
        "EntryKind.name",
        "Report.look",
        "Case.look",
    }
    bare = set()
    for module in pkgutil.walk_packages(jutrel.core.__path__, "jutrel.core."):
        for kind in vars(importlib.import_module(module.name)).values():
            if isinstance(kind, type) and is_dataclass(kind) and kind.__module__ == module.name:
                hints = get_type_hints(kind, include_extras=True)
                for f in fields(kind):
                    if f.name in names and hints[f.name] in (str, str | None) and not context_of(hints[f.name]):
                        bare.add(f"{kind.__name__}.{f.name}")
    assert bare == own


def test_plural_forms_are_the_languages_own() -> None:
    """Against the plural rules of the Unicode CLDR, as Babel has them."""
    polish = "n==1 ? 0 : n%10>=2 && n%10<=4 && (n%100<12 || n%100>14) ? 1 : 2"
    forms = ("{n} punkt", "{n} punkty", "{n} punktów")
    wording = Wording("pl", {("", "{n} point"): forms}, polish, ",")
    by_rule = {"one": 0, "few": 1, "many": 2}
    rule = Locale.parse("pl").plural_form
    for n in range(250):
        said = wording.say(say("{n} point", many="{n} points", n=n))
        assert said == forms[by_rule[rule(n)]].format(n=n)
        assert ENGLISH.say(say("{n} point", many="{n} points", n=n)) == f"{n} point{'' if n == 1 else 's'}"


WORTH = st.one_of(
    st.text(max_size=20),
    st.integers(-1000, 1000),
    st.builds(Number, st.floats(-1e6, 1e6), st.integers(0, 3), st.sampled_from(["", "h", "L"])),
)
SAIDS = st.recursive(
    st.builds(
        lambda s, v: Said(s.text, tuple((p, v.draw(WORTH)) for p in sorted(s.places)), s.context, s.many),
        st.sampled_from(EVERY),
        st.data(),
    ),
    lambda inner: st.builds(lambda a, b: say("{a}. {b}", a=a, b=(b, a)), inner, inner),
    max_leaves=4,
)


@given(SAIDS)
def test_a_sentence_comes_whole_out_of_a_row_and_can_be_said_in_every_language(said: Said) -> None:
    again = Said.of_plain(said.plain())
    assert again == said
    for language in read_languages().values():
        text = language.wording.say(said)
        assert text == language.wording.say(again)
        assert text


@given(st.text(max_size=60))
def test_what_an_older_release_wrote_stays_as_it_is(text: str) -> None:
    said = Said.of_plain(text)
    assert said.context == AS_WRITTEN
    assert said.plain() == text
    assert all(one.wording.say(said) == text for one in read_languages().values())


def test_words_of_another_sentence_are_never_shown() -> None:
    """A rule of an older edition says something else: it is shown in its own words, not under today's translation."""
    spanish = read_languages()["es"].wording
    rule = next(s for s in EVERY if s.context == "rule" and not s.places)
    assert spanish.word("rule", rule.text) != rule.text
    assert spanish.word("rule", rule.text + " Then.") == rule.text + " Then."


def test_a_translation_that_would_lose_a_value_is_not_used(tmp_path: Path) -> None:
    folder = tmp_path / "qq"
    folder.mkdir()
    wording = Wording("qq", {("", "It loses {loses} an hour."): ("Perdu!",), ("", "Wait"): ("Atendu",)})
    write_translation(template(EVERY, "qq", wording), folder / "sentences.po")
    read = read_wording(folder)
    assert set(read.texts.values()) == {("Atendu",)}
    assert read.say(say("It loses {loses} an hour.", loses=Number(3, 0, "mL"))) == "It loses 3 mL an hour."
