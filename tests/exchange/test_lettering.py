"""Names and notes in any script stand on paper, can be searched for, and nothing is left blank."""

from __future__ import annotations

import io
import re
import unicodedata
import uuid

import pypdfium2 as pdfium
import pytest
from bidi import get_display
from hypothesis import given
from hypothesis import strategies as st
from reportlab.pdfgen.canvas import Canvas

from jutrel.exchange.lettering import MISSING, fonts, in_order, lines, visible
from tests.api.conftest import Tablets
from tests.device import Device

NAMES = {
    "Greek": "Ελένη Παπαδάκη",
    "Polish": "Łucja Źdźbło-Świątek",
    "Arabic": "خالد المهندس",
    "Cyrillic": "Юлия Щербакова",
}


def text_of(pdf: bytes) -> str:
    """What a reader of the PDF finds when it is searched."""
    pages = pdfium.PdfDocument(pdf)
    return " ".join(page.get_textpage().get_text_range() for page in pages)


def found(words: str, pdf: bytes) -> bool:
    """Whether a viewer's own search finds the words."""
    return any(page.get_textpage().search(words).get_next() is not None for page in pdfium.PdfDocument(pdf))


@pytest.mark.parametrize("script", NAMES)
def test_whoever_signs_can_be_searched_for(tablets: Tablets, script: str) -> None:
    name = NAMES[script]
    rolf = tablets()
    rolf.sign_in("Rolf")
    person = str(uuid.uuid4())
    body = {"id": person, "name": name, "role": "operator", "pin": "8642"}
    assert rolf.http.post("/api/people", json=body).status_code == 201
    me = tablets()
    signed_in = me.http.post(
        "/api/session", json={"person": person, "pin": "8642", "new_pin": "730418", "device": me.name}
    ).json()
    me.by, me.pens[person] = person, signed_in["pen"]["secret"]
    note = f"12 mm, {name} 王"
    worn = {"answer": "defect", "findings": [{"failure_mode": "wear", "attributes": {"wear": "half"}, "note": note}]}
    look = me.whole("ex-04", {"teeth": worn})
    for language in ("en", "es"):
        pdf = me.pdf(look, language=language)
        told = text_of(pdf)
        assert found(name, pdf), (script, language)
        # Three times: who answered, the note at its row, the signature.
        assert len(re.findall(re.escape(name.split()[0]), told)) >= 3 or script == "Arabic"
        assert MISSING in told  # the letter that the font has no picture of is not left blank
        assert "12 mm" in told
    assert found("Signed by", me.pdf(look, language="en"))
    assert found("Firmado por", me.pdf(look, language="es"))


def test_a_record_read_in_another_language_tells_what_was_signed(tablet: Device) -> None:
    inspection = tablet.new_id()
    tablet.send("ex-04", inspection, tablet.walk("ex-04"))
    sign = tablet.signature(inspection)
    sign["what"]["language"] = "es"
    assert tablet.send("ex-04", inspection, [sign]).json()["refused"] == []
    address = f"/api/inspections/{inspection}/record"
    document = tablet.http.get(f"{address}.json", params={"language": "en"}).json()
    assert document["language"] == "es"
    assert document["verdict"]["why"].startswith("Nada se opone a arrancarla.")
    told = " ".join(text_of(tablet.http.get(f"{address}.pdf", params={"language": "en"}).content).split())
    assert "Nothing stands against starting it." in told
    assert "In the words that were read when it was signed: Nada se opone a arrancarla." in told
    spanish = " ".join(text_of(tablet.http.get(f"{address}.pdf", params={"language": "es"}).content).split())
    assert "In the words" not in spanish
    assert "Con las palabras" not in spanish
    assert "Todos los puntos de control" in spanish


def test_lines_keep_the_order_of_their_words() -> None:
    """Broken by width first and turned round after: the first word of a text stands in its first line."""
    words = ["مضخة", "الزيت", "الرئيسية", "تسرب", "عند", "الوصلة", "اليسرى", "منذ", "الصباح"]
    out = lines(" ".join(words * 3), "Body", 9, 120).split("<br/>")
    assert len(out) > 3
    back = " ".join(get_display(unicodedata.normalize("NFKC", line)) for line in out)
    assert back.replace("\u00a0", " ").split() == words * 3


@given(st.text(max_size=80))
def test_every_letter_is_drawn_or_marked(text: str) -> None:
    have = fonts()["Body"].face.charToGlyph
    shown = visible(text)
    assert all(ord(c) in have or c in "\n\t\u00a0" for c in shown)
    letters = [c for c in unicodedata.normalize("NFC", text) if not unicodedata.category(c).startswith("C")]
    assert len(shown) >= len(letters)
    canvas = Canvas(io.BytesIO())
    canvas.setFont("Body", 9)
    canvas.drawString(10, 10, in_order(shown))
    canvas.save()
