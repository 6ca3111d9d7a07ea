# make demo and make test do all their own set-up. Python 3.11 or newer with venv is all they ask.
PYTHON ?= python3
PORT   ?= 8765
VENV   := .venv
BIN    := $(VENV)/bin
RUN    := $(VENV)/.run-ready
DEV    := $(VENV)/.dev-ready
TESTS  := $(BIN)/pytest -q -n 3 --dist loadfile --no-loadscope-reorder
# Builds, kills, exact solvers and the longest browser walks lie in files of their own.
SLOW   := $(shell find tests -name '*_slow.py')
QUICK  := --ignore-glob='*_slow.py'

# Each process the tests start reads the program compiled, also where the environment says to compile it every time.
export PYTHONDONTWRITEBYTECODE :=

.PHONY: demo serve test test-times check check-slow check-all mutate bench torture shots clean lock chromium vendor

demo: $(RUN)
	$(BIN)/bright-willow demo --port $(PORT)

serve: $(RUN)
	$(BIN)/bright-willow serve --port $(PORT)

test: check chromium
	$(TESTS) $(QUICK)

# The same with the twenty slowest at the end.
test-times: $(DEV) chromium
	$(TESTS) $(QUICK) --durations=20

# What make test leaves out: the wheel, kills and bad disks, exact solvers, simulated shops, the longest browser walks.
check-slow: $(DEV) chromium
	$(TESTS) $(SLOW)

# That, and a search among ten times as many fresh chance inputs.
check-all: check-slow
	BRIGHT_WILLOW_SEARCH=1 $(TESTS) $(QUICK) -m search

check: $(DEV)
	$(BIN)/python -m compileall -q bright_willow
	$(BIN)/ruff check bright_willow tests tools
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python -m tools.dead_code

# Small faults put in one at a time: how many do the tests find? Writes tests/mutation.md. MUTATE="--map" reads anew which
# test calls what; MUTATE="--room core/form" tries one room.
mutate: $(DEV)
	$(BIN)/python -m tools.mutate $(MUTATE)

bench: $(DEV)
	$(BIN)/python -m tools.bench

# Some minutes of hostile requests, kills and bad disks; writes docs/reliability.md.
torture: $(DEV)
	$(BIN)/python -m tools.torture

shots: $(DEV) chromium
	$(BIN)/python -m tools.shots

# Ask for hashes on every package; record no address.
lock:
	for f in requirements requirements-dev; do \
	  uv pip compile -q --generate-hashes --no-emit-index-url --no-header --no-config -o $$f.txt $$f.in; done

# Copy the style sheet, icons and font out of their npm packages (their licences stay beside them).
vendor:
	bash tools/vendor.sh

$(VENV)/bin/python:
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Bright Willow needs Python 3.11 or newer."; exit 1; }
	@$(PYTHON) -m venv $(VENV) || { rm -rf $(VENV); echo "Could not make a virtual environment. On Debian: apt-get install python3-venv"; exit 1; }

$(RUN): requirements.txt pyproject.toml | $(VENV)/bin/python
	$(BIN)/pip install -q --disable-pip-version-check --require-hashes -r requirements.txt
	$(BIN)/pip install -q --disable-pip-version-check --no-build-isolation --no-deps -e .
	@touch $@

$(DEV): requirements-dev.txt pyproject.toml | $(VENV)/bin/python
	$(BIN)/pip install -q --disable-pip-version-check --require-hashes -r requirements-dev.txt
	$(BIN)/pip install -q --disable-pip-version-check --no-build-isolation --no-deps -e .
	@touch $@ $(RUN)

chromium:
	@command -v chromium >/dev/null || { \
	  SUDO=$$( [ "$$(id -u)" = 0 ] || echo sudo ); \
	  $$SUDO apt-get update -qq && $$SUDO apt-get install -y -qq --no-install-recommends chromium; }

clean:
	rm -rf $(VENV) build *.egg-info .pytest_cache .mypy_cache .ruff_cache
