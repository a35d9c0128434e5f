"""What no test runs is still read: every import of bench, scripts, sources and tests leads somewhere, also those that
stand inside a function, and every file of bench and scripts loads."""

from __future__ import annotations

import ast
import importlib
import importlib.util
import sys
from pathlib import Path

import pytest

from tests.conftest import ROOT

OWN = ("jutrel", "bench", "tests")
FILES = sorted(p for folder in ("bench", "scripts", "src", "tests") for p in (ROOT / folder).rglob("*.py"))


def lost(path: Path) -> list[str]:
    """Imports of our own that lead nowhere."""
    out = []
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            out += [a.name for a in node.names if a.name.split(".")[0] in OWN and not _is_module(a.name)]
        if isinstance(node, ast.ImportFrom) and node.module and node.level == 0 and node.module.split(".")[0] in OWN:
            if not _is_module(node.module):
                out.append(node.module)
                continue
            module = importlib.import_module(node.module)
            names = [a.name for a in node.names if a.name != "*"]
            out += [
                f"{node.module}.{n}"
                for n in names
                if not hasattr(module, n) and not _is_module(f"{node.module}.{n}")
            ]  # fmt: skip
    return out


def _is_module(name: str) -> bool:
    try:
        return importlib.util.find_spec(name) is not None
    except ModuleNotFoundError:
        return False


@pytest.mark.parametrize("folder", ["bench", "scripts", "src", "tests"])
def test_every_import_leads_somewhere(folder: str) -> None:
    found = {str(p.relative_to(ROOT)): bad for p in FILES if p.is_relative_to(ROOT / folder) and (bad := lost(p))}
    assert found == {}


@pytest.mark.parametrize("path", [p for p in FILES if p.parts[-2] in ("bench", "scripts")], ids=lambda p: p.stem)
def test_it_loads(path: Path) -> None:
    spec = importlib.util.spec_from_file_location(f"loaded_{path.stem}", path)
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    sys.modules[spec.name] = module  # where dataclasses look for their names
    spec.loader.exec_module(module)
