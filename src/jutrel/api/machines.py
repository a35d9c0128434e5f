"""Routes: machine files, labels and models."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import APIRouter, Request, Response

from jutrel.api.door import PHOTO_BODY, PROBLEMS, Db, Who, now, photo_of, settings_of
from jutrel.api.walk import drawing_out, machine_out
from jutrel.api.wire import Slug, Uuid7
from jutrel.api.wire_file import (
    FiledIn,
    FileEntryOut,
    LimitKindOut,
    MachineFileOut,
    MeterIn,
    ModelIn,
    ModelOut,
    ModelsOut,
    OptionOut,
)
from jutrel.core.machine.drawing import plan_drawing, side_drawing
from jutrel.core.machine.file import Filed, MeterReplaced
from jutrel.core.plain import to_plain
from jutrel.exchange.label import label_pdf, label_svg
from jutrel.service.machine import (
    KINDS,
    MachineOnFile,
    keep_picture,
    machine_on_file,
    meter_of,
    names_of_fields,
    write_file,
)
from jutrel.service.models import EDITORS, KnownModel, export_model, import_model, known_models
from jutrel.service.people import Actor, only_site, people
from jutrel.service.yard import machines_of

router = APIRouter(prefix="/api", responses=PROBLEMS)


def model_out(known: KnownModel, names: dict[str, str], machines: list[str]) -> ModelOut:
    """A model as the client sees it."""
    model = known.model
    return ModelOut(
        id=model.id,
        maker=model.maker,
        name=model.name,
        family=model.family.name,
        edition=known.edition,
        by=names.get(known.by or ""),
        at=known.at,
        options=[OptionOut(id=o.id, name=o.name) for o in model.family.options if o.id in model.options],
        limits=[
            LimitKindOut(id=x.id, name=x.name, unit=x.unit, low=x.low, high=x.high, value=model.limits.get(x.id))
            for x in model.family.limits
        ],
        checkpoints=len(model.family.checkpoints),
        machines=machines,
    )


async def _file_out(db: Db, who: Actor, m: MachineOnFile) -> MachineFileOut:
    names = {p.id: p.name for p in await people(db, who.site, with_inactive=True)}
    known = (await known_models(db, who.site))[m.row.model_id]
    kinds = {made: kind for kind, made in KINDS.items()}
    return MachineFileOut(
        machine=machine_out(m.row, m.model),
        model=model_out(known, names, [m.row.name]),
        options=sorted(m.file.filed.options),
        own_limits=dict(m.file.filed.own_limits),
        note=m.file.filed.note,
        active=m.file.filed.active,
        photo=m.file.photo,
        meter=meter_of(m.row),
        entries=[
            FileEntryOut.model_validate(
                {
                    "id": e.id,
                    "by": names.get(e.by, "?"),
                    "at": e.at,
                    "kind": kinds[type(e.what)],
                    "what": to_plain(e.what),
                    "changed": changed,
                }
            )
            for e, changed in reversed(names_of_fields(m.entries))
        ],
        people=names,
        drawing=drawing_out(plan_drawing(m.model.shape)),
        side=drawing_out(side_drawing(m.model.shape)),
        may_edit=who.person.role in EDITORS,
    )


@router.get("/machines/{machine}", tags=["machine"])
async def get_machine(db: Db, who: Who, machine: Slug) -> MachineFileOut:
    """A unit's file: what it is, its own figures, its meter, and who wrote what when."""
    return await _file_out(db, who, await machine_on_file(db, who.site, machine))


@router.put("/machines/{machine}", tags=["machine"])
async def put_machine(db: Db, who: Who, machine: Slug, body: FiledIn) -> MachineFileOut:
    """Write a unit down, or change what is written; the entry's id makes sending twice write once."""
    filed = Filed(
        " ".join(body.name.split()),
        body.model_id,
        frozenset(body.options),
        dict(body.own_limits),
        body.bay,
        body.note.strip(),
        body.active,
    )
    return await _file_out(db, who, await write_file(db, who, machine, body.id, filed, now(), body.hour_meter))


@router.post("/machines/{machine}/meter", tags=["machine"])
async def post_meter(db: Db, who: Who, machine: Slug, body: MeterIn) -> MachineFileOut:
    """Note another hour meter; the hours go on counting."""
    what = MeterReplaced(body.last, body.first, body.why.strip())
    return await _file_out(db, who, await write_file(db, who, machine, body.id, what, now()))


@router.put(
    "/machines/{machine}/photo",
    tags=["machine"],
    openapi_extra=PHOTO_BODY,
)
async def put_machine_photo(request: Request, db: Db, who: Who, machine: Slug, photo: Uuid7) -> MachineFileOut:
    """Keep a photo of the unit under the id its device gave it."""
    return await _file_out(db, who, await keep_picture(db, who, machine, photo, await photo_of(request), now()))


@router.get(
    "/machines/{machine}/label.{form}",
    tags=["machine"],
    response_class=Response,
    responses={200: {"content": {"application/pdf": {}, "image/svg+xml": {}}}},
)
async def get_label(request: Request, db: Db, who: Who, machine: Slug, form: Literal["pdf", "svg"]) -> Response:
    """The label with the code that opens this machine's walk."""
    m = await machine_on_file(db, who.site, machine)
    site = await only_site(db)
    base = settings_of(request).public_address.rstrip("/") or str(request.base_url).rstrip("/")
    address = f"{base}/machines/{machine}/start"
    if form == "svg":
        return Response(label_svg(address), media_type="image/svg+xml")
    data = label_pdf(m.row.name, f"{m.model.maker} {m.model.name}", site.name, address)
    headers: dict[str, Any] = {"Content-Disposition": f'inline; filename="{machine}-label.pdf"'}
    return Response(data, media_type="application/pdf", headers=headers)


@router.get("/models", tags=["machine"])
async def get_models(db: Db, who: Who) -> ModelsOut:
    """Every model the site can use."""
    names = {p.id: p.name for p in await people(db, who.site, with_inactive=True)}
    machines = await machines_of(db, who.site)
    return ModelsOut(
        models=[
            model_out(known, names, [m.name for m in machines if m.model_id == key])
            for key, known in (await known_models(db, who.site)).items()
        ]
    )


@router.get(
    "/models/{model}/file.{form}",
    tags=["machine"],
    response_class=Response,
    responses={200: {"content": {"application/yaml": {}, "application/json": {}}}},
)
async def get_model_file(db: Db, who: Who, model: Slug, form: Literal["yaml", "json"]) -> Response:
    """A model as a file to edit outside and take in again."""
    text = await export_model(db, who.site, model, form == "json")
    headers = {"Content-Disposition": f'attachment; filename="{model}.{form}"'}
    return Response(text, media_type=f"application/{form}", headers=headers)


@router.post("/models", tags=["machine"])
async def post_model(db: Db, who: Who, body: ModelIn) -> ModelOut:
    """Take in a model file. A broken one is refused with line, field and reason, and nothing changes."""
    model = await import_model(db, who, body.id, body.name, body.text, now(), body.keep)
    known = (await known_models(db, who.site)).get(model.id)
    if known is None or not body.keep:
        known = KnownModel(model, 0, None, None)
    return model_out(known, {who.person.id: who.person.name}, [])
