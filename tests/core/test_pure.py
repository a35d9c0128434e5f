"""The core stands alone, and the layers point one way."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path

SRC = Path(__file__).resolve().parents[2] / "src"
MODULES = sorted(
    ".".join(p.relative_to(SRC).with_suffix("").parts).removesuffix(".__init__")
    for p in (SRC / "jutrel/core").rglob("*.py")
)


def test_core_imports_with_nothing_installed() -> None:
    """No site-packages at all (-S -I): every module of the core, and nothing outside the standard library."""
    script = (
        f"import sys; sys.path.insert(0, {str(SRC)!r})\n"
        f"import importlib\nfor name in {MODULES!r}: importlib.import_module(name)\n"
        "tops = {m.split('.')[0] for m in sys.modules} - set(sys.stdlib_module_names) - {'jutrel', '__main__'}\n"
        "assert not [t for t in tops if not t.startswith('_')], tops\n"
        "assert not [m for m in sys.modules if m.startswith('jutrel.') and not m.startswith('jutrel.core')]\n"
    )
    done = subprocess.run([sys.executable, "-S", "-I", "-c", script], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


def test_core_asks_for_no_time_no_chance_no_file() -> None:
    for path in (SRC / "jutrel/core").rglob("*.py"):
        text = path.read_text()
        for word in (
            r"datetime\.now",
            r"time\.time",
            "import random",
            r"import os\b",
            r"\bopen\(",
            "pathlib",
            "urllib",
            "socket",
        ):
            assert not re.search(word, text), f"{path.name} uses {word}"


def test_import_contracts() -> None:
    lint = Path(sys.executable).with_name("lint-imports")
    done = subprocess.run(
        [str(lint), "--no-logo", "--no-cache"], capture_output=True, text=True, cwd=SRC.parent, check=False
    )
    assert done.returncode == 0, done.stdout
    assert "8 kept, 0 broken" in done.stdout
