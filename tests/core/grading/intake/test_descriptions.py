"""A description of a mechanism beside the models is taken as the build file that it stands for."""

import pytest

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.formats.archive import write_zip
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.interchange.convert import DESCRIPTIONS, converted
from tests.support import latch
from tests.support.shapes import TOLERANCE


@pytest.mark.parametrize("ending", DESCRIPTIONS)
def test_a_build_as_another_description_earns_the_same(ending: str) -> None:
    exercise = read_exercise(latch.bundle())
    build = latch.build(latch.all_mates(), source="kit.step")
    other, _ = converted(build, name="b.build.json", to=f"b{ending}")
    cards = [
        grade(exercise, {"hand-in.zip": write_zip({"kit.step": latch.assembly(), name: data})}, tolerance=TOLERANCE)
        for name, data in (("b.build.json", build), (f"b{ending}", other))
    ]
    verdicts = [[(check.id, check.verdict, check.awarded) for check in card.checks] for card in cards]
    assert verdicts[0] == verdicts[1]
