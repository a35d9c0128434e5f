# make demo: everything from a bare machine to the served demo. make test: everything the tests need, then the tests.

# make weeks: the demo's twelve weeks lived anew and written down as they ship, about seven minutes.
.PHONY: demo demo-reset weeks test test-deep check format bench screenshots grading schema notices wheel clean
PY = .venv/bin/python
export PATH := $(CURDIR)/.venv/bin:$(PATH)

demo:
	@scripts/setup.sh app
	@exec $(PY) scripts/demo.py

weeks:
	@./scripts/setup.sh dev
	@$(PY) scripts/history.py

demo-reset:
	@scripts/setup.sh app
	@exec $(PY) scripts/demo.py --reset

test:
	@scripts/test.sh

test-deep:
	@scripts/setup.sh dev
	@JUTREL_DEEP=1 $(PY) -m pytest -n 2 tests/log/test_machine_of_states.py tests/log/test_kills.py tests/core tests/store/test_store.py \
	  tests/api/test_contract.py tests/api/test_limits.py tests/api/test_past_the_software.py tests/api/test_live.py tests/browser/test_fit.py tests/browser/test_defects.py tests/browser/test_families.py tests/browser/test_readings.py tests/browser/test_live_shift.py tests/browser/test_languages.py \
	  tests/api/test_own_interlocks.py tests/catalog \
	  tests/browser/test_no_network.py tests/browser/test_run.py tests/panel tests/exchange/test_options.py \
	  tests/clearance tests/test_demo_hours.py tests/test_demo.py tests/test_weeks.py

check:
	@scripts/setup.sh dev
	@$(PY) -m ruff format --check -q . && $(PY) -m ruff check -q . && $(PY) -m mypy && .venv/bin/lint-imports --no-logo >/dev/null
	@cd web && npx --no-install vue-tsc --noEmit --incremental --tsBuildInfoFile node_modules/.cache/vue-tsc.json \
	  && npx --no-install prettier --log-level warn --cache --cache-location node_modules/.cache/prettier.json --check . \
	  && npx --no-install eslint --cache --cache-location node_modules/.cache/eslint/ .

# The client twice: a line broken once may be broken better once it is broken.
format:
	@scripts/setup.sh dev
	@$(PY) -m ruff check -q --fix-only --select I . && $(PY) -m ruff format -q .
	@cd web && npx --no-install prettier --log-level warn --write . && npx --no-install prettier --log-level warn --write .

bench:
	@scripts/setup.sh dev
	@$(PY) bench/run.py

screenshots:
	@scripts/setup.sh dev
	@$(PY) scripts/screenshots.py

grading:
	@for f in src/jutrel/catalog/families/*.yaml; do n=$$(basename $$f .yaml); \
	  .venv/bin/jutrel grading $$n > docs/grading/$$n.md; done

schema:
	@.venv/bin/jutrel schema > docs/record.schema.json

notices:
	@$(PY) scripts/materials.py notices > docs/notices.md

wheel:
	@scripts/setup.sh app
	@scripts/wheel.sh

clean:
	rm -rf .venv web/node_modules web/dist .jutrel dist
