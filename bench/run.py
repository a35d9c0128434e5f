"""`make bench`: how long the core's steps take, each as a ratio to a floor measured in the same run.

The floor is what any program must at least do with a walk: read its entries from
JSON text and sort them by id. Ratios travel between machines; milliseconds do not.
"""

from __future__ import annotations

import json
import statistics
import sys
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from bench import panel, readings, route, server, tablet
from bench.lines import Lines
from jutrel.catalog.load import load_catalog
from jutrel.core.defect.settle import Court
from jutrel.core.inspection.hear import Case, hear
from jutrel.core.inspection.look import fold_look
from jutrel.core.log.chain import chained, verify
from jutrel.core.machine.drawing import plan_drawing
from jutrel.core.reading.tank import hydraulic_level
from jutrel.core.route.ground import shortest_leg
from tests.walks import EDITION, LEVEL, MODEL, core, defect, walked

ROUNDS = 15


def timed(work: Callable[[], object]) -> list[float]:
    work()
    out = []
    for _ in range(ROUNDS):
        start = time.perf_counter()
        work()
        out.append((time.perf_counter() - start) * 1000)
    return out


def judged(lines: Lines) -> None:
    """A verdict against folding the same log: of a whole walk, and of forty open defects."""
    whole = core(walked(options=MODEL.options))
    points = [c for c in MODEL.family.checkpoints if not c.reading and not c.when][:40]
    many = {c.id: defect(c.failure_modes[0]) for c in points}
    forty = core(walked(many, MODEL.options))
    lines.head("Verdicts: multiples of folding the same log")
    for name, entries in (("a whole walk", whole), ("forty open defects", forty)):
        reports = Case("look", EDITION, entries).reports

        def fold(entries: object = entries, reports: object = reports) -> object:
            return fold_look(entries, Court(entries, reports))  # type: ignore[arg-type]

        floor = statistics.median(timed(fold))
        took = statistics.median(timed(lambda: hear(Case("look", EDITION, entries))))  # noqa: B023
        lines.add(f"the verdict of {name} ({took:.1f} ms)", took / floor, None)


def main() -> None:
    options = MODEL.options
    answers = {
        c.id: defect("leak", leak_class="I")
        for c in MODEL.family.checkpoints
        if "leak" in c.failure_modes and not c.reading
    }
    log = walked(answers, options)
    text = json.dumps(log)
    entries = core(log)
    reports = Case("look", EDITION, entries).reports
    chain, head = [], "0" * 64
    for seq, e in enumerate(entries, 1):
        chain.append(chained(e, seq, head))
        head = chain[-1].hash
    obstacles = plan_drawing(MODEL).obstacles

    def leg() -> object:
        return shortest_leg((-3.6, 0.6), (5.6, -1.7), obstacles)

    def level() -> object:
        return hydraulic_level(MODEL.tank, 0.3, -4.0, 1.0, -0.5, LEVEL["extensions"])

    def whole() -> object:
        return hear(Case("look", EDITION, core(json.loads(text))))

    floor = timed(lambda: sorted(json.loads(text), key=lambda e: e["id"]))
    steps: list[tuple[str, Callable[[], object]]] = [
        (f"fold {len(log)} entries", lambda: fold_look(entries, Court(entries, reports))),
        (f"hear {len(answers)} defects", lambda: hear(Case("look", EDITION, entries))),
        (f"verify {len(log)} entries", lambda: verify(chain)),
        ("text to verdict", whole),
        ("hydraulic level", level),
        ("one leg round the machine", leg),
        ("load the catalog", load_catalog),
    ]
    began, lines = datetime.now(UTC), Lines()
    base = statistics.median(floor)
    lines.tell(f"{'':28}{'median ms':>10}{'min':>9}{'max':>9}{'× floor':>9}")
    lines.tell(f"{'floor: read and sort':28}{base:10.2f}{min(floor):9.2f}{max(floor):9.2f}{1.0:9.1f}")
    for name, work in steps:
        took = timed(work)
        middle = statistics.median(took)
        lines.tell(f"{name:28}{middle:10.2f}{min(took):9.2f}{max(took):9.2f}{middle / base:9.1f}")
    judged(lines)
    readings.taken(lines)
    panel.read(lines)
    panel.told(lines)
    route.models()
    route.growth()
    server.run(lines)
    tablet.run(lines)
    lines.write(began)
    print(f"\n{len(lines.missed)} targets missed" if lines.missed else "\nall targets hold")


if __name__ == "__main__":
    main()
