"""What is written stays true: schemas, the table of checks, the README's pictures and commands."""

import re
from pathlib import Path

import pytest

from rigid_bench.cli import app
from rigid_bench.core.grading.checks import KINDS
from rigid_bench.core.measurement.measure import MEASURES
from scripts import licences, measure_table
from scripts.schemas import FOLDER, schemas

ROOT = Path(__file__).parents[1]
README = (ROOT / "README.md").read_text()


@pytest.mark.parametrize("name", schemas())
def test_the_schemas_are_those_of_the_models(name: str) -> None:
    assert (FOLDER / name).read_text(encoding="utf-8") == schemas()[name], "run: make schemas"


def test_the_table_of_measures_is_that_of_the_code() -> None:
    assert measure_table.PAGE.read_text(encoding="utf-8") == measure_table.page(), "run: make schemas"


def test_the_licences_of_all_libraries_are_listed_and_go_with_ours() -> None:
    """What may be combined with the Apache License 2.0: the ASF's third-party licence policy (from memory)."""
    assert licences.PAGE.read_text(encoding="utf-8") == licences.page(), "run: make licences"
    for library in licences.libraries():
        expression = licences.licence_of(library)
        named = list(licences.names_in(expression))
        fits = any if " OR " in expression else all
        assert fits(name in licences.COMPATIBLE for name in named), f"{library}: {expression}"


def test_every_kind_of_check_and_measure_is_described() -> None:
    text = (ROOT / "docs" / "checks.md").read_text()
    for name in [*KINDS, *MEASURES]:
        assert f"`{name}`" in text, f"docs/checks.md does not name {name}"


def test_every_command_is_in_the_readme_and_has_help() -> None:
    for command in app.registered_commands:
        assert command.callback
        assert command.callback.__doc__
        assert f"rigid-bench {command.callback.__name__.replace('_', '-')}" in README


def test_every_picture_is_shown_in_the_readme() -> None:
    pictures = {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
    assert pictures
    assert pictures == set(re.findall(r"docs/screenshots/([\w-]+\.png)", README))
