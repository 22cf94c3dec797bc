# Two commands do everything on a fresh machine with Python 3.11 or newer, make and git:
#   make demo    make test

PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
READY := $(VENV)/.ready
DEMO := demo-results
DEMO_PROJECT := src/undatum/project/starters/archive.toml

.PHONY: demo test lint lower-bounds docs manual verification mutate bench clean setup

setup: $(READY)

$(READY): pyproject.toml constraints.txt
	$(PYTHON) -c "import sys; sys.exit(sys.version_info < (3, 11) and 'Python 3.11 or newer is needed')"
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -c constraints.txt -e ".[dev]"
	touch $(READY)

# Exit code 1 only says that a check of the demo building is exceeded, which is its purpose.
demo: $(READY)
	@$(BIN)/undatum run $(DEMO_PROJECT) --out $(DEMO) || test $$? -eq 1
	@echo "Open $(DEMO)/record.html in a browser; $(DEMO)/results.xlsx holds the tables."

test: $(READY) lint
	PYTHONDONTWRITEBYTECODE= OPENBLAS_NUM_THREADS=1 $(BIN)/python -m pytest

lint: $(READY)
	$(BIN)/ruff check src tests examples benchmarks tools
	$(BIN)/mypy
	$(BIN)/python tools/make_constructors.py --check
	mkdir -p build && $(BIN)/python tools/readme_code.py > build/readme_code.py
	$(BIN)/mypy --strict build/readme_code.py
	$(BIN)/lint-imports

verification: $(READY)
	$(BIN)/python -m pytest -n 0 --verification=docs/verification

docs: $(READY)
	$(BIN)/python tools/make_constructors.py
	$(BIN)/python tools/make_docs.py

# Pages to read: build/manual/html/index.html; links are checked, warnings are errors.
manual: $(READY)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -c constraints.txt -e ".[manual]"
	$(BIN)/python tools/make_manual.py build/manual/source
	$(BIN)/sphinx-build -q -W --keep-going -b html build/manual/source build/manual/html
	@echo "Open build/manual/html/index.html in a browser."

# The tests with the oldest dependencies that pyproject.toml promises; the pages under docs are made
# with those of constraints.txt.
lower-bounds:
	$(PYTHON) -m venv $(VENV)-lower
	$(PYTHON) tools/lower_bounds.py > $(VENV)-lower/bounds.txt
	$(VENV)-lower/bin/python -m pip install --quiet --disable-pip-version-check -c $(VENV)-lower/bounds.txt -e ".[dev,fast]"
	$(VENV)-lower/bin/python -m pytest -W default::DeprecationWarning -W default::PendingDeprecationWarning --deselect tests/test_examples.py::test_generated_docs_are_current

mutate: $(READY)
	$(BIN)/python tools/mutate.py 5000

bench: $(READY)
	$(BIN)/python benchmarks/whole_job.py
	$(BIN)/python benchmarks/variants.py
	$(BIN)/python benchmarks/family.py
	$(BIN)/python benchmarks/frames.py
	$(BIN)/python benchmarks/quantities.py
	$(BIN)/python benchmarks/members.py
	$(BIN)/python benchmarks/start_up.py
	$(BIN)/python benchmarks/record_spectra.py
	$(BIN)/python benchmarks/growth.py
	$(BIN)/python benchmarks/walls.py

clean:
	rm -rf $(VENV) $(VENV)-lower $(DEMO) build dist .mypy_cache .ruff_cache .pytest_cache .hypothesis
