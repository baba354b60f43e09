# make run · make test · make bench · make assets
PYTHON ?= python3.11
PORT ?= 8765
DATA ?= data
VENV := .venv
BIN := $(VENV)/bin

PYTHON := $(shell command -v $(PYTHON) || command -v python3)

.PHONY: run test bench assets check clean

run: $(VENV)/run.stamp
	$(BIN)/jaunty-lever serve --demo --port $(PORT) --data $(DATA)

test: $(VENV)/test.stamp
	@sh tests/browser/chromium.sh
	$(BIN)/python -m tests

bench: $(VENV)/test.stamp
	@sh tests/browser/chromium.sh
	$(BIN)/python -m bench

check: $(VENV)/test.stamp
	$(BIN)/ruff check .
	$(BIN)/ruff format --check jaunty_lever tests bench
	$(BIN)/mypy
	$(BIN)/djlint --check --lint --quiet jaunty_lever/web/templates
	@if [ -d node_modules ]; then npx prettier --check jaunty_lever/web/static/js tests/scripts assets eslint.config.mjs \
	  && npx eslint jaunty_lever/web/static/js tests/scripts assets && npx tsc -p . && npx tsc -p tsconfig.strict.json; \
	else echo "The scripts were not checked: make assets brings what that needs."; fi

# Needs Node 20 or newer. What it builds is kept in the repository, so that running needs no Node.
assets: $(VENV)/run.stamp
	npm install --ignore-scripts --no-save --no-audit --no-fund
	npm run --silent build
	$(BIN)/python -m jaunty_lever.web.types | node assets/types.mjs

$(VENV)/run.stamp: requirements.txt pyproject.toml
	$(PYTHON) -m venv $(VENV)
	$(BIN)/pip install --quiet --disable-pip-version-check -r requirements.txt
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps -e .
	@$(BIN)/python -m compileall -q jaunty_lever
	@$(BIN)/python -m jaunty_lever.web.warm
	@$(BIN)/python -m jaunty_lever.web.warm rest >/dev/null 2>&1 &
	@touch $@

$(VENV)/test.stamp: $(VENV)/run.stamp requirements-test.txt
	$(BIN)/pip install --quiet --disable-pip-version-check -r requirements-test.txt
	@touch $@

clean:
	rm -rf $(VENV) node_modules
