#!/usr/bin/env bash
# The whole test run: format, lint, types and import rules go beside the tests, and give way to them.
set -uo pipefail
cd "$(dirname "$0")/.."
scripts/setup.sh dev || exit 1
mkdir -p .jutrel
nice -n 19 make -s check > .jutrel/check.log 2>&1 &
check=$!
.venv/bin/python -m pytest -n 3 --dist worksteal
tests=$?
if ! wait "$check"; then
  cat .jutrel/check.log
  echo "The checks failed."
  exit 1
fi
exit "$tests"
