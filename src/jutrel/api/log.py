"""Routes: entries and photos, as devices send them."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Header, Request, Response

from jutrel.api.door import PHOTO_BODY, PROBLEMS, Who, WhoWaits, Work, now, photo_of, shop_of
from jutrel.api.wire import BatchIn, RefusedOut, TakenOut, Uuid7
from jutrel.service.context import here_of
from jutrel.service.intake import take_batch
from jutrel.service.photo import keep_photo, photo_bytes

router = APIRouter(prefix="/api", responses=PROBLEMS)


@router.post("/entries", tags=["log"])
async def post_entries(request: Request, who: WhoWaits, body: BatchIn) -> TakenOut:
    """Store entries, each once, whatever the order and however often they are sent."""
    raw = [e.model_dump(exclude_unset=True) for e in body.entries]
    taken = await take_batch(shop_of(request), who, body.machine, body.stream, raw, body.pens, now())
    return TakenOut(
        stored=list(taken.stored),
        known=list(taken.known),
        refused=[RefusedOut.model_validate(r) for r in taken.refused],
        now=now(),
    )


@router.put("/photos/{photo}", tags=["log"], status_code=204, openapi_extra=PHOTO_BODY)
async def put_photo(
    request: Request,
    who: WhoWaits,
    photo: Uuid7,
    inspection: Uuid7,
    pen: Annotated[str | None, Header(max_length=100)] = None,
) -> None:
    """Keep a photo under the id its device gave it; `pen`: the secret of whoever took it, if not the sender."""
    data = await photo_of(request)
    shop = shop_of(request)
    async with shop.store.transaction() as db:
        await keep_photo(await here_of(db, shop.books, now()), who, photo, inspection, data, pen)


@router.get("/photos/{photo}", tags=["log"], response_class=Response, responses={200: {"content": {"image/jpeg": {}}}})
async def get_photo(here: Work, who: Who, photo: Uuid7) -> Response:
    """A kept photo."""
    kept = await photo_bytes(here, photo)
    headers: dict[str, Any] = {"Cache-Control": "private, max-age=604800, immutable"}
    return Response(kept.data, media_type=kept.mime, headers=headers)
