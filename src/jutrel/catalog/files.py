"""Reading a YAML file with errors that name file, line, field and what to do."""

from __future__ import annotations

from pathlib import Path
from typing import Any, TypeVar

import yaml
from pydantic import BaseModel, ValidationError


class BadFile(ValueError):
    """A catalog file cannot be used."""

    def __init__(self, path: Path, line: int, field: str, says: str) -> None:
        super().__init__(f"{path.name}, line {line}, {field}: {says}")
        self.path, self.line, self.field, self.says = path, line, field, says


_Loader: Any = getattr(yaml, "CSafeLoader", yaml.SafeLoader)
Document = TypeVar("Document", bound=BaseModel)
Loc = tuple[int | str, ...]


class SourceFile:
    """A parsed YAML file that still knows the line of every field."""

    def __init__(self, path: Path, text: str | None = None) -> None:
        self.path = path
        try:
            text = path.read_text(encoding="utf-8") if text is None else text
            if next((t for t in yaml.scan(text, Loader=_Loader) if isinstance(t, yaml.AliasToken)), None):
                # A reference inside a reference can grow without end.
                raise BadFile(path, 1, "file", "uses references (*name): write the values out")
            self._root = yaml.compose(text, Loader=_Loader)
            self.data: Any = yaml.load(text, Loader=_Loader)
        except (yaml.YAMLError, UnicodeDecodeError) as error:
            mark = getattr(error, "problem_mark", None)
            problem = getattr(error, "problem", None) or str(error)
            raise BadFile(path, mark.line + 1 if mark else 1, "file", f"is not readable YAML: {problem}") from None
        if self._root is None or not isinstance(self.data, dict):
            raise BadFile(path, 1, "file", "is empty, or not a list of fields with their values")
        self._no_twins(self._root, ())

    def _no_twins(self, node: Any, loc: Loc) -> None:
        """A field written twice would silently lose one of its values."""
        if isinstance(node, yaml.MappingNode):
            seen: set[str] = set()
            for key, value in node.value:
                here: Loc = (*loc, str(key.value))
                if key.value in seen:
                    field = ".".join(str(x) for x in here)
                    raise BadFile(self.path, key.start_mark.line + 1, field, "is there twice: keep one")
                seen.add(key.value)
                self._no_twins(value, here)
        elif isinstance(node, yaml.SequenceNode):
            for i, value in enumerate(node.value):
                self._no_twins(value, (*loc, i))

    def line(self, loc: Loc) -> int:
        """The line [1…] of a field, or of the nearest thing around it."""
        node, line = self._root, 1
        for step in loc:
            if node is None:
                break
            line = node.start_mark.line + 1
            if isinstance(node, yaml.MappingNode):
                pair = next(((k, v) for k, v in node.value if k.value == str(step)), None)
                if pair is None:
                    return line
                line, node = pair[0].start_mark.line + 1, pair[1]
            elif isinstance(node, yaml.SequenceNode) and isinstance(step, int) and step < len(node.value):
                node = node.value[step]
                line = node.start_mark.line + 1
            else:
                break
        return line

    def refuse(self, loc: Loc, says: str) -> BadFile:
        """An error at a field of this file."""
        return BadFile(self.path, self.line(loc), ".".join(str(x) for x in loc) or "file", says)

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
            says = {"missing": "is missing", "extra_forbidden": "is not a known field"}.get(first["type"], first["msg"])
            raise self.refuse(loc, says) from None
