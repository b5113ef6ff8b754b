.PHONY: setup demo test test-core lint lint-web css lock sbom licences schemas messages bench load soak screenshots

# each of the tests' many processes would translate every module anew
unexport PYTHONDONTWRITEBYTECODE

setup:
	@scripts/setup

# make demo [PORT=8080] [FRESH=1]
demo: setup
	@exec .venv/bin/rigid-bench demo $(if $(PORT),--port $(PORT)) $(if $(FRESH),--fresh)

# make test [JOBS=1]: files of tests are run beside each other, one more than there are processors, as pages wait
JOBS ?= $(shell expr $$(nproc) + 1)
test: lint
	.venv/bin/python -m pytest -q $(if $(filter-out 1,$(JOBS)),-n $(JOBS) --dist loadfile --no-loadscope-reorder)

# the core alone, for daily work, without what compares many builds
test-core: setup
	.venv/bin/python -m pytest -q -n $$(nproc) --dist loadfile --no-loadscope-reorder \
	  -m "not thorough" src/rigid_bench/core tests/core tests/test_layers.py

lint: setup
	.venv/bin/ruff check -q
	.venv/bin/ruff format -q --check
	.venv/bin/mypy

# What follows is for developers; its results are committed.

# our scripts and templates; needs Node.js
lint-web:
	npm install --silent --no-package-lock
	npx eslint
	test -x .lint/bin/djlint || (python3 -m venv .lint && .lint/bin/pip install -q djlint==1.54.0)
	.lint/bin/djlint src/rigid_bench/web/templates --lint

# needs Node.js; the program itself does not
css:
	npm install --silent --no-package-lock
	npx tailwindcss -i src/rigid_bench/web/styles/app.css -o src/rigid_bench/web/static/app.css --minify

lock: setup
	.venv/bin/pip-compile -q --all-extras --strip-extras --allow-unsafe --no-emit-index-url --no-emit-find-links \
	  --no-emit-trusted-host -o requirements.lock pyproject.toml
	.venv/bin/pip-compile -q --strip-extras --allow-unsafe --no-emit-index-url --no-emit-find-links \
	  --no-emit-trusted-host -c requirements.lock --all-build-deps -o requirements-run.lock pyproject.toml
	.venv/bin/python -m scripts.lock_hashes

# what an installation is made of, as CycloneDX
sbom: setup
	.venv/bin/cyclonedx-py requirements requirements-run.lock --pyproject pyproject.toml --output-reproducible -o sbom.json

# the licences of the same, as a page
licences: setup
	.venv/bin/python -m scripts.licences

schemas: setup
	.venv/bin/python -m scripts.schemas
	.venv/bin/python -m scripts.measure_table

# every sentence of the program, as a catalogue for translators
messages: setup
	PYTHONPATH=. .venv/bin/pybabel -q extract -F babel.cfg -k N_ -k NN_:1,2 -k t --no-location --sort-output --omit-header \
	  -o src/rigid_bench/locale/rigid_bench.pot .

screenshots: setup
	.venv/bin/python scripts/screenshots.py

# all but the soak of half an hour, into docs/benchmarks.md
bench: setup
	.venv/bin/python -m benchmarks.everything

# a school hour at once; Locust stands beside the program, not in it
load: setup
	test -x .load/bin/locust || (python3 -m venv .load && .load/bin/pip install -q locust==2.47.0)
	.venv/bin/python -m benchmarks.load

soak: setup
	.venv/bin/python -m benchmarks.soak
