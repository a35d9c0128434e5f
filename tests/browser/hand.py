"""A person with a tablet: what one does with the real interface, in the words of the work."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

from playwright.sync_api import Locator, Page, expect

from jutrel.catalog import catalog
from jutrel.catalog.texts import read_languages
from jutrel.core.machine.family import SystemClass
from jutrel.demo.story import PIN

ROOT = Path(__file__).resolve().parents[2]
AXE = (ROOT / "web/node_modules/axe-core/axe.min.js").read_text()


class Hand:
    """Taps what the pages say in one language."""

    def __init__(self, page: Page, language: str = "en") -> None:
        self.page = page
        self._texts = read_languages()[language].pages
        self._wording = read_languages()[language].wording
        self.errors: list[str] = []
        page.on("pageerror", lambda e: self.errors.append(str(e)))

    def say(self, path: str, **values: object) -> str:
        """A text of the pages in the hand's language."""
        return self._texts[path].format(**values)

    def word(self, context: str, text: str) -> str:
        """Words of the catalog in the hand's language."""
        return self._wording.word(context, text)

    def tap(self, name: str) -> None:
        self.page.locator(f"[data-test={name}]").click()

    def see(self, name: str) -> Locator:
        return self.page.locator(f"[data-test={name}]")

    def sign_in(self, name: str = "Mira Tolland", pin: str = PIN) -> None:
        self.page.goto("/")
        self.page.get_by_role("button", name=name).click()
        self.type_pin(pin)
        self.page.get_by_role("heading", name=self.say("today.title")).wait_for()
        self.page.locator("nav a[href='/']").click()
        self.page.get_by_role("heading", name=self.say("yard.title")).wait_for()

    def type_pin(self, pin: str) -> None:
        """A PIN on the pad of the sign-in page."""
        for digit in pin:
            self.page.get_by_role("button", name=digit, exact=True).click()
        self.tap("enter")

    def pin_again(self, pin: str = PIN) -> None:
        """Give the PIN again in the dialog that asks for it."""
        pad = self.see("pin-again")
        for digit in pin:
            pad.get_by_role("button", name=digit, exact=True).click()
        pad.get_by_test_id("enter").click()

    def sign_out(self) -> None:
        self.page.get_by_role("button", name=self.say("shell.out")).click()
        self.page.get_by_role("heading", name=self.say("signIn.title")).wait_for()

    def begin(self, machine: str) -> None:
        where = self.page.locator(f"[data-test=bay-{machine}], [data-test=row-{machine}]")
        where.get_by_role("link", name=re.compile(self.say("yard.walk").split()[0])).click()
        self.tap("begin")
        self.see("panel").wait_for()

    def begin_at(self, machine: str) -> None:
        """As `begin`, from the machine's own page."""
        self.page.goto(f"/machines/{machine}/start")
        self.tap("begin")
        self.see("panel").wait_for()

    def place(self, family: str, checkpoint: str) -> str:
        """The station at which a checkpoint is looked at."""
        return next(c.station for c in catalog().families[family].checkpoints if c.id == checkpoint)

    def life(self, family: str, checkpoint: str) -> bool:
        """Whether a life depends on a checkpoint."""
        found = next(c for c in catalog().families[family].checkpoints if c.id == checkpoint)
        return found.kind is SystemClass.LIFE

    def station(self, station: str) -> None:
        """To another station by a tap on the plan, even if something should come first."""
        anyway = self.see("go-anyway")
        expect(anyway).to_be_hidden()
        self.see(f"st-{station}").dispatch_event("click")
        expect(anyway.or_(self.page.locator(f".panel[data-station={station}]")).first).to_be_visible()
        if anyway.is_visible():
            anyway.click()
            expect(anyway).to_be_hidden()
        self.stands_at(station)

    def stands_at(self, station: str) -> None:
        expect(self.see("panel")).to_have_attribute("data-station", station)

    def where(self) -> str:
        return str(self.see("panel").get_attribute("data-station"))

    def card(self, checkpoint: str) -> Locator:
        return self.page.locator(f"[data-test=cp-{checkpoint}]")

    def cards(self) -> list[str]:
        found = self.page.locator(".panel article").all()
        return [str(c.get_attribute("data-test"))[3:] for c in found]

    def sound(self, checkpoint: str) -> None:
        button = self.card(checkpoint).get_by_role("button", name=self.say("card.sound"), exact=True)
        button.click()
        expect(button).to_have_attribute("aria-pressed", "true")

    def unseen(self, checkpoint: str, why: str) -> None:
        self.card(checkpoint).get_by_role("button", name=self.say("card.unseen")).click()
        self.page.get_by_label(self.say("walk.why")).fill(why)
        self.tap("save-text")

    def defect(
        self, checkpoint: str, mode: str, choice: str, *more: str, photo: Path | None = None, note: str = ""
    ) -> None:
        self.card(checkpoint).get_by_role("button", name=self.say("card.defect"), exact=True).click()
        section = self.see(f"mode-{mode}")
        section.get_by_role("button", name=choice, exact=True).click()
        for name in more:
            section.get_by_role("button", name=name, exact=True).click()
        if note:
            self.page.get_by_role("textbox", name=self.say("defect.note")).fill(note)
        if photo:
            self.see("photo").set_input_files(photo)
            self.tap("photo-keep")
            expect(self.page.get_by_text(self.say("defect.photoMore", n="").split(" (")[0])).to_be_visible()

    def save(self) -> None:
        self.tap("save-defect")
        expect(self.see("save-defect")).to_be_hidden()

    def take_level(self) -> None:
        for key in ("ArrowUp", "ArrowDown"):  # nobody's reading until the line was moved
            self.see("glass").press(key)
        self.tap("take")
        expect(self.page.get_by_role("button", name=self.say("glass.again"))).to_be_visible()

    def all_sound_here(self, but: tuple[str, ...] = ()) -> None:
        for checkpoint in self.cards():
            if checkpoint in but:
                continue
            if self.card(checkpoint).get_by_test_id("glass").count():
                self.take_level()
            else:
                self.sound(checkpoint)

    def grease(self) -> None:
        """Greases what is due, one place after the other as the drawing leads."""
        here = self.see("grease")
        while here.count() and (left := int(here.get_attribute("data-left") or 0)):
            self.tap("greased")
            expect(here).not_to_have_attribute("data-left", str(left))

    def onward(self) -> None:
        self.tap("onward")

    def all_sent(self) -> None:
        expect(self.see("connection")).to_have_text(self.say("connection.here"))

    def rest_here(self) -> None:
        """Everything at this station that has no answer yet: sound, or the level as read."""
        for checkpoint in self.cards():
            card = self.card(checkpoint)
            if card.get_by_test_id("glass").count():
                if "read" not in str(card.get_attribute("class")).split():
                    self.take_level()
            elif not card.locator("[aria-pressed=true]").count():
                self.sound(checkpoint)

    def keys_here(self) -> None:
        """The same by keyboard: s for sound, on to the next by itself."""
        level = self.page.locator(".panel article.reading:not(.read)")
        if level.count():
            self.take_level()
            self.page.locator("body").click(position={"x": 700, "y": 6})
        todo = self.page.locator(".panel article:not(.reading):not(.sound):not(.defect):not(.unseen)")
        wanted = self.page.locator(".panel article.sound").count() + todo.count()
        for checkpoint in self.cards():
            if not self.card(checkpoint).get_by_test_id("glass").count():
                self.card(checkpoint).get_by_role("button", name=self.say("card.sound"), exact=True).focus()
                self.page.keyboard.press("s")
        expect(self.page.locator(".panel article.sound")).to_have_count(wanted)

    def walk_the_rest(self, by_keys: bool = False) -> list[str]:
        """On and on by the one primary action until the verdict; the stations in the order of the visit."""
        seen = []
        while "/verdict" not in self.page.url:
            here = self.where()
            assert here not in seen, f"sent back to {here}"
            seen.append(here)
            self.keys_here() if by_keys else self.rest_here()
            self.onward()
            expect(self.page.locator(f".panel[data-station={here}]")).to_have_count(0)
        return seen

    def axe(self) -> list[str]:
        """Violations of the accessibility rules on the page as it stands."""
        self.page.evaluate(AXE)
        result: dict[str, Any] = self.page.evaluate("axe.run(document, {resultTypes: ['violations']})")
        return [f"{v['id']}: {n['target']} {n['failureSummary']}" for v in result["violations"] for n in v["nodes"]]

    def small_text(self) -> list[str]:
        """Visible text under 14 px."""
        return list(
            self.page.evaluate("""() => [...document.querySelectorAll('body *')].filter(e => {
            const own = [...e.childNodes].some(n => n.nodeType === 3 && n.textContent.trim());
            if (!own || !e.getClientRects().length || e.closest('.sr-only')) return false;
            const svg = e.closest('svg.map');  // a plan's text is in metres: measure it on the screen
            if (e.closest('svg') && !svg) return false;
            const scale = svg ? svg.getScreenCTM().a : 1;
            return parseFloat(getComputedStyle(e).fontSize) * scale < 13.9;
        }).map(e => e.textContent.trim().slice(0, 40))""")
        )

    def sideways(self) -> int:
        """How far the page can be pushed sideways, px."""
        return int(self.page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth"))

    def small_targets(self) -> list[str]:
        """Buttons too small for a gloved finger."""
        return list(
            self.page.evaluate("""() => 
            [...document.querySelectorAll('button.button, a.button, .level, .title')].filter(e => {
            const r = e.getBoundingClientRect();
            const least = document.documentElement.classList.contains('gloves') ? 63.5 : 55.5;
            return r.width && (r.height < least || r.width < least);
        }).map(e => e.textContent.trim().slice(0, 40))""")
        )
