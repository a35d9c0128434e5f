"""Routes: devices that may tell something without a person."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Header, Request
from pydantic import Field

from jutrel.api.door import PROBLEMS, Who, Work, settings_of
from jutrel.api.wire import In, Out, Slug
from jutrel.service.people.people import names_of
from jutrel.service.site import devices as service

router = APIRouter(prefix="/api/devices", tags=["site"], responses=PROBLEMS)
KEY = Annotated[str, Header(alias="x-device-key", max_length=200)]


class DeviceIn(In):
    """Of which machines a device may tell, and for which instruments."""

    machines: Annotated[list[Slug], Field(max_length=200, default_factory=list)]
    instruments: Annotated[list[Slug], Field(max_length=20, default_factory=list)]


class DeviceOut(Out):
    """A device as the site knows it."""

    id: str
    machines: list[str]
    instruments: list[str]
    made_at: datetime
    made_by: str
    ended_at: datetime | None


class DeviceKeyOut(Out):
    """A device's key, said this once."""

    id: str
    key: str


def is_demo(request: Request) -> bool:
    """Whether what is made up may be told here."""
    return bool(settings_of(request).demo_pin)


def shown(request: Request, key: str) -> service.ShownKey:
    """What a device shows; in a demo the key of the environment does for all."""
    settings = settings_of(request)
    return service.ShownKey(key, settings.device_key if settings.demo_pin else "")


@router.get("")
async def get_devices(here: Work, who: Who) -> list[DeviceOut]:
    """The devices of the site."""
    found, names = await service.devices(here, who), await names_of(here)
    return [
        DeviceOut(
            id=d.id,
            machines=list(d.machines),
            instruments=list(d.instruments),
            made_at=d.made_at,
            made_by=names.get(d.made_by, d.made_by),
            ended_at=d.ended_at,
        )
        for d in found
    ]


@router.put("/{device}")
async def put_device(here: Work, who: Who, device: Slug, body: DeviceIn) -> DeviceKeyOut:
    """Give a device a key, in place of the one that it had. The answer is the only place that says it."""
    key = await service.name_device(here, who, device, body.machines, body.instruments)
    return DeviceKeyOut(id=device, key=key)


@router.delete("/{device}", status_code=204)
async def delete_device(here: Work, who: Who, device: Slug) -> None:
    """Take nothing from a device from now on."""
    await service.end_device(here, who, device)
