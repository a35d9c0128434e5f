"""A line of the bench: what was measured, the figure, its target, and whether it holds."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass
class Lines:
    """Lines as they come, and how many miss their target."""

    missed: list[str] = field(default_factory=list)

    def head(self, title: str) -> None:
        """Begin a part."""
        print(f"\n{title}\n{'':52}{'figure':>10}{'target':>10}", flush=True)

    def add(self, name: str, figure: float, target: float | None, unit: str = "×", least: bool = False) -> None:
        """Print a line; `least`: the figure is to be at least the target, not at most."""
        holds = target is None or (figure >= target if least else figure <= target)
        told = "" if target is None else f"{'≥' if least else '≤'} {target:g} {unit}"
        print(f"{name:52}{figure:8.1f} {unit:3}{told:>12}{'' if holds else '   MISSED'}", flush=True)
        if not holds:
            self.missed.append(name)
