"""A build handed in as a mesh gets the verdicts of its STEP file, wherever a mesh can answer."""

from types import ModuleType

import numpy as np
import pytest
import trimesh

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.intake.found_unit import in_found_unit
from rigid_bench.core.grading.intake.submission import read_submission
from rigid_bench.core.grading.matched_submission import read_references
from rigid_bench.core.kernel.meshes.triangulation import meshed
from rigid_bench.core.kernel.read_model import read_model
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo import drill_jig, pedal_bin, seed_drawer, weather_mast
from tests.core.kernel.meshes.as_mesh import FINENESSES, as_meshes
from tests.support.samples import bundle_of, files_of

pytestmark = pytest.mark.thorough

#: Of each exercise a right build and slips of several kinds; `benchmarks/meshes.py` goes through all.
BUILDS = [
    (drill_jig, "jig-right"),
    (drill_jig, "jig-mirrored"),
    (pedal_bin, "bin-thin-stud"),
    (seed_drawer, "radius-for-diameter"),
    (seed_drawer, "too-wide"),
    (weather_mast, "mast-right"),
]


@pytest.mark.parametrize("fineness", FINENESSES)
@pytest.mark.parametrize(("module", "name"), BUILDS, ids=[name for _, name in BUILDS])
def test_a_mesh_gets_the_verdicts_of_its_step(module: ModuleType, name: str, fineness: str) -> None:
    exercise = read_exercise(bundle_of(module))
    sample = next(sample for sample in module.SAMPLES if sample.name == name)
    step = grade(exercise, files_of(sample), tolerance=Tolerance())
    mesh = grade(exercise, as_meshes(files_of(sample), FINENESSES[fineness]), tolerance=Tolerance())
    by_step = {check.id: check for check in step.checks}
    answered = [check for check in mesh.checks if check.verdict != "unchecked"]
    assert len(answered) > 0.6 * len(step.checks)
    assert {check.id: check.verdict for check in answered} == {
        check.id: by_step[check.id].verdict for check in answered
    }


def jig_in_inches(x: float = 0.0) -> bytes:
    """Write the right jig as STL in inches, standing so many mm to the side."""
    step = files_of(drill_jig.SAMPLES[0])["jig.step"]
    mesh = meshed(read_model(step, name="jig.step").parts[0].shape, within_mm=0.01)
    corners = np.asarray(mesh.vertices) + np.array([x, 0, 0])
    data = trimesh.Trimesh(corners / 25.4, mesh.faces, process=False).export(file_type="stl")
    assert isinstance(data, bytes)
    return data


def test_the_unit_of_a_mesh_is_found_from_the_exercise() -> None:
    report = grade(read_exercise(bundle_of(drill_jig)), {"jig.stl": jig_in_inches()}, tolerance=Tolerance())
    verdicts = {check.id: check.verdict for check in report.checks}
    assert verdicts["jig.length"] == "met"
    assert any(notice.code == "mesh-unit-found" for notice in report.notices)


def test_an_export_after_dragging_is_in_the_unit_that_was_found() -> None:
    files = {"jig.stl": jig_in_inches(), "jig-moved.stl": jig_in_inches(x=30)}
    submission = read_submission(files, tolerance=Tolerance())
    references = read_references(read_exercise(bundle_of(drill_jig)), tolerance=Tolerance())
    read_again = in_found_unit(submission, references, tolerance=Tolerance())
    (before,), (after,) = submission.moved, read_again.moved
    assert before
    assert after
    assert after.position == pytest.approx(before.position * 25.4, abs=1e-9)
    assert after.position - read_again.instances[0].pose.position == pytest.approx([30, 0, 0], abs=1e-3)
