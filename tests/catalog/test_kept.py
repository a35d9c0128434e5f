"""The compiled catalog: never another than what its files say now.

How it could send somebody out: a rule is made stricter and the rule of yesterday is still used; a half-written file is
read; a new release of the code reads what the old one kept.
"""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from jutrel.catalog.files import BadFile
from jutrel.catalog.kept import kept, stamp
from jutrel.catalog.load import load_catalog
from jutrel.catalog.whole import FOLDER


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    return Path(shutil.copytree(FOLDER, tmp_path / "catalog", ignore=shutil.ignore_patterns("__pycache__", "texts")))


def test_what_is_kept_is_what_the_files_say(folder: Path, tmp_path: Path) -> None:
    place = tmp_path / "kept"
    made = kept(folder, place)
    (file,) = place.iterdir()
    assert kept(folder, place) == made == load_catalog(folder)
    # The same number of bytes, another figure: it is read anew, and the old one is gone.
    rules = folder / "rules" / "duties" / "feed.yaml"
    before, text = stamp(folder), rules.read_text()
    rules.write_text(text.replace("{low: watch, very-low: mend 10", "{low: watch, very-low: mend 50"))
    assert (rules.stat().st_size, stamp(folder) == before) == (len(text.encode()), False)
    assert kept(folder, place) != made
    assert [p.name == file.name for p in place.iterdir()] == [False]
    # A mistake in a file is said, whatever was kept before.
    rules.write_text(text.replace("id: feed", "id: fead"))
    with pytest.raises(BadFile):
        kept(folder, place)


@pytest.mark.parametrize("torn", [b"", b"x" * 40, None], ids=["empty", "nonsense", "half"])
def test_a_torn_file_is_made_anew(folder: Path, tmp_path: Path, torn: bytes | None) -> None:
    place = tmp_path / "kept"
    made = kept(folder, place)
    (file,) = place.iterdir()
    whole = file.read_bytes()
    file.write_bytes(whole[: len(whole) // 2] if torn is None else torn)
    assert kept(folder, place) == made
    assert file.read_bytes()[:32] == whole[:32], "and kept again"


def test_where_nothing_can_be_written_it_is_loaded_each_time(folder: Path, tmp_path: Path) -> None:
    place = tmp_path / "kept"
    place.write_text("no folder")
    assert kept(folder, place) == kept(folder, place)
