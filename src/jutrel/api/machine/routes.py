"""Routes: machine files, labels and models."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import APIRouter, Request, Response

from jutrel.api.cookies import token_of
from jutrel.api.door import PHOTO_BODY, PROBLEMS, Who, Work, now, public_address, shop_of
from jutrel.api.language import Tongue
from jutrel.api.machine.wire import GoodOut, ReadingOut, good_out
from jutrel.api.machine.wire_file import (
    CorrectionIn,
    FiledIn,
    FileEntryOut,
    LimitKindOut,
    LockIn,
    MachineFileOut,
    MeterIn,
    ModelIn,
    ModelOut,
    ModelsOut,
    ModelTakenOut,
    SignedByOut,
    UnlockIn,
    locks_out,
)
from jutrel.api.machine.yard import drawing_out, machine_out, sides_out
from jutrel.api.wire import PickOut, Slug, Uuid7
from jutrel.core.log.codec import decode, encode
from jutrel.core.log.kinds import kind_of
from jutrel.core.machine.drawing import plan_drawing
from jutrel.core.machine.file import Filed, MeterCorrected, MeterReplaced
from jutrel.core.machine.lock import Locked, Unlocked
from jutrel.core.people import EDITORS
from jutrel.core.wording import Wording, spoken
from jutrel.service.context import Here
from jutrel.service.inspection.photo import made_small
from jutrel.service.machine.file import (
    MachineOnFile,
    keep_picture,
    machine_on_file,
    names_of_fields,
    show_good,
    write_file,
)
from jutrel.service.machine.judge_anew import judge_all
from jutrel.service.machine.models import KnownModel, export_model, import_model, known_models
from jutrel.service.machine.signed_models import check_signer, is_signed, opened_model, own_key, signed_model
from jutrel.service.machine.yard import machines_of
from jutrel.service.people.people import Actor, allow, here_and_actor, names_of

router = APIRouter(prefix="/api", responses=PROBLEMS)


def model_out(known: KnownModel, names: dict[str, str], machines: list[str], wording: Wording) -> ModelOut:
    """A model as the client sees it."""
    model = known.model
    return ModelOut(
        id=model.id,
        maker=model.maker,
        name=model.name,
        family=wording.word("family", model.family.name),
        edition=known.edition,
        by=names.get(known.by or ""),
        at=known.at,
        options=[
            PickOut(id=o.id, name=wording.word("equipment", o.name))
            for o in model.family.options
            if o.id in model.options
        ],
        limits=[
            LimitKindOut.model_validate({**spoken(x, wording), "value": model.limits.get(x.id)})
            for x in model.family.limits
        ],
        checkpoints=len(model.family.checkpoints),
        machines=machines,
    )


NEWEST_READINGS = 12


async def _file_out(here: Here, who: Actor, wording: Wording, m: MachineOnFile) -> MachineFileOut:
    names = await names_of(here)
    known = (await known_models(here))[m.unit.model_id]
    newest = sorted(m.meter.readings, key=lambda r: (r.at, r.total), reverse=True)[:NEWEST_READINGS]
    return MachineFileOut(
        machine=machine_out(m.unit, m.model, wording),
        model=model_out(known, names, [m.unit.name], wording),
        options=sorted(m.file.filed.options),
        own_limits=dict(m.file.filed.own_limits),
        note=m.file.filed.note,
        active=m.file.filed.active,
        photo=m.file.photo,
        meter=m.shows,
        readings=[ReadingOut(entry=r.entry, at=r.at, by=names.get(r.by, r.by), shown=r.shown) for r in newest],
        entries=[
            FileEntryOut.model_validate(
                {
                    "id": e.id,
                    "by": names.get(e.by, e.by),
                    "at": e.time,
                    "kind": kind_of(e.what).name,
                    "what": encode(e.what),
                    "changed": changed,
                }
            )
            for e, changed in reversed(names_of_fields(m.entries))
        ],
        people=names,
        drawing=drawing_out(plan_drawing(m.model)),
        sides=sides_out(m.model),
        may_edit=who.person.role in EDITORS,
        locks=locks_out(m.unit, who.person, names),
    )


@router.get("/machines/{machine}", tags=["machine"])
async def get_machine(here: Work, who: Who, wording: Tongue, machine: Slug) -> MachineFileOut:
    """A unit's file: what it is, its own figures, its meter, and who wrote what when."""
    return await _file_out(here, who, wording, await machine_on_file(here, machine))


