"""The catalog that ships, compiled: read and checked once, then kept beside the compiled code.

Some two hundred files are parsed and checked against one another when anything of them changed. What comes out is kept
under the hash of all that it depends on, every file of the catalog and every line of the code that reads it, so that
no rule of yesterday can be used today. It lies where Python keeps its own compiled files, is trusted as those are, and
made anew where it is torn or missing.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import pickle
import sys
from functools import lru_cache
from pathlib import Path

from jutrel.catalog.whole import FOLDER, Catalog

CORE = FOLDER.parent / "core"
READ = ("*.yaml", "*.py", "*.gz")
DIGEST = 32


def stamp(folder: Path = FOLDER, core: Path = CORE) -> str:
    """A name that is another when any file changed that the catalog is made from or made by."""
    seen = hashlib.sha256(sys.version.encode())
    for root in (folder, core):
        for path in sorted(p for pattern in READ for p in root.rglob(pattern)):
            seen.update(f"{path.relative_to(root)}\0{path.stat().st_size}\0".encode())
            seen.update(path.read_bytes())
    return seen.hexdigest()[:32]


def kept(folder: Path, place: Path) -> Catalog:
    """The catalog of a folder, from `place` if it was kept there as it is now; else loaded, checked and kept.

    Raises
    ------
    BadFile
        For the first thing that is wrong in the folder.
    """
    at = place / f"catalog-{stamp(folder)}.pickle"
    if (found := _read(at)) is not None:
        return found
    from jutrel.catalog.load import load_catalog  # parsing takes long to load and is seldom needed

    made = load_catalog(folder)
    with contextlib.suppress(OSError):  # where nothing can be written it is loaded each time
        _write(at, made)
    return made


def _read(at: Path) -> Catalog | None:
    try:
        whole = at.read_bytes()
        digest, content = whole[:DIGEST], whole[DIGEST:]
        if hashlib.sha256(content).digest() != digest:
            return None
        found = pickle.loads(content)
    except Exception:
        return None
    return found if isinstance(found, Catalog) else None


def _write(at: Path, made: Catalog) -> None:
    at.parent.mkdir(exist_ok=True)
    content = pickle.dumps(made, 5)
    new = at.with_suffix(f".{os.getpid()}")
    new.write_bytes(hashlib.sha256(content).digest() + content)
    new.replace(at)
    for old in at.parent.glob("catalog-*.pickle"):
        if old != at:
            old.unlink(missing_ok=True)


@lru_cache(maxsize=1)
def catalog() -> Catalog:
    """The catalog that ships with the package, read once in each process."""
    return kept(FOLDER, FOLDER / "__pycache__")
