# make demo, make test and make setup do all set-up on a fresh machine with Python ≥ 3.11, Node ≥ 20 and make.
SHELL := /bin/bash
.SHELLFLAGS := -euo pipefail -c
# the system's own where it can be used: it is built for speed, one built by hand often is not (decision 0043)
PYTHON ?= $(shell /usr/bin/python3 -c 'import ensurepip, sys, venv; sys.exit(sys.version_info < (3, 11))' 2>/dev/null && echo /usr/bin/python3 || echo python3)
BIN := .venv/bin
WEB_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts web/postcss.config.cjs

.PHONY: demo serve setup test bench lock schema screenshots format clean

demo: setup
	@$(BIN)/assayer demo --data .demo

serve: setup
	@$(BIN)/assayer serve

setup: .venv/.app src/assayer/webdist/index.html

# what is imported is compiled at once: a start, and there are many in the tests, otherwise compiles hundreds of files where Python keeps none
# uv installs in seconds; where its index is not reachable the way pip's is, pip does the same from the same hashes
INSTALL = $(BIN)/uv pip install --quiet --require-hashes -r $(1) 2>/dev/null || $(BIN)/pip install --quiet --no-compile --require-hashes -r $(1)

.venv/bin/uv: requirements-uv.lock
	@$(PYTHON) -c 'import sys; sys.exit("Assayer needs Python 3.11 or newer; set PYTHON=…" if sys.version_info < (3, 11) else 0)'
	@$(PYTHON) -m venv .venv
	@$(BIN)/pip install --quiet --disable-pip-version-check --require-hashes -r requirements-uv.lock
	@touch $@

.venv/.app: .venv/bin/uv requirements.lock pyproject.toml
	@echo "installing the application …"
	@$(call INSTALL,requirements.lock)
	@$(BIN)/pip install --quiet --disable-pip-version-check --no-build-isolation --no-deps -e .
	@$(BIN)/python tools/compile_ahead.py src/assayer
	@touch $@

.venv/.dev: .venv/.app requirements-dev.lock
	@echo "installing what the tests need …"
	@$(call INSTALL,requirements-dev.lock)
	@$(BIN)/python tools/compile_ahead.py tests
	@touch $@

web/node_modules/.package-lock.json: web/package-lock.json web/package.json web/.npmrc
	@node -e 'if (+process.versions.node.split(".")[0] < 20) { console.error("Assayer needs Node 20 or newer"); process.exit(1) }'
	@echo "installing the front end's packages …"
	@cd web && npm ci --no-progress --loglevel=error
	@touch $@

src/assayer/webdist/index.html: web/node_modules/.package-lock.json $(WEB_SOURCES)
	@echo "building the front end …"
	@cd web && npm run --silent build -- --logLevel error
	@touch $@

# chromium and its driver come from Debian where they are missing; the same without windows, which most walks use, is welcome and not needed
APT = DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends
.PHONY: chromium
chromium:
	@if ! command -v chromium >/dev/null || ! command -v chromedriver >/dev/null; then \
	  echo "installing chromium and chromium-driver …"; \
	  apt-get update -qq && { $(APT) chromium chromium-driver chromium-headless-shell >/dev/null 2>&1 || $(APT) chromium chromium-driver >/dev/null; }; \
	elif ! command -v chromium-headless-shell >/dev/null; then $(APT) chromium-headless-shell >/dev/null 2>&1 || true; fi

# sets up what is missing itself, beside the first checks
test:
	@tools/check

bench: setup .venv/.dev
	@$(BIN)/python benchmarks/run.py
	@$(BIN)/python benchmarks/writers.py
	@$(BIN)/python benchmarks/trial_of_durability.py 2

screenshots: setup .venv/.dev chromium
	@$(BIN)/python tools/screenshots.py

# the types that the front end generates from the server's description
schema: .venv/.app web/node_modules/.package-lock.json
	@mkdir -p .build && $(BIN)/assayer openapi > .build/openapi.json
	@cd web && npm run --silent schema

format: .venv/.dev
	@$(BIN)/ruff check --fix -q src tests benchmarks tools ; $(BIN)/ruff format -q src tests benchmarks tools

lock: .venv/bin/uv
	@echo 'uv==0.13.9' | $(BIN)/uv pip compile - --python-version 3.11 --generate-hashes --no-header --no-annotate -q -o requirements-uv.lock
	@$(BIN)/uv pip compile requirements.in --python-version 3.11 --generate-hashes --no-header --no-annotate -q -o requirements.lock
	@$(BIN)/uv pip compile requirements-dev.in -c requirements.lock --python-version 3.11 --generate-hashes --no-header --no-annotate -q -o requirements-dev.lock
	@node -e 'const fs = require("fs"), f = "web/package-lock.json", l = JSON.parse(fs.readFileSync(f)); for (const p of Object.values(l.packages)) delete p.funding; fs.writeFileSync(f, JSON.stringify(l, null, 2) + "\n")'

clean:
	rm -rf .venv .build .demo web/node_modules src/assayer/webdist
