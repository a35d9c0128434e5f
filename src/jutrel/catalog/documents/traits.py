"""What the file of traits may hold."""

from __future__ import annotations

from pydantic import Field

from jutrel.catalog.documents.base import Document, Id, Text


class DueDoc(Document):
    says: Text
    each: str = ""
    checkpoints: list[str] = []
    steps: list[str] = []


class TraitDoc(Document):
    id: Id
    name: Text
    group: Id | None = None
    owes: list[DueDoc]


class GroupDoc(Document):
    id: Id
    asks: Text
    many: bool = False


class TraitsFile(Document):
    groups: list[GroupDoc] = Field(min_length=1)
    every: list[DueDoc]
    options: dict[Id, DueDoc]
    traits: list[TraitDoc] = Field(min_length=1)
