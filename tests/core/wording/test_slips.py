"""Every cause that a card can give has a name for lists."""

import ast
from pathlib import Path

import rigid_bench.core.grading as grading
from rigid_bench.core.practice.registry import PRACTISED
from rigid_bench.core.wording.slips import SLIP_NAMES, slip_name

#: Codes that are put together or chosen by a variable.
COMPUTED = {
    "motion-too-many", "motion-too-few", "part-extra", "moved-though-fixed", "moved-otherwise", "left-at-origin",
    "wrong-rim", "chamfer-rim",
}  # fmt: skip


def codes() -> set[str]:
    slips = set()
    for path in Path(str(grading.__path__[0])).rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.keyword) and node.arg == "code" and isinstance(node.value, ast.Constant):
                slips.add(str(node.value.value))
    return slips


def test_every_cause_has_a_name_and_no_name_is_left_over() -> None:
    assert codes() | COMPUTED == set(SLIP_NAMES)
    assert len(set(SLIP_NAMES.values())) == len(SLIP_NAMES)


def test_what_is_practised_is_a_cause_of_a_card() -> None:
    assert set(PRACTISED) <= set(SLIP_NAMES)


def test_an_unknown_code_is_shown_as_words() -> None:
    assert slip_name("something-new") == "something new"
