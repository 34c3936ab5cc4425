# Two commands: `make demo` and `make test`. Each installs what it needs and is quick when nothing has changed.
PYTHON ?= python3
PORT ?= 8642
BIN := .venv/bin
# One worker a core, two to four of them. The shorter tests get one more where there is memory for it, 1.7 GB each: they
# wait for each other and for their servers. `make test WORKERS=1` sets the number for both.
CORES := $(shell n=$$(nproc 2>/dev/null || echo 2); [ $$n -gt 4 ] && n=4; [ $$n -lt 2 ] && n=2; echo $$n)
ROOM := $(shell awk '/^MemAvailable/ {print int($$2 / 1700000)}' /proc/meminfo 2>/dev/null || echo 0)
MORE := $(shell [ "$(ROOM)" -gt $(CORES) ] 2>/dev/null && echo $$(($(CORES) + 1)) || echo $(CORES))
WEB_SOURCES := $(shell find web/src -type f ! -name '*.generated.d.ts') web/index.html web/vite.config.ts
API_SOURCES := $(shell find src/imbrix -name '*.py')

.PHONY: demo soundcard test walks trials lint types build bench screenshots lock clean

demo: .build/web
	$(BIN)/imbrix demo --port $(PORT)

# Lets Imbrix use the sound cards of this machine; without it there are the browser's microphone and files.
soundcard: .build/python
	$(BIN)/pip install -q --disable-pip-version-check -r requirements-soundcard.lock
	@ldconfig -p | grep -q libportaudio || apt-get install -qy --no-install-recommends libportaudio2 || echo "Install libportaudio2 (PortAudio) by hand."

# All tests but the longest, in about nine minutes. Those follow in `make walks`, which tells what both covered;
# `make walks WALKS=tests/ui` runs those of one folder.
test: .build/web .build/dev .build/chromium .build/sound
	cd web && npm run -s test
	IMBRIX_COVERAGE=new $(BIN)/pytest -n $(or $(WORKERS),$(MORE)) --dist loadgroup -m "not walk"

walks: .build/web .build/dev .build/chromium .build/sound
	IMBRIX_COVERAGE=more $(BIN)/pytest -n $(or $(WORKERS),$(CORES)) --dist loadgroup -m walk $(WALKS)

# The long form of what `make test` does of tests/trials in seconds; IMBRIX_SEED=7 draws other ones.
trials: .build/web .build/dev .build/chromium .build/sound
	IMBRIX_TRIALS=long $(BIN)/pytest tests/trials tests/ui/test_browser_sound.py --timeout=0 -v

lint: .build/dev .build/client
	$(BIN)/ruff check src tests benchmarks docs
	$(BIN)/ruff format --check src tests benchmarks docs
	$(BIN)/lint-imports
	cd web && npm run -s lint

types: .build/dev .build/client
	$(BIN)/mypy
	cd web && npm run -s types

build: .build/web

bench: .build/web .build/dev
	for one in benchmarks/bench_*.py; do $(BIN)/python $$one || exit 1; done

screenshots: .build/web .build/dev .build/chromium
	$(BIN)/python docs/make_screenshots.py

.build/python: pyproject.toml requirements.lock
	@mkdir -p .build
	@$(PYTHON) -c 'import ensurepip, venv' 2>/dev/null || (apt-get update -q && apt-get install -qy --no-install-recommends python3-venv)
	test -x $(BIN)/python || $(PYTHON) -m venv .venv
	$(BIN)/pip install -q --disable-pip-version-check -r requirements.lock
	$(BIN)/pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
	@touch $@

.build/dev: .build/python requirements-dev.lock
	$(BIN)/pip install -q --disable-pip-version-check -r requirements-dev.lock
	@touch $@

.build/chromium:
	@mkdir -p .build
	test -x /usr/bin/chromedriver || (apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -qy --no-install-recommends chromium chromium-driver)
	@touch $@

# A sound system without a sound card, for the tests of real sound; where it cannot be had, these say so and are skipped.
.build/sound:
	@mkdir -p .build
	command -v pulseaudio >/dev/null && ldconfig -p | grep -q libportaudio || (apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -qy --no-install-recommends pulseaudio pulseaudio-utils libasound2-plugins libportaudio2) || echo "No PulseAudio: tests of real sound are skipped."
	@touch $@

.build/node: web/package.json web/package-lock.json
	@mkdir -p .build
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

# The program is compiled once, not at its first start; where Python writes no bytecode, not at every start.
.build/client: .build/python .build/node $(API_SOURCES)
	$(BIN)/python -m compileall -q src/imbrix
	$(BIN)/imbrix openapi .build/openapi.json
	cd web && npm run -s client
	@touch $@

.build/web: .build/client $(WEB_SOURCES)
	cd web && npm run -s build
	@touch $@

# Writes the lock files anew, without addresses.
lock:
	cd web && npm install --package-lock-only --no-audit --no-fund
	$(PYTHON) -c "import json,pathlib; p=pathlib.Path('web/package-lock.json'); d=json.loads(p.read_text()); [v.pop(k, None) for v in d['packages'].values() for k in ('resolved','funding')]; p.write_text(json.dumps(d, indent=2)+'\n')"

clean:
	rm -rf .build .venv web/node_modules src/imbrix/api/web
