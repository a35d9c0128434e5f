"""Grading without a record: one finding as a preview, or a file's findings alone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

from jutrel.catalog import catalog
from jutrel.catalog.files import BadFile
from jutrel.core.errors import BadInput
from jutrel.core.grading.finding_grade import check_finding
from jutrel.core.grading.item import Item
from jutrel.core.grading.verdict import Verdict, judge
from jutrel.core.inspection.fold import fold
from jutrel.core.machine.model import Model, walk_of
from jutrel.core.plain import entry_of, finding_of
from jutrel.service.inspection import judge_plain
from jutrel.service.models import read_model

NOBODY = "00000000-0000-4000-8000-000000000000"
EPOCH = datetime(2000, 1, 1, tzinfo=UTC)


def _entry(number: int, kind: str, what: dict[str, Any]) -> dict[str, Any]:
    return {
        "id": f"{number:08d}",
        "by": NOBODY,
        "role": "operator",
        "at": EPOCH.isoformat(),
        "kind": kind,
        "what": what,
    }


def _opening(options: Sequence[str], hour_meter: float, conditions: Mapping[str, Any], carried: Sequence[Any]) -> Any:
    return _entry(
        0,
        "opened",
        {"hour_meter": hour_meter, "options": list(options), "conditions": dict(conditions), "carried": list(carried)},
    )


def grade_one(
    model: Model,
    options: Sequence[str],
    hour_meter: float,
    conditions: Mapping[str, Any],
    checkpoint: str,
    finding: Mapping[str, Any],
    carried: Sequence[Any],
) -> Item:
    """The grade of one finding by itself.

    Raises
    ------
    BadInput
        If this machine has no such checkpoint, or the finding cannot be read.
    """
    walk = walk_of(model, frozenset(options))
    if walk.checkpoint(checkpoint) is None:
        raise BadInput("checkpoint", f"this machine has no checkpoint '{checkpoint}'")
    check_finding(finding_of(finding), catalog().rulebook)
    here = [c for c in carried if c["checkpoint"] == checkpoint]
    answer = {"checkpoint": checkpoint, "answer": "defect", "findings": [dict(finding)]}
    entries = [_opening(options, hour_meter, conditions, here), _entry(1, "answered", answer)]
    verdict = judge(fold(entry_of(e) for e in entries), walk, catalog().rulebook)
    return next(i for i in verdict.items if i.checkpoint == checkpoint and not i.carried)


def shipped_model(model_id: str) -> Model:
    """A model that ships; raises BadInput naming those there are."""
    model = catalog().models.get(model_id)
    if model is None:
        raise BadInput("model", f"the catalog has no model '{model_id}'; it has {', '.join(catalog().models)}")
    return model


def _model_of(machine: Mapping[str, Any]) -> Model:
    """The model of a record's machine: from the file it brings along, or the one that ships."""
    text = machine.get("model_file")
    if text is None:
        return shipped_model(str(machine.get("model_id")))
    try:
        return read_model("machine.model_file", str(text))
    except BadFile as error:
        raise BadInput("machine.model_file", str(error)) from None


def grade_file(document: Mapping[str, Any]) -> tuple[Verdict, bool]:
    """The verdict on an exported record, or on findings alone; true if the rest was assumed sound.

    Raises
    ------
    BadInput
        If it is neither, or cannot be read.
    """
    if document.get("format") == "jutrel-record":
        machine = document.get("machine")
        if not isinstance(machine, Mapping) or not isinstance(document.get("entries"), list):
            raise BadInput("machine", "the record has no machine or no entries; export it again")
        return judge_plain(_model_of(machine), list(machine.get("options", [])), document["entries"]), False
    if "findings" not in document:
        raise BadInput("findings", "give an exported record, or 'model' and 'findings'")
    options = list(document.get("options", []))
    model = shipped_model(str(document.get("model")))
    by_checkpoint: dict[str, list[Any]] = {}
    for found in document["findings"]:
        if not isinstance(found, Mapping) or "checkpoint" not in found:
            raise BadInput("findings", "each finding names its checkpoint")
        check_finding(finding_of(found), catalog().rulebook)
        by_checkpoint.setdefault(str(found["checkpoint"]), []).append(found)
    walk = walk_of(model, frozenset(options))
    for checkpoint in by_checkpoint:
        if walk.checkpoint(checkpoint) is None:
            raise BadInput("findings", f"this machine has no checkpoint '{checkpoint}'")
    entries = [_opening(options, float(document.get("hour_meter", 0)), document.get("conditions", {}), [])]
    for number, c in enumerate(walk.checkpoints, 1):
        found = by_checkpoint.get(c.id)
        answer = {"checkpoint": c.id, "answer": "defect" if found else "sound", "findings": found or []}
        entries.append(_entry(number, "answered", answer))
    return judge_plain(model, options, entries), True
