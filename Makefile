# Kneel. The two commands a newcomer needs: make demo, make test. Each sets up what it needs.
.PHONY: demo test lint setup setup-dev screenshots bench accuracy measures judged changed compared pairs space tuned mutants fuzz demo-data demo-followed clean

demo: setup
	@.venv/bin/kneel --demo

# Many tests start Kneel anew, which is quick where Python may keep what it compiled. They need no further threads,
# and as a test that waits leaves its core idle, one more runs at once than there are cores.
test: setup-dev
	@PYTHONDONTWRITEBYTECODE= OPENBLAS_NUM_THREADS=1 .venv/bin/python -m pytest -n $$(( $$(nproc) + 1 )) --dist worksteal

lint: setup-dev
	@.venv/bin/ruff check src tests benchmarks tools
	@.venv/bin/ruff format --check src tests benchmarks tools
	@.venv/bin/mypy
	@.venv/bin/lint-imports

setup:
	@tools/setup.sh run

setup-dev:
	@tools/setup.sh dev

screenshots: setup
	@.venv/bin/python tools/screenshots.py docs/screenshots

bench: setup-dev
	@.venv/bin/python -m benchmarks

accuracy: setup-dev
	@.venv/bin/python -m benchmarks.accuracy

measures: setup-dev
	@.venv/bin/python -m benchmarks.measures

judged: setup-dev
	@.venv/bin/python -m benchmarks.judge

changed: setup-dev
	@.venv/bin/python -m benchmarks.changed

compared: setup-dev
	@.venv/bin/python -m benchmarks.compared

space: setup-dev
	@.venv/bin/python -m benchmarks.space
	@.venv/bin/python -m benchmarks.space_judged

ghosts: setup-dev
	@.venv/bin/python -m benchmarks.ghosts

pairs: setup-dev
	@.venv/bin/python -m benchmarks.pairs

tuned: setup-dev
	@.venv/bin/python -m benchmarks.tuned

fuzz: setup-dev
	@.venv/bin/python -m tests.fuzzing.run
	@.venv/bin/python -m tests.fuzzing.kills
	@.venv/bin/python -m tests.fuzzing.book_kills
	@.venv/bin/python -m tests.fuzzing.book_tries

mutants: setup-dev
	@.venv/bin/python tools/mutants.py

demo-data: setup
	@.venv/bin/python -m kneel.demo

demo-followed: setup
	@.venv/bin/python -m kneel.demo --followed

clean:
	rm -rf .venv .mypy_cache .ruff_cache .pytest_cache .hypothesis build dist
