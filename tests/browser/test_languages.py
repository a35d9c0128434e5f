"""The whole job in Spanish on a phone, a language by files alone, and changing it in the middle of a walk."""

from __future__ import annotations

import json
import re
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import expect

from jutrel.catalog.texts import all_sentences, has_words, read_languages, template, write_translation
from jutrel.core.wording import Wording
from tests.browser.conftest import NewHand
from tests.browser.hand import Hand
from tests.browser.test_fit import check
from tests.conftest import CATALOG, Serve
from tests.deep import DEEP

pytestmark = pytest.mark.browser
READ = """() => {
  const told = [];
  const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walk.nextNode()) {
    const at = walk.currentNode.parentElement;
    if (!at || at.closest('script, style, :not(html)[lang=en]') || !at.getClientRects().length) continue;
    told.push(walk.currentNode.data.trim());
  }
  for (const e of document.querySelectorAll('[aria-label], [placeholder], [title], img[alt]'))
    for (const name of ['aria-label', 'placeholder', 'title', 'alt']) told.push(e.getAttribute(name) ?? '');
  return [...new Set(told.filter(Boolean))];
}"""


@cache
def english() -> tuple[re.Pattern[str], frozenset[str]]:
    """English sentences that are said otherwise in Spanish: longer ones wherever they stand, short ones as a whole."""
    spanish = read_languages()["es"]
    pairs = [(s.text, spanish.wording.texts[s.context, s.text][0]) for s in all_sentences(CATALOG)]
    pairs += [(text, spanish.pages[path]) for path, text in read_languages()["en"].pages.items()]
    own = {part.strip() for _, text in pairs for part in text.split("|")}
    longer, short = set(), set()
    for text, other in pairs:
        for part in text.split("|"):
            plain = re.sub(r"\{[^}]*\}", "\0", part.strip())
            if part.strip() in own or text == other or not has_words(part):
                continue
            pieces = [p.strip() for p in plain.split("\0") if len(p.split()) >= 3]
            longer.update(pieces)
            if "\0" not in plain:
                short.add(plain)
    return re.compile("|".join(re.escape(p) for p in sorted(longer, key=len, reverse=True))), frozenset(short)


def in_english(me: Hand) -> list[str]:
    """What a page says in English, by the list of everything that can be said."""
    longer, short = english()
    told: list[str] = me.page.evaluate(READ)
    return [t for t in told if t in short or longer.search(t)]


def test_the_list_of_english_words_finds_them(bare: str, serve: Serve, hand: NewHand) -> None:
    me = hand(serve(bare))
    me.sign_in()
    assert len(in_english(me)) > 5


