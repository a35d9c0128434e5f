"""What a machine is made of, and refusing a family that does not pay what its traits owe."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from jutrel.catalog.documents.families import FamilyFile
from jutrel.catalog.documents.traits import DueDoc, TraitDoc, TraitsFile
from jutrel.catalog.files import SourceFile
from jutrel.core.machine.family import Family
from jutrel.core.procedure.step import Step

OR = " or "


@dataclass(frozen=True, slots=True)
class Owed:
    """One thing that is owed: for which trait or option, why, which of these ids, and whether they are steps."""

    of: str
    says: str
    one_of: tuple[str, ...]
    step: bool


class Traits:
    """The traits there are; raises BadFile for a group that is not there or a trait that is there twice."""

    def __init__(self, path: Path) -> None:
        source = SourceFile(path)
        self.file = source.parse(TraitsFile)
        groups = {g.id for g in self.file.groups}
        self.by_id: dict[str, TraitDoc] = {}
        for i, trait in enumerate(self.file.traits):
            if trait.id in self.by_id:
                raise source.refuse(("traits", i, "id"), "trait '{id}' is there twice", id=trait.id)
            if trait.group is not None and trait.group not in groups:
                raise source.refuse(("traits", i, "group"), "there is no group '{group}'", group=trait.group)
            self.by_id[trait.id] = trait

    def check_names(self, source: SourceFile, file: FamilyFile) -> None:
        """That a family's traits are there, and that it answers every question about what it is made of.

        Raises
        ------
        BadFile
            At the family's traits, with those there are.
        """
        for i, name in enumerate(file.traits):
            if name not in self.by_id:
                says = "there is no trait '{it}'; one of {those}"
                raise source.refuse(("traits", i), says, it=name, those=", ".join(self.by_id))
        for group in self.file.groups:
            those = [t.id for t in self.file.traits if t.group == group.id]
            named = [t for t in file.traits if t in those]
            if not named:
                says = "{asks} Name one of {those}"
                raise source.refuse(("traits",), says, asks=group.asks, those=", ".join(those))
            if len(named) > 1 and not group.many:
                says = "{asks} Name one of {named}, not several"
                raise source.refuse(("traits",), says, asks=group.asks, named=", ".join(named))

    def owed(self, source: SourceFile, file: FamilyFile) -> Iterator[Owed]:
        """Everything that a family owes."""
        for due in self.file.every:
            yield from _owed("every machine", due, ())
        for option in file.options:
            if (due_of := self.file.options.get(option.id)) is not None:
                yield from _owed(f"the option {option.id}", due_of, ())
        for i, name in enumerate(file.traits):
            for due in self.by_id[name].owes:
                names = file.each.get(due.each, []) if due.each else []
                if due.each and not names:
                    says = "name each: {each}: [...], as in the ids of its checkpoints"
                    raise source.refuse(("traits", i), says, each=due.each)
                yield from _owed(f"the trait {name}", due, names)

    def check_checkpoints(self, source: SourceFile, file: FamilyFile, family: Family) -> None:
        """That a family has the checkpoints that it owes; raises BadFile at its stations."""
        self._check(source, file, {c.id for c in family.checkpoints}, steps=False)

    def check_steps(self, source: SourceFile, file: FamilyFile, steps: Sequence[Step]) -> None:
        """That a family has the life steps that it owes; raises BadFile at its traits."""
        self._check(source, file, {s.id for s in steps if s.life}, steps=True)

    def _check(self, source: SourceFile, file: FamilyFile, have: set[str], *, steps: bool) -> None:
        for due in self.owed(source, file):
            if due.step is steps and not have & set(due.one_of):
                says = "{of} owes the life step '{it}': {why}" if steps else "{of} owes the checkpoint '{it}': {why}"
                at = ("traits",) if steps else ("stations",)
                raise source.refuse(at, says, of=due.of, it=OR.join(due.one_of), why=due.says)


def _owed(of: str, due: DueDoc, names: Sequence[str]) -> Iterator[Owed]:
    for step, ids in ((False, due.checkpoints), (True, due.steps)):
        for one in ids:
            for name in names or [""]:
                yield Owed(of, due.says, tuple(x.format(name) for x in one.split(OR)), step)


def having(traits: Mapping[str, Collection[str]], any_of: Collection[str]) -> frozenset[str]:
    """The families, by their traits, that have one of these."""
    return frozenset(family for family, its in traits.items() if set(its) & set(any_of))
