# Two commands do everything on a fresh machine: `make demo` and `make test`.
SHELL := /bin/bash
PY := .venv/bin/python
STAMPS := .stamps
PORT ?= 8080
DATABASE ?= demo-data/oddlamp.sqlite3
WEB_SOURCES := $(shell find web/src web/index.html web/vite.config.ts -type f 2>/dev/null)
# A machine with an empty environment has no PATH, and Python then cannot even name itself.
export PATH := $(or $(PATH),/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin)
export PIP_DISABLE_PIP_VERSION_CHECK := 1
# Every server a test starts would compile the whole program anew.
export PYTHONDONTWRITEBYTECODE :=

.PHONY: demo test bench kills abuse proof wheel loc lint types schema

demo: $(STAMPS)/runtime $(STAMPS)/pages
	@$(PY) -m oddlamp serve --database $(DATABASE) --port $(PORT)

# What has to be fetched comes side by side: each waits for a network of its own.
test:
	@$(MAKE) --no-print-directory -j3 $(STAMPS)/dev $(STAMPS)/browser $(STAMPS)/pages
	@$(MAKE) --no-print-directory lint
	@sync # what was just installed goes to the disk first: a write that must be safe would wait for all of it
	$(PY) -m pytest -n 2 --dist worksteal

lint: $(STAMPS)/dev $(STAMPS)/node
	$(PY) -m ruff check src tests scripts
	$(PY) -m ruff format --check src tests scripts
	$(PY) -m mypy
	cd web && npm run -s lint && npm run -s types

bench: $(STAMPS)/dev $(STAMPS)/browser $(STAMPS)/pages
	$(PY) -m tests.bench

kills: $(STAMPS)/dev
	$(PY) -m tests.abuse kills 200

# All that the store and the server must stand, with figures: over half an hour, most of it a thousand kills.
abuse: $(STAMPS)/dev
	$(PY) -m tests.abuse

# What takes longer than a test run should: more drawn plans, longer ways of presses.
proof: $(STAMPS)/dev $(STAMPS)/browser $(STAMPS)/pages
	ODDLAMP_PROOF=1 $(PY) -m pytest -n 2 --dist worksteal $$(grep -rl 'from tests.full' tests --include='test_*.py')

# One file to install on any machine with Python, without Node: pages, data and migrations are in it.
wheel: $(STAMPS)/pages
	@rm -rf build dist
	$(PY) -m pip wheel -q --no-deps --wheel-dir dist .
	@rm -rf build
	@ls dist/*.whl

loc:
	@bash scripts/loc.sh

# Types and schemas that follow from the code; tests fail while they are stale.
schema: $(STAMPS)/dev $(STAMPS)/node
	$(PY) scripts/describe_api.py
	cd web && npm run -s api-types

$(STAMPS)/system: scripts/install-system.sh
	@bash scripts/install-system.sh
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/runtime: requirements.lock pyproject.toml | $(STAMPS)/system
	@test -x $(PY) || python3 -m venv .venv
	$(PY) -m pip install -q --require-hashes -r requirements.lock
	$(PY) -m pip install -q --no-deps -e .
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/dev: requirements-dev.lock | $(STAMPS)/runtime
	$(PY) -m pip install -q --require-hashes -r requirements-dev.lock
	@touch $@

$(STAMPS)/browser: scripts/install-system.sh | $(STAMPS)/system
	@bash scripts/install-system.sh browser
	@touch $@

$(STAMPS)/node: web/package-lock.json | $(STAMPS)/system
	cd web && npm install --no-save --silent --no-audit --no-fund # not ci: the lock, made on one platform, leaves out the others
	@mkdir -p $(STAMPS) && touch $@

$(STAMPS)/pages: $(WEB_SOURCES) web/package.json scripts/notice.py requirements.lock | $(STAMPS)/node $(STAMPS)/runtime
	cd web && npm run -s build -- --logLevel warn
	$(PY) scripts/notice.py
	@touch $@
