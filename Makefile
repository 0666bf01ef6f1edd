# Old Ember. make start · make demo · make test · make lint · make bench · make screenshots

PYTHON ?= python3
HOST ?= 127.0.0.1
PORT ?= 8000
PACE ?= 60
export HOST PORT
export PYTHONPATH := src
# The demo's data, and those of all that is made here. A shop's own lie where the system
# keeps such, or in OLD_EMBER_VAR: see make start.
SHOP := $(OLD_EMBER_VAR)
export OLD_EMBER_VAR ?= $(CURDIR)/var
export PATH := $(CURDIR)/.venv/bin:$(PATH)

PIP := .venv/bin/python -m pip --disable-pip-version-check install --quiet
MANAGE := .venv/bin/python src/workshop/manage.py
EMBER := .venv/bin/python -m workshop

.PHONY: demo start wheel test explore lint bench against load faults findings handbook backup restore screenshots lock clean operator chromium redis kernels format

.venv/bin/python:
	$(PYTHON) -m venv .venv

.venv/base.stamp: requirements/base.lock | .venv/bin/python
	$(PIP) --require-hashes -r requirements/base.lock
	@touch $@

.venv/dev.stamp: requirements/dev.lock | .venv/bin/python
	$(PIP) --require-hashes -r requirements/dev.lock
	@touch $@ .venv/base.stamp

demo: .venv/base.stamp  ## the whole workshop on one address; Ctrl-C ends it
	@exec $(EMBER) serve --demo --pace $(PACE)

start: .venv/base.stamp  ## a workshop of one's own, empty, in a folder of its own
	@OLD_EMBER_VAR="$(SHOP)" exec $(EMBER) serve

# ROLE: looks, prepares, or burns.
ROLE ?= burns
operator: .venv/base.stamp  ## make somebody who may sign in on other addresses: NAME=… ROLE=…
	@$(EMBER) users add "$(NAME)" --role $(ROLE)

chromium:
	@command -v chromium-headless-shell >/dev/null || command -v chromium >/dev/null || { \
	  run=$$( [ "$$(id -u)" = 0 ] || echo sudo ); \
	  $$run apt-get update -qq && $$run apt-get install -y -qq --no-install-recommends chromium-headless-shell >/dev/null; }

redis:
	@command -v redis-server >/dev/null || { \
	  run=$$( [ "$$(id -u)" = 0 ] || echo sudo ); \
	  $$run apt-get update -qq && $$run apt-get install -y -qq --no-install-recommends redis-server >/dev/null; }

# One process more than there are cores: a walk through the pages waits more than it computes.
# ARGS chooses tests.
JOBS ?= $(shell expr 1 + $$(nproc 2>/dev/null || echo 2))
test: .venv/dev.stamp chromium redis kernels
ifdef ARGS
	.venv/bin/python -m pytest $(ARGS)
else
	.venv/bin/python -m pytest -n $(JOBS) --dist worksteal
endif

explore: .venv/dev.stamp  ## properties by new random examples, many of them
	EXAMPLES=explore .venv/bin/python -m pytest -n $(JOBS) -m hypothesis -p no:cacheprovider $(ARGS)

# Else each of the processes would compile the same kernels at the same time.
kernels: .venv/dev.stamp
	@.venv/bin/python scripts/compile_kernels.py

wheel: .venv/dev.stamp  ## built, installed into an empty environment, and started
	.venv/bin/python scripts/try_wheel.py

lint: .venv/dev.stamp
	.venv/bin/ruff format --check src tests scripts
	.venv/bin/ruff check src tests scripts
	.venv/bin/lint-imports
	.venv/bin/mypy
	.venv/bin/djlint --lint --quiet src
	$(MANAGE) makemigrations --check --dry-run --verbosity 1

format: .venv/dev.stamp
	.venv/bin/ruff format src tests scripts
	.venv/bin/ruff check --fix src tests scripts

bench: .venv/dev.stamp chromium
	.venv/bin/python -m pytest tests/benchmarks --benchmark-enable --benchmark-only -q -s $(ARGS)

against: .venv/dev.stamp  ## the same work timed by a revision and by this one: REV=…
	@.venv/bin/python scripts/against.py $(REV)

backup: .venv/base.stamp  ## everything in one zip: TO=…
	@$(EMBER) backup "$(TO)"

restore: .venv/base.stamp  ## a backup into an empty folder: FROM=…
	@$(EMBER) restore "$(FROM)"

findings: .venv/dev.stamp  ## the page of all check rules, made from them
	.venv/bin/python -m engraving rules > docs/findings.md

faults: .venv/dev.stamp  ## kill, cut, silence: what becomes of the beam and the burn
	.venv/bin/python scripts/faults

load: .venv/dev.stamp  ## thirty people for a minute: how long answers take
	.venv/bin/python scripts/load.py

handbook: .venv/dev.stamp  ## the before and after of its pages
	.venv/bin/python scripts/handbook.py

screenshots: .venv/dev.stamp chromium
	.venv/bin/python scripts/screenshots.py

lock: .venv/dev.stamp
	.venv/bin/pip-compile -q --generate-hashes --allow-unsafe --no-emit-index-url --no-emit-find-links --strip-extras -o requirements/base.lock requirements/base.in
	.venv/bin/pip-compile -q --generate-hashes --allow-unsafe --no-emit-index-url --no-emit-find-links --strip-extras -o requirements/dev.lock requirements/dev.in

clean:
	rm -rf .venv var .pytest_cache .mypy_cache .ruff_cache .hypothesis
