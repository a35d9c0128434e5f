"""Routes: a site's machines as a list for a spreadsheet."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import Field, StringConstraints

from jutrel.api.door import PROBLEMS, Who, Work
from jutrel.api.language import Tongue
from jutrel.api.wire import NO_NUL, In, Out, Uuid7
from jutrel.core.people import EDITORS
from jutrel.core.wording import spoken
from jutrel.service.machine.machine_list import ListLine, ListNews, list_in, list_out
from jutrel.service.people.people import allow

router = APIRouter(prefix="/api", tags=["machine"], responses=PROBLEMS)


class MachineListIn(In):
    """A list of machines as CSV: number, model, options, hours, place, note. `id` is made by the client."""

    id: Uuid7
    text: Annotated[str, StringConstraints(pattern=NO_NUL, max_length=500_000)]
    keep: bool = Field(default=False, description="False: only say what it would come to.")
    after: int = Field(
        default=0, ge=0, le=100_000, description="After which line to go on: `next` of the answer before."
    )


class MachineListLineOut(Out, of=ListLine):
    """A line of the list, and what it comes to; of one that is refused, which column and why."""


class MachineListOut(Out, of=ListNews):
    """What the list comes to; `kept`: all its new machines are on file. `next`: there are more than one
    request takes in; the same list is sent again with this as `after`."""


@router.post("/machine-list")
async def post_machine_list(here: Work, who: Who, wording: Tongue, body: MachineListIn) -> MachineListOut:
    """Look at a list of machines, and take in those that are new, some a request; none while a line is refused."""
    news = await list_in(here, who, body.id, body.text, body.keep, body.after)
    return MachineListOut.model_validate(spoken(news, wording))


@router.get("/machine-list.csv", response_class=Response, responses={200: {"content": {"text/csv": {}}}})
async def get_machine_list(here: Work, who: Who) -> Response:
    """The machines of the site as a list: to be edited, and taken in elsewhere."""
    allow(who, *EDITORS)
    headers = {"Content-Disposition": 'attachment; filename="machines.csv"'}
    return Response(await list_out(here), media_type="text/csv", headers=headers)
