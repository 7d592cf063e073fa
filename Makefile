# Everything a developer runs. `make demo` and `make test` do all set-up themselves.

PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
PORT ?= 8765
# Modules are compiled when they are first used, and kept: no program should have to do it anew.
export PYTHONDONTWRITEBYTECODE =
# What building the page takes; tests take all, and only one of the two may be installing.
WEB_PACKAGES ?= installed-to-build
WEB_SOURCES := $(shell find web/src web/public -type f) web/index.html web/vite.config.ts

.PHONY: setup demo test test-studio check bench golden docs wheel test-wheel dev build samples clean types

## Install what running needs, build the front end, compile the kernels.
setup: $(VENV)/installed build $(VENV)/warm

$(BIN)/python:
	$(PYTHON) -m venv $(VENV)

$(VENV)/packages: requirements.lock | $(BIN)/python
	$(BIN)/python -m pip install --quiet --no-compile --disable-pip-version-check -r requirements.lock
	@touch $@

$(VENV)/installed: pyproject.toml $(VENV)/packages
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps --editable .
	@touch $@

$(VENV)/installed-dev: requirements-dev.lock $(VENV)/installed
	$(BIN)/python -m pip install --quiet --no-compile --disable-pip-version-check -r requirements-dev.lock
	@touch $@

# All of the page's packages, or those alone that building it takes.
web/node_modules/installed: web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@ web/node_modules/installed-to-build

web/node_modules/installed-to-build: web/package-lock.json
	cd web && npm ci --omit=dev --no-audit --no-fund --loglevel=error
	@touch $@

build: src/zesty_server/web_build/index.html

src/zesty_server/web_build/index.html: web/node_modules/$(WEB_PACKAGES) $(WEB_SOURCES)
	cd web && npm run --silent build
	@touch $@

# Beside the installation of the product itself, which takes a few seconds.
$(VENV)/warm: $(VENV)/packages $(shell find src/zesty_core -name '*.py')
	@echo "Compiling the processing kernels ..."
	PYTHONPATH=src $(BIN)/python -m zesty_cli.main warm-up
	@touch $@

samples: samples/recordings/made

samples/recordings/made: $(wildcard src/zesty_demo/*.* src/zesty_demo/voices/*) | $(VENV)/packages
	PYTHONPATH=src $(BIN)/python -m zesty_demo.material samples

## Load the demo recordings (once) and serve on this machine.
demo:
	@# Side by side: what computes and what waits for a registry.
	@$(MAKE) --no-print-directory -j4 setup samples
	$(BIN)/zesty demo --port $(PORT) --samples samples/recordings

## Install test tools, Chromium included, and run everything.
test:
	@# Three things at a time: some wait for a registry while others compute. The page's tests are among
	@# them, so that journeys through the page have the processor to themselves; they are heard of at the end.
	$(MAKE) -j3 WEB_PACKAGES=installed setup samples $(VENV)/installed-dev chromium web/node_modules/installed check web-tests
	@$(BIN)/pytest -n 2 --dist loadfile --no-loadscope-reorder; tests=$$?; \
	  test "$$(cat web/test.status)" = 0 || { cat web/test.log; exit 1; }; \
	  exit $$tests

## Install PostgreSQL and Redis, run the server's tests on them, and stop, kill and restart everything.
# The long forms: ZESTY_TEST_STOPS=20 ZESTY_TEST_KILLS=10 ZESTY_TEST_RESTART_FILES=48 ZESTY_TEST_REQUESTS=50
test-studio: setup samples $(VENV)/installed-studio services
	ZESTY_TEST_REQUESTS=$${ZESTY_TEST_REQUESTS:-10} \
	  $(BIN)/python -m tests.studio.on_postgres -n 2 --dist loadfile tests/server
	ZESTY_TEST_STOPS=$${ZESTY_TEST_STOPS:-8} ZESTY_TEST_KILLS=$${ZESTY_TEST_KILLS:-10} \
	  $(BIN)/pytest tests/studio tests/journeys/test_stops.py tests/journeys/test_kills.py -n 0 -rP

$(VENV)/installed-studio: requirements-studio.lock $(VENV)/installed-dev
	$(BIN)/python -m pip install --quiet --no-compile --disable-pip-version-check -r requirements-studio.lock
	@touch $@

.PHONY: services
services:
	@command -v redis-server >/dev/null && ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || { \
	  SUDO=$$( [ $$(id -u) -eq 0 ] || echo sudo ); \
	  $$SUDO apt-get update -qq && DEBIAN_FRONTEND=noninteractive $$SUDO apt-get install -y -qq postgresql redis-server; }

.PHONY: web-tests
web-tests: web/node_modules/installed
	@cd web && { npm run --silent test > test.log 2>&1; echo $$? > test.status; }

.PHONY: chromium
chromium:
	@command -v chromium >/dev/null || test -x /usr/bin/chromium || { \
	  SUDO=$$( [ $$(id -u) -eq 0 ] || echo sudo ); \
	  $$SUDO apt-get update -qq && DEBIAN_FRONTEND=noninteractive $$SUDO apt-get install -y -qq chromium; }

## Lint, types, import rules.
check: $(VENV)/installed-dev web/node_modules/installed
	@(cd web && npm run --silent check > check.log 2>&1) & web=$$!; \
	  $(BIN)/ruff check . && $(BIN)/mypy src && $(BIN)/lint-imports; ours=$$?; \
	  wait $$web || { cat web/check.log; exit 1; }; \
	  exit $$ours

## Speed and memory, as ratios against general-purpose libraries; writes docs/performance.md.
bench: setup samples $(VENV)/installed-dev
	$(BIN)/python bench/run.py

## Build the documentation into docs/_build; a broken link fails.
docs: $(VENV)/installed-docs
	$(BIN)/sphinx-build -q -W --keep-going -j auto -b html docs docs/_build

$(VENV)/installed-docs: requirements-docs.lock $(VENV)/installed
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -r requirements-docs.lock
	@touch $@

## Build the wheel, page included, into dist/.
wheel: $(VENV)/installed build
	rm -rf dist build
	$(BIN)/python -m pip wheel --quiet --disable-pip-version-check --no-deps --wheel-dir dist .
	@ls dist

## Try the wheel in a clean environment of every Python at hand, without Node and outside the checkout.
test-wheel: wheel
	$(BIN)/python tests/wheel/try_wheel.py

## Refresh the files that tests compare with; read the difference before committing.
golden: setup $(VENV)/installed-dev types
	$(BIN)/python docs/steps/make.py
	$(BIN)/python docs/schemas/make.py
	$(BIN)/pytest tests/core/test_golden.py tests/cli --golden || true
	git diff --stat

types: $(VENV)/installed web/node_modules/installed
	DJANGO_SETTINGS_MODULE=zesty_server.config.settings $(BIN)/django-admin spectacular --format openapi-json --file docs/openapi.json --validate
	cd web && npm run --silent types

## Front end with live reload on another port; needs `make demo` beside it.
dev: web/node_modules/installed
	cd web && npm run dev

clean:
	rm -rf $(VENV) web/node_modules src/zesty_server/web_build samples docs/_build docs/reference/core .mypy_cache .ruff_cache
