"""A line of the bench: what was measured, the figure, its target, and whether it holds; and the page of figures."""

from __future__ import annotations

import math
import os
import platform
import re
import subprocess
import time
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
PAGE = ROOT / "docs" / "speed.md"


@dataclass
class Lines:
    """Lines as they come, and how many miss their target."""

    missed: list[str] = field(default_factory=list)
    additions: list[float] = field(default_factory=list)
    """How long ten million additions took at each part's beginning [s]: how quick the computer was just then."""
    printed: list[str] = field(default_factory=list)

    def head(self, title: str) -> None:
        """Begin a part."""
        begun = time.perf_counter()
        sum(range(10_000_000))
        self.additions.append(time.perf_counter() - begun)
        self.tell(f"\n{title}\n{'':66}{'figure':>10}{'target':>12}")

    def tell(self, text: str) -> None:
        """Print something that stands on the page, too."""
        print(text, flush=True)
        self.printed += text.split("\n")

    def add(self, name: str, figure: float, target: float | None, unit: str = "×", least: bool = False) -> None:
        """Print a line; `least`: the figure is to be at least the target, not at most.

        Raises
        ------
        SystemExit
            If there is no figure: what cannot be measured is no line.
        """
        if not math.isfinite(figure):
            raise SystemExit(f"{name}: there is no figure")
        holds = target is None or (figure >= target if least else figure <= target)
        told = "" if target is None else f"{'≥' if least else '≤'} {target:g} {unit}"
        self.tell(f"{name:66}{figure:8.1f} {unit:3}{told:>12}{'' if holds else '   MISSED'}")
        if not holds:
            self.missed.append(name)

    def write(self, began: datetime) -> None:
        """Put the figures on the page, with the computer, the day and the commit that they are of."""
        commit = _git("rev-parse", "--short", "HEAD") or "no commit"
        if _git("status", "--porcelain", "src", "web/src"):
            commit += ", with changes that are in none"
        took = (datetime.now(UTC) - began).total_seconds() / 60
        quick, slow = min(self.additions), max(self.additions)
        says = (
            f"By `make bench` on {began:%Y-%m-%d}, at {commit}, in {took:.0f} minutes: {os.cpu_count()} cores, "
            f"{platform.machine()}, Python {platform.python_version()}; {len(self.missed)} targets missed. The "
            f"computer added ten million numbers in {quick:.2f} to {slow:.2f} s meanwhile."
        )
        text = PAGE.read_text()
        block = f"<!-- figures -->\n{says}\n\n```\n" + "\n".join(self.printed).strip("\n") + "\n```\n<!-- end -->"
        found, count = re.subn(r"<!-- figures -->.*<!-- end -->", lambda _: block, text, flags=re.DOTALL)
        if count != 1:
            raise SystemExit("docs/speed.md has no place for the figures")
        PAGE.write_text(found)


def _git(*asked: str) -> str:
    done = subprocess.run(["git", *asked], cwd=ROOT, capture_output=True, text=True, check=False)
    return done.stdout.strip()
