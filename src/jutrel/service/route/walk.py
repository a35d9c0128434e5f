"""What a person needs to walk round a machine: its walk, the way round it, and what is open."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from jutrel.catalog.whole import Catalog
from jutrel.core.defect.defect import Defect
from jutrel.core.edition import Edition
from jutrel.core.errors import BadInput
from jutrel.core.grading.grade import Grade
from jutrel.core.inspection.finding import Conditions
from jutrel.core.inspection.kinds import Opened
from jutrel.core.inspection.look import Status, lapsed
from jutrel.core.inspection.occasion import answers_given, neighbours, resting, walk_on
from jutrel.core.log.codec import decode
from jutrel.core.log.entry import Limit
from jutrel.core.machine.file import with_own_limits
from jutrel.core.machine.model import Walk, walk_for, walk_of
from jutrel.core.machine.state import LookSummary, items_of
from jutrel.core.machine.unit import Unit
from jutrel.core.route.pair import plan_pair
from jutrel.core.route.plan import Route, Wishes, plan_route
from jutrel.core.route.precedence import Direction
from jutrel.core.wording import Said
from jutrel.service.context import Here, Shop
from jutrel.service.inspection.look import LookStanding, open_defects, pins_now, standing
from jutrel.service.machine.find import unit_of
from jutrel.service.machine.models import check_options, shipped_model, unit_model
from jutrel.service.problem import NotFound
from jutrel.service.site.schools import direction_in, schools_of
from jutrel.store.queries import projections as rows

SIDES = ("left", "right", "rear", "front")
MOST_WAYS = 500


Bound = tuple[str, tuple[tuple[str, Limit], ...], frozenset[str]]
"""What a walk goes by: the edition's hash, the unit's own figures, its options."""


@dataclass(frozen=True, slots=True)
class MachineWalk:
    """A unit, one walk round it and what is wished of the way, what is open, and the look that is under way.

    `bound`: the edition and the unit's own figures that it goes by: two walks of one `bound` are made alike.
    """

    unit: Unit
    walk: Walk
    wishes: Wishes
    bound: Bound
    defects: tuple[Defect, ...]
    grades: Mapping[str, Grade]
    """What each defect amounts to now, by its id."""
    own_limits: frozenset[str]
    current: LookSummary | None
    look: LookStanding | None
    schools: Mapping[str, str] = field(default_factory=dict)
    """How it is done here what good hands do differently."""


async def current_look(here: Here, unit: Unit) -> LookSummary | None:
    """The look at this machine that was begun in this shift and is neither signed nor abandoned."""
    if unit.newest.walking is None:
        return None
    found = await rows.looks_of(here.db, here.site.id, ids={unit.newest.walking})
    look = found[0][1] if found else None
    if look is None or lapsed(look.status, look.begun_at, here.now) is not Status.WALKING:
        return None
    return look


async def _begun(here: Here, inspection: str) -> LookStanding | None:
    try:
        return await standing(here, inspection)
    except NotFound:
        return None


async def machine_walk(here: Here, machine: str, opened: Opened | None = None, inspection: str = "") -> MachineWalk:
    """Everything that a walk round a unit shows. Once it has begun: by the rules and the unit it is bound to.

    Without `opened` it is all the unit has.
    """
    unit = await unit_of(here, machine)
    current = await current_look(here, unit)
    begun = await _begun(here, inspection) if inspection else None
    if begun is not None and begun.unit.id == machine:
        walk = begun.walk
        conditions = (
            begun.heard.look.opened.conditions if begun.heard.look.opening else (opened or Opened(0.0)).conditions
        )
        wishes = Wishes(beside=neighbours(walk.model, conditions))
        pins = begun.heard.look.pins
        own = frozenset(pins.own_limits)
        grades = {i.defect: i.grade for i in begun.verdict.items if i.defect}
        grades = {d.id: grades.get(d.id, d.grade) for d in begun.heard.defects}
        bound = _bound(pins.edition, pins.own_limits, walk)
        schools = await schools_of(here, walk.model)
        wishes = replace(wishes, direction=direction_in(schools))
        return MachineWalk(unit, walk, wishes, bound, begun.heard.defects, grades, own, current, begun, schools)
    defects = await open_defects(here, unit)
    model = await unit_model(here, unit, own=False)
    walk = walk_of(with_own_limits(model, unit.own_limits), unit.options)
    wishes = Wishes()
    if opened is not None:
        pins = await pins_now(here, unit)
        # What it is walked for is asked before the meter is read: then it shows what its file says.
        opened = replace(opened, hour_meter=opened.hour_meter or unit.hours - unit.offset)
        known = here.catalog
        walk = walk_on(walk, opened, pins, known.kinds, known.questions, frozenset(d.key[0] for d in defects))
        wishes = Wishes(beside=neighbours(walk.model, opened.conditions))
    bound = _bound(here.editions.of(model)[0], unit.own_limits, walk)
    edition = Edition(walk.model, here.catalog.rulebook, here.catalog.kinds, here.catalog.questions)
    grades = {i.defect: i.grade for i in items_of(edition, defects, unit.hours)}
    own, schools = frozenset(unit.own_limits), await schools_of(here, walk.model)
    wishes = replace(wishes, direction=direction_in(schools))
    return MachineWalk(unit, walk, wishes, bound, defects, grades, own, current, None, schools)


def _bound(edition: str, own_limits: Mapping[str, Limit], walk: Walk) -> Bound:
    return edition, tuple(sorted(own_limits.items())), walk.options


def _planned_alone(walk: Walk, wishes: Wishes) -> tuple[Route, ...]:
    return (plan_route(walk, wishes),)


class Ways:
    """Ways that were planned, by what they were planned for: the same question has the same answer."""

    def __init__(self) -> None:
        self._kept: OrderedDict[object, tuple[Route, ...]] = OrderedDict()

    async def planned(self, shop: Shop, walk: Walk, bound: Bound, wishes: Wishes, people: int = 1) -> tuple[Route, ...]:
        """The shortest way for one person, or shared by two; worked out beside the server if it is new."""
        key = (bound, tuple(c.id for c in walk.checkpoints), wishes, people)
        if key not in self._kept:
            both = people == 2
            made = await shop.aside.run(plan_pair if both else _planned_alone, walk, wishes)
            self._kept[key] = made
            if len(self._kept) > MOST_WAYS:
                self._kept.popitem(last=False)
        self._kept.move_to_end(key)
        return self._kept[key]


async def way_of(shop: Shop, w: MachineWalk) -> Route:
    """The shortest way round a machine, for one person."""
    return (await shop.books.one(Ways).planned(shop, w.walk, w.bound, w.wishes))[0]


async def direction_here(here: Here, machine: str) -> Direction | None:
    """Which way round a machine is walked here where nobody wishes otherwise; None: the shortest."""
    return direction_in(await schools_of(here, await unit_model(here, await unit_of(here, machine))))


async def walk_again(
    here: Here, machine: str, opened: Opened, open_at: frozenset[str], wishes: Wishes
) -> tuple[Walk, Bound, Wishes]:
    """What the way on from where one stands is planned for."""
    unit = await unit_of(here, machine)
    model = await unit_model(here, unit)
    whole = walk_of(model, unit.options)
    kind = here.catalog.kinds.get(opened.purpose)
    if kind is None:
        kinds = ", ".join(here.catalog.kinds)
        raise BadInput(
            "purpose", "'{purpose}' is no kind of inspection; one of {kinds}", purpose=opened.purpose, kinds=kinds
        )
    pins = await pins_now(here, unit)
    answers = answers_given(opened.conditions, here.catalog.questions)
    meter = opened.hour_meter or unit.hours - unit.offset
    rests = {} if opened.conditions.serviced else resting(whole, meter, pins)
    walk = walk_for(whole, kind, answers, open_at | pins.open_at, pins.changed, resting=rests)
    wishes = replace(wishes, beside=neighbours(whole.model, opened.conditions))
    return walk, _bound(pins.edition, unit.own_limits, walk), wishes


def route_wishes(
    known: Catalog,
    model_id: str,
    options: Sequence[str] | None,
    kind_id: str,
    answers: Sequence[str],
    wishes: Wishes,
    beside: str,
) -> tuple[Walk, Wishes]:
    """The walk of a catalog model and the wishes for it; no options given: everything it can have.

    Raises
    ------
    BadInput
        For a model, option, kind, answer or side that there is not, naming what there is.
    """
    model = shipped_model(known, model_id)
    check_options(model, options or ())
    if kind_id not in known.kinds:
        raise BadInput(
            "kind",
            "'{kind_id}' is no kind of inspection; one of {those}",
            kind_id=kind_id,
            those=", ".join(known.kinds),
        )
    says = {q.id: q.says for q in known.questions}
    for answer in answers:
        if answer not in says:
            raise BadInput(
                "answers",
                "the approach asks nothing called '{answer}'; one of {those}",
                answer=answer,
                those=", ".join(says),
            )
    gaps: dict[str, float] = {}
    for part in (p.strip() for p in beside.split(",") if p.strip()):
        side, _, metres = part.partition("=")
        try:
            gaps[f"gap_{side}"] = float(metres)
        except ValueError:
            raise BadInput("beside", "write it like left=0.5; '{part}' is not", part=part) from None
        if side not in SIDES or not 0 <= gaps[f"gap_{side}"] <= 30:
            raise BadInput("beside", "a side is one of {those}, and the gap 0 to 30 m", those=", ".join(SIDES))
    whole = walk_of(model, frozenset(model.options if options is None else options))
    walk = walk_for(whole, known.kinds[kind_id], {a: Said(says[a], (), "because") for a in answers})
    return walk, replace(wishes, beside=neighbours(model, decode(Conditions, gaps)))
