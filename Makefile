.PHONY: setup demo test lint css lock schemas bench screenshots

setup:
	@scripts/setup

# make demo [PORT=8080] [FRESH=1]
demo: setup
	@exec .venv/bin/rigid-bench demo $(if $(PORT),--port $(PORT)) $(if $(FRESH),--fresh)

# make test [JOBS=2]: with jobs, files of tests are run beside each other
test: lint
	.venv/bin/python -m pytest -q $(if $(JOBS),-n $(JOBS) --dist loadfile)

lint: setup
	.venv/bin/ruff check -q
	.venv/bin/ruff format -q --check
	.venv/bin/mypy

# What follows is for developers; its results are committed.

# needs Node.js; the program itself does not
css:
	npm install --silent --no-package-lock
	npx tailwindcss -i src/rigid_bench/web/styles/app.css -o src/rigid_bench/web/static/app.css --minify

lock: setup
	.venv/bin/pip-compile -q --all-extras --strip-extras --allow-unsafe --no-emit-index-url --no-emit-find-links \
	  --no-emit-trusted-host -o requirements.lock pyproject.toml

schemas: setup
	.venv/bin/python scripts/schemas.py

screenshots: setup
	.venv/bin/python scripts/screenshots.py

bench: setup
	.venv/bin/python -m benchmarks.sign_in
	.venv/bin/python -m benchmarks.read
	.venv/bin/python -m benchmarks.register
	.venv/bin/python -m benchmarks.causes
	.venv/bin/python -m benchmarks.grade
