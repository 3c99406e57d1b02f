# Two commands first: make demo, make test. Everything else is for those who work on it.
PYTHON ?= python3
LONGER ?= 1

.PHONY: demo demo-reset test quick coverage docs notice changelog bench coverage-study screenshots backup restore walk attack lock vendor format

demo:            ## the demo workshop on this machine, with WORKERS=1 by default; Ctrl-C stops all it started
	@WORKERS=$(WORKERS) $(PYTHON) tools/demo.py

demo-reset:      ## put the demo workshop back as it was
	@$(PYTHON) tools/demo.py --reset

test:            ## lint, types, contracts, unit, site and browser tests on a cluster of their own
	@$(PYTHON) tools/check.py

quick:           ## lint and the core alone, within a minute
	@.venv/bin/ruff check -q src tests tools && .venv/bin/ruff format -q --check src tests tools
	@PYTHONPATH=src:. OPENBLAS_NUM_THREADS=1 .venv/bin/python -m pytest -q -n 2 -m "not slow" tests/valvetrain src/valvetrain

coverage:        ## lines and branches that the tests run; writes docs/coverage.md
	@$(PYTHON) tools/coverage_report.py

docs:            ## docs/formulas.html: every formula from its docstring, readable without the repository
	@PYTHONPATH=src .venv/bin/python tools/reference.py && .venv/bin/python tools/openapi.py

notice:          ## NOTICE.md: whose work ships with this one, and under which licences
	@.venv/bin/python tools/notice.py

changelog:       ## gather changes/*.md under the version in pyproject.toml into CHANGELOG.md
	@$(PYTHON) tools/changelog.py

bench:           ## measure speed; writes docs/performance.json and docs/performance.md
	@$(PYTHON) tools/bench.py

coverage-study:  ## how often the 95 % bands hold a truth of another law; writes its table into docs/how-the-numbers-are-made.md
	@PYTHONPATH=src:. OPENBLAS_NUM_THREADS=1 .venv/bin/python -m tests.coverage_study

screenshots:     ## docs/screenshots from the demo data
	@$(PYTHON) tools/screenshots.py

backup:          ## keep the demo's database in var/backup, read back before it counts
	@$(PYTHON) tools/backup.py backup

restore:         ## put it back as a backup has it: make restore FILE=var/backup/...
	@$(PYTHON) tools/backup.py restore $(FILE)

walk:            ## six jobs of a new user and the looks of every page at five widths, by script; writes docs/walk.md
	@$(PYTHON) tools/walk.py

attack:          ## hostile inputs, access cells, races, kills, a full disk, a restore; under five minutes, LONGER=8 for the whole figures
	@LONGER=$(LONGER) $(PYTHON) tools/attack.py

lock:            ## pin and hash the requirements anew
	@.venv/bin/uv pip compile -q --generate-hashes --no-header --python-version 3.11 requirements/base.in -o requirements/base.txt
	@.venv/bin/uv pip compile -q --generate-hashes --no-header --python-version 3.11 requirements/dev.in -o requirements/dev.txt

vendor:          ## copy browser assets from npm packages
	@npm install --ignore-scripts --omit=optional --no-package-lock && .venv/bin/python tools/vendor.py

format:
	@.venv/bin/ruff format src tests tools && .venv/bin/ruff check --fix -q src tests tools