@pytest.mark.skipif(not DEEP, reason="a whole job once more: make test-deep")
def test_the_whole_job_in_spanish_on_a_phone(bare: str, serve: Serve, hand: NewHand, tmp_path: Path) -> None:
    me = hand(serve(bare, JUTREL_DEMO_PIN="2468"), 390, 844, language="es")

    def fits(view: str) -> None:
        assert in_english(me) == [], view
        check(me, view)

    me.page.goto("/")
    me.page.get_by_role("button", name="Mira Tolland").wait_for()
    fits("sign-in")
    me.sign_in()
    me.see("row-ex-01").wait_for()
    fits("yard")
    me.page.goto("/machines/ex-01/where")
    me.page.get_by_role("textbox").first.fill("separador")
    expect(me.see("found")).to_contain_text("Separador de agua del combustible")
    fits("where")
    me.page.goto("/")
    me.begin("ex-01")
    fits("walk")
    me.tap("look")
    fits("this walk")
    me.page.keyboard.press("Escape")
    me.tap("way")
    me.page.get_by_role("dialog").wait_for()
    fits("the way")
    me.page.keyboard.press("Escape")
    me.all_sound_here()
    me.station("equipment")
    me.defect("equipment-hoses", "leak", "Mojado o manchado, sin gota", "Un acoplamiento de cara plana con anillo")
    expect(me.see("preview")).to_contain_text("Apretar no lo sella")
    fits("defect")
    me.save()
    me.station("under-rear")
    me.unseen("drive-covers", "agua")
    me.station("front-right")
    me.see("pitch").get_by_role("spinbutton").fill("4")
    me.page.keyboard.press("Tab")
    expect(me.see("judgement")).to_contain_text("Lleve la máquina a terreno llano")
    me.see("pitch").get_by_role("spinbutton").fill("0")
    me.page.keyboard.press("Tab")
    me.take_level()
    expect(me.see("judgement")).to_contain_text(re.compile("Bien|Bajo|lleno"))
    fits("glass")
    me.walk_the_rest()
    me.all_sent()
    expect(me.see("outcome")).to_have_text("Limitada")
    me.see("item-equipment-hoses").get_by_role("button").first.click()
    fits("verdict")
    me.tap("sign")
    fits("signing")
    me.tap("sign-now")
    expect(me.page.get_by_role("heading", name="Registro de EX-01")).to_be_visible()
    me.page.get_by_role("button", name=re.compile("^Las .* anotaciones")).click()
    fits("record")
    me.page.goto("/records")
    me.page.get_by_role("link", name="EX-01").first.wait_for()
    fits("records")
    me.page.goto("/machines/ex-01")
    me.see("meter").wait_for()
    fits("machine file")
    me.page.goto("/languages")
    expect(me.see("lacking-es")).to_contain_text("No falta nada")
    fits("languages")
    assert me.errors == []
    # What was signed keeps the words that were read; on paper it is read in the reader's own.
    look = me.page.request.get("/api/inspections").json()["inspections"][0]["id"]
    record = me.page.request.get(f"/api/inspections/{look}/record.json", headers={"Accept-Language": "en"}).json()
    assert record["language"] == "es"
    assert record["verdict"]["why"].startswith("Solo trabaja dentro de límites")


def test_a_language_by_files_alone_and_changed_in_the_middle_of_a_walk(
    bare: str, serve: Serve, hand: NewHand, tmp_path: Path
) -> None:
    """A made-up language: every English vowel doubled. The server is given the folder, nothing else is built."""
    folder = tmp_path / "texts" / "qx"
    folder.mkdir(parents=True)

    def doubled(text: str) -> str:
        return re.sub(r"(\{[^}]*\})|([aeiou])", lambda m: m[1] or m[2] * 2, text)

    def inner(group: dict[str, Any]) -> dict[str, Any]:
        return {name: doubled(t) if isinstance(t, str) else t for name, t in group.items()}

    every = all_sentences(CATALOG)
    texts = {(s.context, s.text): tuple(doubled(t) for t in (s.text, s.many) if t) for s in every[:-5]}
    write_translation(template(every, "qx", Wording("qx", texts)), folder / "sentences.po")
    pages = json.loads(read_languages()["en"].interface)
    pages = {k: v if isinstance(v, str) else inner(v) for k, v in pages.items()}
    pages["name"] = "Quuxian"
    del pages["people"]
    (folder / "interface.json").write_text(json.dumps(pages))

    me = hand(serve(bare, JUTREL_TEXTS=str(folder.parent)))
    me.sign_in()
    me.begin("ex-01")
    me.sound("stance")
    me.tap("look")
    me.tap("language")
    me.tap("language-qx")
    me.see("panel").wait_for()
    card = me.card("stance")
    expect(card).to_contain_text(doubled("Stance and ground"))
    expect(card.get_by_role("button", name=doubled("Sound"), exact=True)).to_have_attribute("aria-pressed", "true")
    expect(me.page.locator("html")).to_have_attribute("lang", "qx")
    me.page.goto("/languages")
    lacks = me.see("lacking-qx")
    expect(lacks).to_contain_text("Quuxian")
    lacks.locator("summary").first.click()
    expect(lacks).to_contain_text("people.title")
    lacks.locator("summary").last.click()
    expect(lacks).to_contain_text(every[-1].text)
    # The person reads it on the next device, too.
    other = hand(me.page.url.rsplit("/", 1)[0])
    other.page.goto("/")
    other.page.get_by_role("button", name="Mira Tolland").click()
    for digit in "2468":
        other.page.get_by_role("button", name=digit, exact=True).click()
    other.tap("enter")
    expect(other.page.get_by_role("heading", name=doubled("Today"))).to_be_visible()
    assert me.errors == []
