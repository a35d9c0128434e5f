"""Routes: entries and photos, as devices send them."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Header, Request, Response

from jutrel.api.cookies import token_of
from jutrel.api.door import PROBLEMS, Who, Work, now, plain_json, shop_of
from jutrel.api.inspection.look_out import Items, look_now
from jutrel.api.language import Tongue
from jutrel.api.log.wire import BatchIn, TakenOut
from jutrel.api.machine.wire import LogEndOut
from jutrel.api.wire import Slug, Uuid, Uuid7
from jutrel.core.log.codec import encode
from jutrel.core.wording import spoken
from jutrel.service.inspection.look import standing_as
from jutrel.service.inspection.photo import keep_photo, made_small, photo_bytes
from jutrel.service.intake import take_batch
from jutrel.service.log.encrypted import Opener, has_encrypted, opened_batch
from jutrel.service.machine.find import unit_of
from jutrel.service.people.pens import Shown
from jutrel.service.people.people import here_and_actor

router = APIRouter(prefix="/api", responses=PROBLEMS)
_BINARY = {"schema": {"type": "string", "format": "binary"}}
SENT_PHOTO = {
    "requestBody": {"required": True, "content": {"image/jpeg": _BINARY, "application/octet-stream": _BINARY}}
}


@router.post("/entries", tags=["log"], response_model=TakenOut)
async def post_entries(request: Request, wording: Tongue, body: BatchIn) -> Response:
    """Store entries, each once, whatever the order and however often they are sent.

    With `since` the answer says at once what has become of the look.
    """
    raw = [e.model_dump(exclude_unset=True) for e in body.entries]
    shop, at = shop_of(request), now()
    shown = Shown(tuple(body.pens), tuple(body.certificates))
    if has_encrypted(raw, shown):
        async with shop.store.transaction() as db:
            here, _ = await here_and_actor(db, shop.books, token_of(request), at)
            raw, shown = await opened_batch(here, raw, shown)
    taken, here, actor = await take_batch(shop, token_of(request), body.machine, body.stream, raw, shown, at)
    known = shop.books.shelf.at(here.where, taken.unit).get(f"look {body.stream}")
    look = None
    if body.since is not None and known is not None:
        look = look_now(standing_as(taken.unit, known), actor, body.since, at, shop.books.one(Items), wording)
    return plain_json(
        {
            "stored": taken.stored,
            "known": taken.known,
            "refused": [spoken(r, wording) for r in taken.refused],
            "now": encode(now()),
            "look": look,
        }
    )


@router.get("/machines/{machine}/log/end", tags=["log"])
async def get_log_end(here: Work, who: Who, machine: Slug) -> LogEndOut:
    """Where a machine's log ends now."""
    unit = await unit_of(here, machine)
    return LogEndOut(seq=unit.seq, head=unit.head)


@router.put("/photos/{photo}", tags=["log"], status_code=204, openapi_extra=SENT_PHOTO)
async def put_photo(
    request: Request,
    photo: Uuid7,
    inspection: Uuid7,
    pen: Annotated[str | None, Header(max_length=300)] = None,
    encrypted_by: Uuid | None = None,
) -> None:
    """Keep a photo under the id its device gave it; `pen`: the secret of whoever took it, if not the sender.

    `encrypted_by`: its tablet encrypted it when that person signed out.
    """
    shop, data = shop_of(request), await request.body()
    if encrypted_by or pen:
        async with shop.store.transaction() as db:
            opener = Opener((await here_and_actor(db, shop.books, token_of(request), now()))[0])
            pen = await opener.told(pen) if pen else None
            data = await opener.bytes_of(encrypted_by, data, photo) if encrypted_by else data
    small = await shop.aside.run(made_small, data)
    async with shop.store.transaction() as db:
        here, who = await here_and_actor(db, shop.books, token_of(request), now())
        await keep_photo(here, who, photo, inspection, small, pen)


@router.get("/photos/{photo}", tags=["log"], response_class=Response, responses={200: {"content": {"image/jpeg": {}}}})
async def get_photo(here: Work, who: Who, photo: Uuid7) -> Response:
    """A kept photo."""
    kept = await photo_bytes(here, photo)
    headers: dict[str, Any] = {"Cache-Control": "private, max-age=604800, immutable"}
    return Response(kept.data, media_type=kept.mime, headers=headers)
