"""What the next operator and the mechanic are to know of a run, from its log."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jutrel.core.log.entry import Entry
from jutrel.core.machine.model import Model
from jutrel.core.panel.told import PanelEventKind, PanelWord, alert_said
from jutrel.core.procedure.gauges import GAUGES
from jutrel.core.procedure.greasing import Greased, Took
from jutrel.core.procedure.kinds import Colour, Filled, Remarked
from jutrel.core.procedure.measured import RunMeasurement
from jutrel.core.procedure.state import Mark, RunState
from jutrel.core.procedure.step import StepKind
from jutrel.core.reading.all import READINGS
from jutrel.core.wording import NOTHING, Number, Said, as_written, say

SENSES = {
    "noise": say("A noise"),
    "smell": say("A smell"),
    "feel": say("It feels different"),
    "sight": say("Something seen"),
    "lamp": say("A warning lamp"),
    "gauge": say("A gauge"),
}
COLOURS = {"red": say("red"), "amber": say("amber"), "none": NOTHING}


@dataclass(frozen=True, slots=True)
class HandoverLine:
    """A line of a hand-over, and the entry that it comes from."""

    says: Said
    entry: str
    urgent: bool = False


def remark_said(what: Remarked, model: Model) -> Said:
    """A remark in a sentence, with its place."""
    stations = {s.id: Said(s.name, (), "station") for s in model.family.stations}
    place = stations.get(what.station, say("nowhere in particular"))
    note = as_written(what.note) if what.note.strip() else NOTHING
    sense = GAUGES.get(what.gauge, SENSES[what.sense.value])
    if what.gauge:
        return say("{sense}: {colour}. {note}", sense=sense, colour=COLOURS[what.colour] or say("green"), note=note)
    if what.colour is Colour.NONE:
        return say("{sense}, {place}. {note}", sense=sense, place=place, note=note)
    return say("{sense} ({colour}), {place}. {note}", sense=sense, colour=COLOURS[what.colour], place=place, note=note)


def _greased(entries: Sequence[Entry]) -> list[HandoverLine]:
    """What was greased, in one line."""
    done = [e for e in entries if isinstance(e.what, Greased) and e.what.took is Took.GREASED]
    if not done:
        return []
    n, strokes = len({e.what.point for e in done}), sum(e.what.strokes for e in done)  # type: ignore[attr-defined]
    one = say("One place greased, {strokes} strokes.", strokes=Number(strokes))
    says = one if n == 1 else say("{n} places greased, {strokes} strokes.", n=n, strokes=Number(strokes))
    return [HandoverLine(says, done[-1].id)]


def handover_lines(
    state: RunState,
    entries: Sequence[Entry],
    model: Model,
    fluids: dict[str, Said],
    told: Sequence[PanelWord] = (),
    measured: Sequence[RunMeasurement] = (),
) -> list[HandoverLine]:
    """What is worth knowing of a run: what was noticed, what the machine told, what failed, was skipped, was filled."""
    out = []
    named = {p.id: p.name for s in state.steps for p in s.step.points}
    warned = {t.word: t for t in told if t.what is PanelEventKind.ALERT and t.colour is not Colour.NONE}
    for t in warned.values():
        how, n = COLOURS[t.colour.value], sum(x.what is PanelEventKind.ALERT and x.word == t.word for x in told)
        says = say("The machine told ({colour}, {n} times): {what}", colour=how, n=n, what=alert_said(t.word))
        if n == 1:
            says = say("The machine told ({colour}): {what}", colour=how, what=alert_said(t.word))
        out.append(HandoverLine(says, t.id, True))
    for e in entries:
        match e.what:
            case Remarked(colour=Colour.NONE, gauge=gauge) if gauge:
                pass  # a needle in the green is nothing to hand over
            case Remarked(colour=colour) as what:
                out.append(HandoverLine(remark_said(what, model), e.id, colour is not Colour.NONE))
            case Filled(fluid=fluid, litres=litres):
                name = fluids.get(fluid, as_written(fluid))
                out.append(
                    HandoverLine(say("{litres} of {fluid} filled.", litres=Number(litres, 1, "L"), fluid=name), e.id)
                )
            case Greased(point=point, took=took, note=note) if took is not Took.GREASED:
                name = Said(named.get(point, point), (), "grease")
                why = as_written(note) if note.strip() else NOTHING
                blocked = took is Took.BLOCKED
                says = say("{name}: takes no grease. {why}", name=name, why=why)
                if not blocked:
                    says = say("{name}: not greased. {why}", name=name, why=why)
                out.append(HandoverLine(says, e.id, blocked))
            case _:
                pass
    out += _greased(entries)
    newest = {(m.checkpoint, m.reading): m for m in measured}
    for m in newest.values():
        name = READINGS[m.reading].title
        figure = NOTHING if m.value is None else Number(m.value, 1, m.unit)
        out.append(
            HandoverLine(say("{name}: {figure}. {action}", name=name, figure=figure, action=m.action), m.entry, m.fails)
        )
    for s in state.steps:
        name, entry = Said(s.step.name, (), "step"), s.heads[0] if s.heads else ""
        why = as_written(s.reason) if s.reason.strip() else NOTHING
        if s.mark is Mark.FAILED:
            test = s.step.kind is StepKind.TEST
            out.append(HandoverLine(say("{name}: failed. {why}", name=name, why=why), entry, test and s.step.life))
        elif s.mark is Mark.SKIPPED:
            out.append(HandoverLine(say("{name}: skipped. {why}", name=name, why=why), entry))
    return out
