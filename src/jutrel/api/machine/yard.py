"""Routes: the yard and the drawings of what stands in it."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any

from fastapi import APIRouter, Path, Request, Response

from jutrel import __version__
from jutrel.api.cookies import token_of
from jutrel.api.door import PROBLEMS, Who, Work, now, shop_of
from jutrel.api.language import Tongue
from jutrel.api.machine.wire import DrawingOut, SidesOut, YardMachineOut, YardOut
from jutrel.api.wire import MachineOut
from jutrel.core.log.codec import encode
from jutrel.core.machine.drawing import Drawing, side_drawing
from jutrel.core.machine.drawing.part import MachinePart
from jutrel.core.machine.drawing.pen import Outline
from jutrel.core.machine.drawing.views import plan_of
from jutrel.core.machine.model import Model
from jutrel.core.machine.unit import SiteInfo, Unit
from jutrel.core.wording import Wording
from jutrel.service.context import Books, Here
from jutrel.service.machine.models import known_models
from jutrel.service.machine.yard import Bay, Bays, YardMachine, version_of
from jutrel.service.problem import NotFound

router = APIRouter(prefix="/api", responses=PROBLEMS)
NEVER = datetime.max.replace(tzinfo=UTC)
FOREVER = "private, max-age=31536000, immutable"


def machine_out(unit: Unit, model: Model, wording: Wording) -> MachineOut:
    """A unit as the client sees it."""
    return MachineOut(
        id=unit.id,
        name=unit.name,
        model=model.name,
        maker=model.maker,
        family=wording.word("family", model.family.name),
        hour_meter=unit.hours,
        meter_offset=unit.offset,
        bay=unit.bay,
    )


def drawing_out(drawing: Drawing) -> DrawingOut:
    """A drawing with its bounds."""
    return DrawingOut.model_validate({**encode(drawing), "bounds": drawing.bounds})


def sides_out(model: Model) -> SidesOut:
    """The machine from its left and from its right."""
    return SidesOut(left=drawing_out(side_drawing(model, "left")), right=drawing_out(side_drawing(model, "right")))


def _drawn(model: Model) -> tuple[str, bytes]:
    """A machine's plan as JSON, and the name that it has for good."""
    return _named(model.parts, model.obstacles)


@lru_cache(maxsize=256)
def _named(parts: tuple[MachinePart, ...], obstacles: tuple[Outline, ...]) -> tuple[str, bytes]:
    data = drawing_out(plan_of(parts, obstacles)).model_dump_json().encode()
    return hashlib.sha256(data).hexdigest()[:20], data


@router.get("/drawings/{drawing}", tags=["yard"], response_model=DrawingOut)
async def get_drawing(here: Work, who: Who, drawing: str = Path(pattern="^[0-9a-f]{20}$")) -> Response:
    """A plan drawing by its name; what bears a name never changes."""
    for known in (await known_models(here)).values():
        name, data = _drawn(known.model)
        if name == drawing:
            return Response(data, media_type="application/json", headers={"Cache-Control": FOREVER})
    raise NotFound("no-drawing", "No model of this site is drawn so any more: load the yard again.")


def machine_card(y: YardMachine, wording: Wording) -> dict[str, Any]:
    """A machine in the yard as plain data of a `YardMachineOut`."""
    card = YardMachineOut(
        machine=machine_out(y.unit, y.model, wording),
        go=y.go,
        why=wording.say(y.why),
        limits=[wording.say(t) for t in y.clearance.limits] if y.go == "limited" else [],
        open_findings=y.unit.standing.open,
        signed_by=y.signed_by,
        signed_at=y.last.signed_at if y.last else None,
        valid_until=y.clearance.start.until if y.clearance.start.may else None,
        cleared_for=sorted(y.clearance.whose),
        walked_by=y.walked_by,
        walker=y.current.last_by if y.current else None,
        answered=y.current.answered if y.current else 0,
        planned=y.current.planned if y.current else 0,
        last=y.last.id if y.last else None,
        current=y.current.id if y.current else None,
        drawing=_drawn(y.model)[0],
    )
    return card.model_dump(mode="json")


@dataclass(frozen=True, slots=True)
class Card:
    """A machine as it was told, until when that holds by itself."""

    bay: Bay
    until: datetime | None
    text: bytes


class ToldYard:
    """The yard in a language as this process told it last, card by card: the same as long as no row was written."""

    def __init__(self, wording: Wording) -> None:
        self.wording = wording
        self.version = ""
        self.told = NEVER
        self.until: datetime | None = None
        self.body = b""
        self._cards: dict[str, Card] = {}

    def holds(self, version: str, at: datetime) -> bool:
        """Whether it is still so."""
        return self.version == version and self.told <= at and (self.until is None or at < self.until)

    def tag(self, books: Books) -> str:
        """What names it: another text for another yard."""
        said = f"{__version__}/{self.wording.language}/{books.catalog.rulebook.version}/{self.version}/{self.until}"
        return f'"{hashlib.sha256(said.encode()).hexdigest()[:24]}"'

    async def anew(self, here: Here, version: str) -> None:
        """Tell it from the rows as they are now."""
        cards = {}
        for bay in await here.books.one(Bays).read(here):
            card = self._cards.get(bay.unit.id)
            # A clock that was put back tells it anew, too.
            past = card is not None and (here.now < self.told or (card.until is not None and card.until <= here.now))
            if card is None or card.bay is not bay or past:
                told, until = bay.at(here)
                card = Card(bay, until, json.dumps(machine_card(told, self.wording), ensure_ascii=False).encode())
            cards[bay.unit.id] = card
        self._cards, self.version, self.told = cards, version, here.now
        self.until = min((c.until for c in cards.values() if c.until is not None), default=None)
        self.body = _body(here.site, [c.text for c in cards.values()])


class ToldYards:
    """The yard as it was told, by language."""

    def __init__(self) -> None:
        self._by_language: dict[str, ToldYard] = {}

    def of(self, wording: Wording) -> ToldYard:
        """In one language."""
        return self._by_language.setdefault(wording.language, ToldYard(wording))


def _body(site: SiteInfo, cards: list[bytes]) -> bytes:
    head = json.dumps({"site": site.name, "zone": site.zone}, ensure_ascii=False)[:-1]
    return head.encode() + b', "machines": [' + b",".join(cards) + b"]}"


@router.get("/yard", tags=["yard"], response_model=YardOut, responses={304: {"description": "It is as it was"}})
async def get_yard(request: Request, wording: Tongue) -> Response:
    """Every machine of the site: can it go, and why not. With the tag of an earlier answer: only if it changed."""
    shop, at = shop_of(request), now()
    told = shop.books.one(ToldYards).of(wording)
    site, version = await version_of(shop, token_of(request), at)
    if not told.holds(version, at):
        async with shop.store.transaction() as db:
            await told.anew(Here(db, site, shop.books, at), version)
    headers = {"ETag": told.tag(shop.books), "Cache-Control": "private, no-cache", "Vary": "Accept-Language"}
    if request.headers.get("if-none-match") == headers["ETag"]:
        return Response(status_code=304, headers=headers)
    return Response(told.body, media_type="application/json", headers=headers)