@router.put("/machines/{machine}", tags=["machine"])
async def put_machine(here: Work, who: Who, wording: Tongue, machine: Slug, body: FiledIn) -> MachineFileOut:
    """Write a unit down, or change what is written; the entry's id makes sending twice write once."""
    plain = body.model_dump(exclude={"id", "hour_meter"})
    plain |= {"name": " ".join(body.name.split()), "note": body.note.strip(), "hours": body.hour_meter}
    return await _file_out(here, who, wording, await write_file(here, who, machine, body.id, decode(Filed, plain)))


@router.post("/machines/{machine}/meter", tags=["machine"])
async def post_meter(here: Work, who: Who, wording: Tongue, machine: Slug, body: MeterIn) -> MachineFileOut:
    """Note another hour meter; the hours go on counting."""
    what = decode(MeterReplaced, {"last": body.last, "first": body.first, "why": body.why.strip()})
    return await _file_out(here, who, wording, await write_file(here, who, machine, body.id, what))


@router.post("/machines/{machine}/meter/correction", tags=["machine"])
async def post_correction(here: Work, who: Who, wording: Tongue, machine: Slug, body: CorrectionIn) -> MachineFileOut:
    """Strike a wrong reading of the hour meter, or give its right figure."""
    what = decode(MeterCorrected, {"reading": body.reading, "hours": body.hours, "why": body.why.strip()})
    return await _file_out(here, who, wording, await write_file(here, who, machine, body.id, what))


@router.post("/machines/{machine}/locks", tags=["machine"])
async def post_lock(here: Work, who: Who, wording: Tongue, machine: Slug, body: LockIn) -> MachineFileOut:
    """Put a lock on: nobody starts the machine until it is off again."""
    what = decode(Locked, {"why": body.why.strip()})
    return await _file_out(here, who, wording, await write_file(here, who, machine, body.id, what))


@router.post("/machines/{machine}/locks/{lock}/off", tags=["machine"])
async def post_unlock(
    here: Work, who: Who, wording: Tongue, machine: Slug, lock: Uuid7, body: UnlockIn
) -> MachineFileOut:
    """Take a lock off: one's own, or as a supervisor another's with a reason."""
    what = decode(Unlocked, {"lock": lock, "reason": body.reason.strip()})
    return await _file_out(here, who, wording, await write_file(here, who, machine, body.id, what))


@router.put(
    "/machines/{machine}/photo",
    tags=["machine"],
    openapi_extra=PHOTO_BODY,
)
async def put_machine_photo(request: Request, wording: Tongue, machine: Slug, photo: Uuid7) -> MachineFileOut:
    """Keep a photo of the unit under the id its device gave it."""
    shop = shop_of(request)
    async with shop.store.transaction() as db:
        allow((await here_and_actor(db, shop.books, token_of(request), now()))[1], *EDITORS)
    small = await shop.aside.run(made_small, await request.body())
    async with shop.store.transaction() as db:
        here, who = await here_and_actor(db, shop.books, token_of(request), now())
        return await _file_out(here, who, wording, await keep_picture(here, who, machine, photo, small))


@router.put("/machines/{machine}/good/{checkpoint}", tags=["machine"], openapi_extra=PHOTO_BODY)
async def put_good(
    request: Request, wording: Tongue, machine: Slug, checkpoint: Slug, photo: Uuid7, whole_model: bool = False
) -> list[GoodOut]:
    """Keep a photo of how a checkpoint looks when it is sound: of this unit, or of all units of its model."""
    shop = shop_of(request)
    async with shop.store.transaction() as db:
        allow((await here_and_actor(db, shop.books, token_of(request), now()))[1], *EDITORS)
    small = await shop.aside.run(made_small, await request.body())
    async with shop.store.transaction() as db:
        here, who = await here_and_actor(db, shop.books, token_of(request), now())
        return good_out(
            await show_good(here, who, machine, photo, checkpoint, small, whole_model), await names_of(here)
        )


