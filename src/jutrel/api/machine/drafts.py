"""Routes: a model file while somebody writes it."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter
from pydantic import StringConstraints

from jutrel.api.door import PROBLEMS, Who, Work
from jutrel.api.language import Tongue
from jutrel.api.machine.wire import DrawingOut
from jutrel.api.machine.yard import drawing_out
from jutrel.api.wire import In, Out
from jutrel.core.machine.drawing.views import plan_of, side_of
from jutrel.core.people import EDITORS
from jutrel.service.machine.models import drafted
from jutrel.service.people.people import allow

router = APIRouter(prefix="/api", tags=["machine"], responses=PROBLEMS)


class ModelDraftIn(In):
    """The text of a model file as far as it is written."""

    text: Annotated[str, StringConstraints(max_length=500_000)]


class MissingFigureOut(Out):
    """A figure that the drawing needs: what it measures, and between which bounds [m] it lies."""

    figure: str
    measures: str
    low: float
    high: float


class ModelDraftOut(Out):
    """How the file stands: drawn as far as it goes, what is missing, and the first thing that is wrong."""

    good: bool
    line: int
    field: str
    says: str
    missing: list[MissingFigureOut]
    borrowed: str
    above: DrawingOut | None
    left: DrawingOut | None
    right: DrawingOut | None


@router.post("/model-draft")
async def post_model_draft(here: Work, who: Who, wording: Tongue, body: ModelDraftIn) -> ModelDraftOut:
    """Draw a model file as far as it is written, and say what it lacks; nothing is kept."""
    allow(who, *EDITORS)
    draft = await drafted(here, body.text)
    wrong = draft.problem
    above = left = right = None
    if draft.parts:
        above = drawing_out(plan_of(draft.parts, draft.obstacles))
        left, right = (drawing_out(side_of(draft.parts, side)) for side in ("left", "right"))
    return ModelDraftOut(
        good=wrong is None,
        line=wrong.line if wrong else 0,
        field=wrong.field if wrong else "",
        says=wording.say(wrong.said) if wrong else "",
        missing=[
            MissingFigureOut(figure=m.figure, measures=wording.word("dimension", m.measures), low=m.low, high=m.high)
            for m in draft.missing
        ],
        borrowed=draft.borrowed,
        above=above,
        left=left,
        right=right,
    )
