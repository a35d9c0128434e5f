#!/usr/bin/env bash
# wheel.sh [FOLDER]: one file that is all of Jutrel, with its pages, catalog, fonts and tables; into dist/, or FOLDER.
# Beside it: a bill of materials of everything that it needs (CycloneDX 1.5).
set -euo pipefail
cd "$(dirname "$0")/.."
out=${1:-dist}
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
mkdir -p "$out" "$work/src"
cp pyproject.toml README.md "$work/"
cp -r src/jutrel "$work/src/jutrel"
cp -r web/dist "$work/src/jutrel/pages"
rm -f "$work/src/jutrel/pages/made-for"
find "$work" -name __pycache__ -type d -prune -exec rm -rf {} +
.venv/bin/python -m pip wheel -q --disable-pip-version-check --no-deps --no-build-isolation -w "$out" "$work"
.venv/bin/python scripts/materials.py bill > "$out/jutrel.cdx.json"
ls "$out"/jutrel-*.whl