@router.delete("/machines/{machine}/good/{checkpoint}", tags=["machine"])
async def delete_good(
    here: Work, who: Who, machine: Slug, checkpoint: Slug, entry: Uuid7, whole_model: bool = False
) -> list[GoodOut]:
    """Take away the picture of how a checkpoint looks when it is sound; the photo stays in the log."""
    return good_out(await show_good(here, who, machine, entry, checkpoint, None, whole_model), await names_of(here))


@router.get(
    "/machines/{machine}/label.{form}",
    tags=["machine"],
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}, "image/svg+xml": {}}}},
)
async def get_label(
    request: Request, here: Work, who: Who, wording: Tongue, machine: Slug, form: Literal["pdf", "svg"]
) -> Response:
    """The label with the code that opens this machine's walk."""
    from jutrel.exchange.label import label_pdf, label_svg  # what draws takes long to load and is seldom needed

    m = await machine_on_file(here, machine)
    base = public_address(request) or str(request.base_url).rstrip("/")
    address = f"{base}/machines/{machine}/start"
    if form == "svg":
        return Response(label_svg(address), media_type="image/svg+xml")
    data = label_pdf(m.unit.name, f"{m.model.maker} {m.model.name}", here.site.name, address, wording)
    headers: dict[str, Any] = {"Content-Disposition": f'inline; filename="{machine}-label.pdf"'}
    return Response(data, media_type="application/pdf", headers=headers)


@router.get("/models", tags=["machine"])
async def get_models(here: Work, who: Who, wording: Tongue) -> ModelsOut:
    """Every model the site can use."""
    names = await names_of(here)
    machines = await machines_of(here)
    return ModelsOut(
        models=[
            model_out(known, names, [m.name for m in machines if m.model_id == key], wording)
            for key, known in (await known_models(here)).items()
        ],
        key=await own_key(here),
    )


@router.get(
    "/models/{model}/file.jws",
    tags=["machine"],
    response_class=Response,
    responses={200: {"content": {"application/jose": {}}}},
)
async def get_signed_model(here: Work, who: Who, model: Slug) -> Response:
    """A model as a file for another site, signed by this one."""
    headers = {"Content-Disposition": f'attachment; filename="{model}.jws"'}
    return Response(await signed_model(here, model), media_type="application/jose", headers=headers)


@router.get(
    "/models/{model}/file.{form}",
    tags=["machine"],
    response_class=Response,
    responses={200: {"content": {"application/yaml": {}, "application/json": {}}}},
)
async def get_model_file(here: Work, who: Who, model: Slug, form: Literal["yaml", "json"]) -> Response:
    """A model as a file to edit outside and take in again."""
    text = await export_model(here, model, form == "json")
    headers = {"Content-Disposition": f'attachment; filename="{model}.{form}"'}
    return Response(text, media_type=f"application/{form}", headers=headers)


@router.post("/models", tags=["machine"])
async def post_model(request: Request, wording: Tongue, body: ModelIn) -> ModelTakenOut:
    """Take in a model file. A broken one is refused with line, field and reason, and nothing changes. Its machines
    are judged anew by it.

    One that another site signed is taken in with the fingerprint of that site's key, which two people compared.
    """
    shop, at = shop_of(request), now()
    async with shop.store.transaction() as db:
        here, who = await here_and_actor(db, shop.books, token_of(request), at)
        text, signed = (await opened_model(here, body.text)) if is_signed(body.text) else (body.text, None)
        if signed and body.keep:
            check_signer(signed, body.signer)
        source = {"site": signed.site, "key": signed.key} if signed else {}
        model = await import_model(here, who, body.id, body.name, text, body.keep, source)
        known = (await known_models(here)).get(model.id)
    if body.keep:
        await judge_all(shop, at)
    if known is None or not body.keep:
        known = KnownModel(model, 0, None, None)
    out = model_out(known, {who.person.id: who.person.name}, [], wording)
    by = None if signed is None else SignedByOut(site=signed.site, at=signed.at, key=signed.key, own=signed.own)
    return ModelTakenOut(**out.model_dump(), signed_by=by)
