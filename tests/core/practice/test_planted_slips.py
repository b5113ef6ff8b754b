"""The slip that a drill plants is the one that the grader names on its model: 95 % at least, 1 % misnamed at most."""

import os
from collections import Counter
from pathlib import Path

import pytest

from rigid_bench.core.formats.archive import read_zip
from rigid_bench.core.practice.plate_files import files_of
from rigid_bench.core.practice.registry import KINDS, drill_of
from rigid_bench.jobs.geometry.grading import grade_files
from rigid_bench.jobs.geometry.practising import drill_with_files

pytestmark = pytest.mark.thorough

SEEDS = int(os.environ.get("PRACTICE_SEEDS", "14"))


def test_the_grader_names_what_was_planted(tmp_path: Path) -> None:
    made: Counter[str] = Counter()
    named: Counter[str] = Counter()
    misnamed: list[str] = []
    for level in KINDS["find-the-fault"].levels:
        for seed in range(SEEDS):
            drill = drill_of("find-the-fault", seed, level)
            assert drill.slip
            files = files_of(drill)
            asked, built = (read_zip(files[name], name=name) for name in ("exercise.zip", "build.zip"))
            report = grade_files(asked, built, f"{tmp_path}/note").report
            causes = {check.cause.code for check in report.checks if check.cause} - {"follows"}
            made[drill.slip] += 1
            named[drill.slip] += causes == {drill.slip}
            misnamed += [f"{level}/{seed}: {drill.slip} as {causes}"] if causes - {drill.slip} else []
    for slip, count in made.most_common():
        print(f"{slip:24} made {count:4}  named {named[slip]:4}")
    print(f"in all {made.total()}, named {named.total()}, misnamed {len(misnamed)}: {misnamed[:9]}")
    assert named.total() >= 0.95 * made.total()
    assert len(misnamed) <= 0.01 * made.total()


def test_the_files_of_a_drill_are_its_build() -> None:
    drill = drill_with_files("find-the-fault", 0, 2, "")
    assert set(drill.given) >= {"files", "submission"}
