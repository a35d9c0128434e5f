"""The version of the core's judgement: a name that is another whenever anything in it that decides is another.

A limit in a rule file is part of an edition as it is written there. A limit, a table or a formula in the core is part
of it by this name. Words, comments and layout do not decide, and leave it as it is.
"""

from __future__ import annotations

import ast
import hashlib
from functools import lru_cache
from pathlib import Path

from jutrel.catalog.whole import FOLDER

CORE = FOLDER.parent / "core"
DECIDES = (
    "clearance",
    "defect",
    "grading",
    "inspection",
    "machine",
    "panel",
    "procedure",
    "reading",
    "amounts.py",
)
"""The rooms of the core in which something is decided: the route and the codec are not among them."""
DRAWN = "drawing"
_WORDS = frozenset({"say", "as_written", "BadInput"})
"""Calls whose first plain texts are told to people."""


class _Bare(ast.NodeTransformer):
    """Takes away what decides nothing: docstrings, and the words of sentences."""

    def visit_Expr(self, node: ast.Expr) -> ast.AST | None:
        """A text that stands by itself is a docstring."""
        if isinstance(node.value, ast.Constant) and isinstance(node.value.value, str):
            return None
        return self.generic_visit(node)

    def visit_Call(self, node: ast.Call) -> ast.AST:
        """A sentence is the same sentence in other words; what is put into it stays."""
        self.generic_visit(node)
        if isinstance(node.func, ast.Name) and node.func.id in _WORDS:
            node.args = [a for a in node.args if not (isinstance(a, ast.Constant) and isinstance(a.value, str))]
        return node


def digest(source: ast.Module) -> str:
    """What a module decides, as a hash; the tree is left without its words.

    >>> limit, other, noted = (ast.parse(x) for x in ("A = 5", "A = 6", '"A limit."  # in K\\nA = 5'))
    >>> digest(limit) == digest(noted), digest(limit) == digest(other)
    (True, False)
    """
    return hashlib.sha256(ast.dump(_Bare().visit(source)).encode()).hexdigest()


def deciding(core: Path = CORE) -> tuple[Path, ...]:
    """The modules of the core in which something is decided."""
    found = [p for room in DECIDES for p in ([core / room] if room.endswith(".py") else (core / room).rglob("*.py"))]
    return tuple(sorted(p for p in found if DRAWN not in p.relative_to(core).parts))


@lru_cache(maxsize=4)
def judgement(core: Path = CORE) -> str:
    """The version of judgement of a core, as its files stood when a process asked first: it runs what it loaded."""
    told = hashlib.sha256()
    for path in deciding(core):
        told.update(f"{path.relative_to(core).as_posix()} {digest(ast.parse(path.read_text('utf-8')))}\n".encode())
    return told.hexdigest()[:16]
