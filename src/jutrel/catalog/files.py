"""Reading a YAML file with errors that name file, line, field and what to do."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path
from typing import Any, TypeVar

import yaml
from pydantic import BaseModel, ValidationError

from jutrel.core.refusal import refused_field
from jutrel.core.wording import Said, say


class BadFile(ValueError):
    """A catalog file cannot be used."""

    def __init__(self, path: Path, line: int, field: str, says: str | Said, **values: Any) -> None:
        self.path, self.line, self.field = path, line, field
        self.says = Said(says, tuple(values.items())) if isinstance(says, str) else says
        super().__init__(str(self.said))

    @property
    def said(self) -> Said:
        """Where, and what is wrong."""
        return say(
            "{file}, line {line}, {at}: {says}", file=self.path.name, line=self.line, at=self.field, says=self.says
        )


_Loader: Any = getattr(yaml, "CSafeLoader", yaml.SafeLoader)
Document = TypeVar("Document", bound=BaseModel)
Loc = tuple[int | str, ...]
MOST_BYTES = 400_000
DEEPEST, MOST_NODES = 12, 40_000
_NUMBER = re.compile(r"[-+]?(0|[1-9][0-9]{0,17})(\.[0-9]{1,20})?([eE][-+]?[0-9]{1,3})?")
_WORDS = {"true": True, "false": False, "null": None, "~": None, "": None}


@dataclass(slots=True)
class _Node:
    """A value as it stands in the file: where it begins, and what it holds."""

    line: int
    data: Any
    keys: dict[str, tuple[int, _Node]] | None = None
    items: list[_Node] | None = None


def _typed(text: str, plain: bool) -> Any:
    """A scalar: words for yes, no and nothing and plain numbers mean what they say, all else is text.

    >>> [_typed(t, True) for t in ("true", "1.5", "60:30", "2026-02-31")]
    [True, 1.5, '60:30', '2026-02-31']
    """
    if not plain:
        return text
    if text in _WORDS:
        return _WORDS[text]
    found = _NUMBER.fullmatch(text)
    if found is None:
        return text
    return int(text) if found.group(2) is None and found.group(3) is None else float(text)


def _node(event: Any, line: int) -> _Node:
    """An empty node for what begins here, or the whole one of a scalar."""
    if isinstance(event, yaml.MappingStartEvent):
        return _Node(line, {}, keys={})
    if isinstance(event, yaml.SequenceStartEvent):
        return _Node(line, [], items=[])
    return _Node(line, _typed(event.value, bool(event.implicit[0])))


_READ: dict[str, _Node] = {}
MOST_READ = 400
"""So many texts are not read again by a process: a folder of which one file changed is read as that one file."""


class SourceFile:
    """A parsed YAML file that still knows the line of every field.

    Read event by event, within bounds: no references, no tags, nothing deep or endless is ever built.
    """

    def __init__(self, path: Path, text: str | None = None) -> None:
        self.path = path
        try:
            text = path.read_text(encoding="utf-8") if text is None else text
            if len(text.encode()) > MOST_BYTES:
                raise BadFile(path, 1, "file", "is larger than {it} kB", it=MOST_BYTES // 1000)
            root = _READ.get(text)
            if root is None and (root := self._read(text)) is not None:
                if len(_READ) >= MOST_READ:
                    _READ.clear()
                _READ[text] = root
        except (yaml.YAMLError, UnicodeDecodeError, UnicodeEncodeError) as error:
            mark = getattr(error, "problem_mark", None)
            problem = getattr(error, "problem", None) or str(error)
            raise BadFile(
                path, mark.line + 1 if mark else 1, "file", "is not readable YAML: {problem}", problem=problem
            ) from None
        if root is None or not isinstance(root.data, dict):
            raise BadFile(path, 1, "file", "is empty, or not a list of fields with their values")
        self._root = root
        self.data: Any = root.data

    def _read(self, text: str) -> _Node | None:
        """The one document of the file, as a tree of nodes."""
        root: _Node | None = None
        open_: list[_Node] = []
        key: list[tuple[str, int] | None] = []
        names: list[str] = []
        count = 0
        for event in yaml.parse(text, Loader=_Loader):
            line = event.start_mark.line + 1 if event.start_mark else 1
            if isinstance(event, (yaml.MappingEndEvent, yaml.SequenceEndEvent)):
                open_.pop()
                key.pop()
                names.pop()
                continue
            if isinstance(event, yaml.DocumentStartEvent) and root is not None:
                raise BadFile(self.path, line, "file", "holds more than one document: keep one")
            if isinstance(event, yaml.AliasEvent):
                # A reference inside a reference can grow without end.
                raise BadFile(self.path, line, "file", "uses references (*name): write the values out")
            if not isinstance(event, (yaml.ScalarEvent, yaml.CollectionStartEvent)):
                continue
            count += 1
            if count > MOST_NODES or len(open_) >= DEEPEST:
                what = say("lists within lists {n} deep", n=DEEPEST)
                if count > MOST_NODES:
                    what = say("more than {n} values", n=MOST_NODES)
                raise BadFile(self.path, line, "file", "has {what}: this is no file of ours", what=what)
            if event.tag is not None and not (isinstance(event, yaml.ScalarEvent) and event.tag == "!"):
                raise BadFile(self.path, line, "file", "uses a tag ({tag}): write the value plainly", tag=event.tag)
            if open_ and open_[-1].keys is not None and key[-1] is None:
                if not isinstance(event, yaml.ScalarEvent):
                    raise BadFile(self.path, line, "file", "has a list where the name of a field belongs")
                key[-1] = (event.value, line)
                if event.value in open_[-1].keys:
                    # A field written twice would silently lose one of its values.
                    raise BadFile(self.path, line, ".".join([*names[1:], event.value]), "is there twice: keep one")
                continue
            node, name = _node(event, line), ""
            if not open_:
                root = node
            elif (at := key[-1]) is not None and open_[-1].keys is not None:
                open_[-1].keys[at[0]] = (at[1], node)
                open_[-1].data[at[0]] = node.data
                key[-1], name = None, at[0]
            elif open_[-1].items is not None:
                name = str(len(open_[-1].items))
                open_[-1].items.append(node)
                open_[-1].data.append(node.data)
            if node.keys is not None or node.items is not None:
                open_.append(node)
                key.append(None)
                names.append(name)
        return root

    def line(self, loc: Loc) -> int:
        """The line [1…] of a field, or of the nearest thing around it."""
        node, line = self._root, self._root.line
        for step in loc:
            if node.keys is not None:
                if str(step) not in node.keys:
                    return line
                line, node = node.keys[str(step)]
            elif node.items is not None and isinstance(step, int) and step < len(node.items):
                node = node.items[step]
                line = node.line
            else:
                break
        return line

    def refuse(self, loc: Loc, says: str | Said, **values: Any) -> BadFile:
        """An error at a field of this file."""
        return BadFile(self.path, self.line(loc), ".".join(str(x) for x in loc) or "file", says, **values)

    def parse(self, document: type[Document]) -> Document:
        """The file as `document`.

        Raises
        ------
        BadFile
            For the first field that is missing, unknown or wrong.
        """
        try:
            return document.model_validate(self.data)
        except ValidationError as error:
            first = error.errors()[0]
            loc = tuple(x for x in first["loc"] if x not in ("own", "use"))
            says = refused_field(first["type"], first.get("ctx", {}), first["msg"])
            raise self.refuse(loc, says) from None
