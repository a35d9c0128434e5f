"""The version of the core's judgement: nothing that decides changes without it, and what changes no answer leaves it.

How it could send somebody out: a release in which a limit in the code is another one, under the same edition.
"""

from __future__ import annotations

import ast
import copy
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from jutrel.catalog.compile import edition_of
from jutrel.catalog.files import BadFile
from jutrel.catalog.judgement import CORE, deciding, digest, judgement
from jutrel.catalog.load import load_catalog
from jutrel.catalog.whole import FOLDER
from jutrel.core.edition import compiled, edition_hash
from tests.conftest import CATALOG
from tests.deep import DEEP

EVERY = 1 if DEEP else 9
"""Every so many constants of a module are changed; all of them in `make test-deep`."""


def constants(tree: ast.Module) -> Iterator[ast.Constant]:
    """Figures, truths and texts that decide: those in the words of sentences and in docstrings do not."""
    words: set[int] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and getattr(node.func, "id", "") in ("say", "as_written", "BadInput"):
            words |= {id(a) for a in node.args}
        if isinstance(node, ast.Expr):
            words.add(id(node.value))
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and node.value not in (None, ...) and id(node) not in words:
            yield node


def other(value: object) -> object:
    """Another value of its kind."""
    match value:
        case bool():
            return not value
        case int() | float():
            return value + 1
    return f"{value}x" if isinstance(value, str) else b"x"


@pytest.mark.parametrize("path", deciding(), ids=lambda p: p.relative_to(CORE).as_posix())
def test_no_constant_that_decides_changes_without_the_judgement(path: Path) -> None:
    tree = ast.parse(path.read_text("utf-8"))
    before = digest(copy.deepcopy(tree))
    for node in list(constants(tree))[::EVERY]:
        was, node.value = node.value, other(node.value)  # type: ignore[assignment]
        assert digest(copy.deepcopy(tree)) != before, f"{path.name}:{node.lineno} {was!r}"
        node.value = was
    assert digest(tree) == before


def test_words_comments_and_layout_do_not_decide() -> None:
    plain = 'LIMIT = 0.8\n\ndef low(x):\n    return say("Fill it.", x=x) if x < LIMIT else None\n'
    told = '"""Told."""\nLIMIT = 0.8\n"""Of the cold pressure."""\n\ndef low(x):\n    """Low."""\n'
    told += '    # since it is so\n    return say("Fill it up.", x=x) if x < LIMIT else None\n'
    harder = plain.replace("<", "<=")
    assert digest(ast.parse(plain)) == digest(ast.parse(told)) != digest(ast.parse(harder))


def test_it_is_part_of_every_edition() -> None:
    model = next(iter(CATALOG.models.values()))
    assert CATALOG.judgement == judgement()
    renewed = replace(CATALOG, judgement="another")
    names = [edition_hash(compiled(edition_of(c, model))) for c in (CATALOG, renewed)]
    assert names[0] != names[1]


@pytest.mark.parametrize(("folder", "of"), [("models", "hestrun-k17"), ("families", "crawler-dozer")])
def test_an_id_that_is_there_already_is_refused_with_both_files(tmp_path: Path, folder: str, of: str) -> None:
    """A second model of that id would silently take the place of the first, with its figures."""
    for path in FOLDER.iterdir():
        if path.is_dir() and path.name == folder:
            (tmp_path / folder).mkdir()
            for file in path.iterdir():
                (tmp_path / folder / file.name).write_bytes(file.read_bytes())
        elif path.name != "__pycache__":
            (tmp_path / path.name).symlink_to(path)
    (tmp_path / folder / "zz-copy.yaml").write_bytes((FOLDER / folder / f"{of}.yaml").read_bytes())
    with pytest.raises(BadFile) as refused:
        load_catalog(tmp_path)
    said = str(refused.value)
    assert "zz-copy.yaml" in said
    assert f"{of}.yaml" in said
