"""An audit that is made again from kept equations says what one of the model says."""

import json
from collections.abc import Mapping

import pytest

from rigid_bench.core.drawing.audit.exercise_audit import audit_exercise, exercise_equations
from rigid_bench.core.drawing.audit.kept_equations import KeptEquations, kept
from rigid_bench.core.drawing.audit.report import part_report
from rigid_bench.core.drawing.audit.size_equations import audit_equations
from rigid_bench.core.exercise.bundle import FILE, CheckModel, Exercise, read_exercise
from rigid_bench.core.formats.audit import PartAuditReport
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo import drill_jig, seed_drawer, weather_mast
from tests.support.samples import bundle_of

pytestmark = pytest.mark.thorough

MODULES = {"drawer": seed_drawer, "jig": drill_jig, "mast": weather_mast}


@pytest.fixture(scope="module", params=MODULES)
def bundle(request: pytest.FixtureRequest) -> dict[str, bytes]:
    files: dict[str, bytes] = bundle_of(MODULES[request.param])
    return files


def kept_by_part(exercise: Exercise) -> dict[str, KeptEquations]:
    """The equations as they come out of the database again."""
    equations = exercise_equations(exercise, {}, tolerance=Tolerance())
    written = {part: json.dumps(kept(own, exercise.mm).model_dump(mode="json")) for part, own in equations.items()}
    return {part: KeptEquations.model_validate(json.loads(text)) for part, text in written.items()}


def again(equations: Mapping[str, KeptEquations], exercise: Exercise) -> dict[str, PartAuditReport]:
    return {
        part: part_report(audit_equations(own.equations(exercise.mm), part, exercise.model.checks), exercise.mm)
        for part, own in equations.items()
    }


def changed(bundle: Mapping[str, bytes], checks: list[CheckModel]) -> Exercise:
    document = json.loads(bundle[FILE])
    document["checks"] = [check.model_dump(mode="json") for check in checks]
    document.pop("stages", None)
    return read_exercise({**bundle, FILE: json.dumps(document).encode()})


def test_every_check_may_go_follow_from_others_or_come_twice(bundle: dict[str, bytes]) -> None:
    exercise = read_exercise(bundle)
    equations = kept_by_part(exercise)
    assert again(equations, exercise) == audit_exercise(exercise, tolerance=Tolerance()).parts
    sizes = [check for check in exercise.model.checks if check.kind == "dimension" and "part" in check.fields]
    verdicts = set()
    for size in sizes:
        others = [check for check in exercise.model.checks if check.id != size.id]
        auxiliary = CheckModel.model_validate({**size.model_dump(mode="json"), "value": "auxiliary"})
        twice = CheckModel.model_validate({**size.model_dump(mode="json"), "id": "twice"})
        for checks in (others, [*others, auxiliary], [*exercise.model.checks, twice]):
            other = changed(bundle, checks)
            reports = again(equations, other)
            part = size.fields["part"]
            if part in reports:
                assert reports[part] == audit_exercise(other, tolerance=Tolerance()).parts[part], size.id
                verdicts.add(reports[part].verdict)
    assert {"loose in 1 way", "dimensioned twice"} <= verdicts
