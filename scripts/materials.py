"""What Jutrel is made with: `materials.py bill` prints a bill of materials, `materials.py notices` docs/notices.md.

The packages are those of the lock files; versions and licences are what each package says of itself.
"""

from __future__ import annotations

import json
import re
import sys
from dataclasses import dataclass
from importlib.metadata import PackageNotFoundError, metadata
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]


@dataclass(frozen=True)
class Material:
    """A package that ships or is needed; `kind`: pypi or npm."""

    kind: str
    name: str
    version: str
    licence: str


def python_materials() -> list[Material]:
    """The packages that the server runs with."""
    text = (ROOT / "requirements" / "app.txt").read_text()
    found = re.findall(r"^([A-Za-z0-9._-]+)(?:\[[^]]*\])?==([^ ;\\]+)", text, flags=re.MULTILINE)
    return [Material("pypi", name, version, _licence(name)) for name, version in found]


def _licence(name: str) -> str:
    try:
        said = metadata(name)
    except PackageNotFoundError:
        return "not installed here"
    if said.get("License-Expression"):
        return str(said["License-Expression"])
    kinds = [c.split(" :: ")[-1] for c in said.get_all("Classifier") or [] if c.startswith("License")]
    own = str(said.get("License") or "").strip().splitlines()
    return ", ".join(kinds) or (own[0] if own else "see the package")


def web_materials() -> list[Material]:
    """The packages that the pages are built from, and what these need."""
    lock = json.loads((ROOT / "web" / "package-lock.json").read_text())["packages"]
    out = []
    for path, package in lock.items():
        if path.startswith("node_modules/") and not package.get("dev") and not package.get("optional"):
            name = path.split("node_modules/")[-1]
            out.append(Material("npm", name, package["version"], str(package.get("license", "see the package"))))
    return sorted(set(out), key=lambda m: (m.name, m.version))


def bill() -> str:
    """A bill of materials, CycloneDX 1.5."""
    parts = [
        {
            "type": "library",
            "name": m.name,
            "version": m.version,
            "purl": f"pkg:{m.kind}/{m.name.replace('@', '%40')}@{m.version}",
            "licenses": [{"license": {"name": m.licence}}],
        }
        for m in [*python_materials(), *web_materials()]
    ]
    version = re.search(r'^version = "([^"]+)"', (ROOT / "pyproject.toml").read_text(), flags=re.MULTILINE)
    assert version is not None
    whole = {"type": "application", "name": "jutrel", "version": version[1]}
    document = {"bomFormat": "CycloneDX", "specVersion": "1.5", "metadata": {"component": whole}, "components": parts}
    return json.dumps(document, indent=1)


def notices() -> str:
    """The packages with their licences, as a page."""
    lines = [
        "# What is shipped from others",
        "",
        "Made by `make notices` from the lock files. Each licence is what its package says of itself; its whole text",
        "comes with the package.",
    ]
    for title, found in (("On the server", python_materials()), ("In the pages", web_materials())):
        lines += ["", f"## {title}", "", "| package | version | licence |", "|---|---|---|"]
        lines += [f"| {m.name} | {m.version} | {m.licence} |" for m in sorted(found, key=lambda m: m.name.lower())]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    sys.stdout.write({"bill": bill, "notices": notices}[sys.argv[1]]() + ("\n" if sys.argv[1] == "bill" else ""))
