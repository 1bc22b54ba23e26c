# Two commands: `make demo` and `make test`. Both install what they need into .venv.
PYTHON ?= python3
PORT ?= 8000
VENV := .venv
BIN := $(VENV)/bin
PIP := $(BIN)/pip install --quiet --disable-pip-version-check
export DJANGO_SETTINGS_MODULE := zester.site.settings

.PHONY: demo test check lint format tests test-postgres browser pango wheel bench mutants shots clean

demo: $(VENV)/installed pango
	@ZESTER_DEMO=1 $(BIN)/python -m django serve_demo --port $(PORT)

test: $(VENV)/installed-dev browser pango check lint tests

$(VENV)/bin/python:
	$(PYTHON) -m venv $(VENV)

$(VENV)/installed: requirements.txt pyproject.toml | $(VENV)/bin/python
	$(PIP) -r requirements.txt
	$(PIP) --no-build-isolation --no-deps -e .
	@echo "Compiling the fitting (once, about half a minute)…"
	@$(BIN)/python -c "from zester.core.fitting.engine import warm_up; warm_up()"
	@touch $@

$(VENV)/installed-dev: requirements-dev.txt $(VENV)/installed
	$(PIP) -r requirements-dev.txt
	@touch $@

# PDFs are set with Debian's Pango; installed where this user may, otherwise said clearly: all else works without.
pango: $(VENV)/installed
	@$(BIN)/python -c "import weasyprint" 2>/dev/null || { [ "$$(id -u)" = 0 ] && apt-get update -qq && apt-get install -y -qq libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0 >/dev/null; } \
	  || echo "PDFs need Pango: install Debian's packages, sudo apt-get install libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0"

# Debian's Chromium drives the browser tests; installed where this user may, otherwise said clearly.
browser:
	@command -v chromium >/dev/null || { [ "$$(id -u)" = 0 ] && apt-get update -qq && apt-get install -y -qq chromium >/dev/null; } \
	  || { echo "The browser tests need Chromium: install Debian's package, sudo apt-get install chromium"; exit 1; }

check: $(VENV)/installed-dev
	ZESTER_DEBUG=1 $(BIN)/python -m django makemigrations --check --dry-run
	ZESTER_DEBUG=0 ZESTER_DEMO=0 ZESTER_SECRET_KEY=$$($(BIN)/python -c "import secrets; print(secrets.token_urlsafe(64))") $(BIN)/python -m django check --deploy --fail-level WARNING

lint: $(VENV)/installed-dev
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/djlint --quiet --lint zester
	@! grep -rnE '^.{161,}' zester --include='*.html' || { echo "Break these lines of templates."; exit 1; }
	$(BIN)/lint-imports --no-cache
	ZESTER_DEBUG=1 $(BIN)/mypy
	@if command -v eslint >/dev/null; then eslint zester/site/static/zester; \
	  else echo "The browser's scripts are not linted: eslint is not installed (npm install --global eslint)."; fi

tests: $(VENV)/installed-dev
	ZESTER_DEBUG=1 $(BIN)/python -m django test --noinput

# The same tests on PostgreSQL, with Debian's server, started here and thrown away.
test-postgres: $(VENV)/installed-dev browser
	@ls -d /usr/lib/postgresql/*/bin >/dev/null 2>&1 || { [ "$$(id -u)" = 0 ] && apt-get update -qq && apt-get install -y -qq postgresql >/dev/null; } \
	  || { echo "Install Debian's package: sudo apt-get install postgresql"; exit 1; }
	ZESTER_DEBUG=1 tests/postgres.sh $(BIN)/python -m django test --noinput

format: $(VENV)/installed-dev
	$(BIN)/ruff check --fix .
	$(BIN)/ruff format .

wheel: $(VENV)/installed-dev
	$(BIN)/python -m build --wheel --no-isolation

bench: $(VENV)/installed-dev
	$(BIN)/python benchmarks/desk.py
	$(BIN)/python benchmarks/casting.py
	$(BIN)/python benchmarks/hundred.py
	$(BIN)/python benchmarks/current.py
	$(BIN)/python benchmarks/demo_fit.py
	$(BIN)/python benchmarks/fitting.py
	$(BIN)/python benchmarks/published.py
	$(BIN)/python benchmarks/counting.py
	$(BIN)/python benchmarks/steps.py
	$(BIN)/python benchmarks/minutes.py
	$(BIN)/python benchmarks/evening.py
	$(BIN)/python benchmarks/load.py short
	$(BIN)/python benchmarks/load.py knee
	$(BIN)/python benchmarks/kills.py

mutants: $(VENV)/installed-dev
	$(BIN)/python benchmarks/mutants.py

shots: $(VENV)/installed-dev browser
	ZESTER_DEBUG=1 $(BIN)/python -m tests.browser.shots

clean:
	rm -rf $(VENV) var build dist *.egg-info
