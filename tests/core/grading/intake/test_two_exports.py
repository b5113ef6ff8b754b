"""Two exports, before and after dragging: what moved, and how."""

import json
import math
from typing import Any

import numpy as np
import pytest
from build123d import Compound, Pos
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.grading.intake.two_exports import fitted
from rigid_bench.core.grading.report.models import CheckResult
from rigid_bench.core.values.frames import Pose
from rigid_bench.demo.modelling import Placed, assembly_bytes, step_bytes
from tests.support import latch
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

_vector = st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda vector: np.linalg.norm(vector) > 0.1)
SLIDE = [{"kind": "translation", "direction": [1, 0, 0]}]
SPIN = [{"kind": "rotation", "axis": {"point": [0, 0, 0], "direction": [0, 0, 1]}}]


@given(_vector, _vector, st.floats(0.05, 3.0), st.floats(-40, 40))
@settings(max_examples=60)
def test_a_screw_is_found_again(axis: Any, point: Any, angle: float, along: float) -> None:
    """Chasles: built from axis, angle and shift, and read back."""
    direction = np.array(axis) / np.linalg.norm(axis)
    at = 30 * np.array(point)
    turn = Rotation.from_rotvec(angle * direction).as_matrix()
    fit = fitted(Pose(turn, at - turn @ at + along * direction))
    assert fit
    motion, amount = fit
    assert amount == pytest.approx(angle)
    np.testing.assert_allclose(motion.direction, direction, atol=1e-7)
    assert np.linalg.norm(np.cross(motion.point - at, direction)) < 1e-6
    assert motion.kind == ("rotation" if abs(along) < 0.01 else "screw")
    assert motion.pitch * angle / (2 * math.pi) == pytest.approx(along if motion.kind == "screw" else 0, abs=1e-9)


def test_a_slide_and_no_motion() -> None:
    fit = fitted(Pose(np.eye(3), np.array([0, 3.0, 4])))
    assert fit
    assert (fit[0].kind, fit[1]) == ("translation", 5.0)
    assert fitted(Pose(np.eye(3), np.array([0, 1e-3, 0]))) is None


def export(*, bolt: tuple[float, float, float] = (7, 14.4, 4), pin_turn: float = 0.0, lift: float = 0.0) -> bytes:
    placed = [
        Placed(name="Body", solid=latch.body(), position=(0, 0, lift)),
        Placed(name="Bolt", solid=latch.bolt(), position=(bolt[0], bolt[1], bolt[2] + lift)),
    ]
    placed += [
        Placed(name="Pin", solid=latch.pin(), position=(x, y, lift), turn=(0, 0, pin_turn)) for x, y in latch.PIN_PLACES
    ]
    return assembly_bytes(placed, "Latch")


def judged(after: bytes | None, *, instance: str = "bolt-1", motions: list[dict[str, Any]] = SLIDE) -> CheckResult:
    check = {"id": "x", "title": "X", "kind": "moved", "marks": 1, "instance": instance, "motions": motions}
    files = {"kit.step": export()} | ({} if after is None else {"kit-moved.step": after})
    return grade(read_exercise(latch.bundle([{**check, "to": "body-1"}])), files, tolerance=TOLERANCE).checks[-1]


@pytest.mark.parametrize(
    ("after", "motions", "verdict", "measured"),
    [
        (export(bolt=(17, 14.4, 4)), SLIDE, "met", "slid by 10 mm along +X"),
        (export(bolt=(17, 14.4, 4), lift=50), SLIDE, "met", "slid by 10 mm along +X"),  # relative to the body
        (export(), SLIDE, "missed", "did not move"),
        (export(bolt=(7, 20, 4)), SLIDE, "missed", "slid by 5.6 mm along +Y"),
        (export(bolt=(17, 14.4, 4)), [], "missed", "slid by 10 mm along +X"),
        (export(), [], "met", "stayed where it was"),
        (None, SLIDE, "unchecked", "one export only"),
    ],
    ids=["slides", "moved as a whole too", "stays", "another way", "should stay", "stays as it should", "no second"],
)
def test_what_moved_is_compared_with_what_was_asked(
    after: bytes | None, motions: list[dict[str, Any]], verdict: str, measured: str
) -> None:
    result = judged(after, motions=motions)
    assert (result.verdict, result.measured) == (verdict, measured)
    assert "shows what moved, not what cannot" in result.required


def test_the_idle_spin_of_a_round_part_is_no_motion() -> None:
    assert judged(export(pin_turn=40), instance="pin-1", motions=[]).verdict == "met"


def test_places_written_into_the_shapes_are_compared_too() -> None:
    """Bodies of one file: every pose is the identity, and the shapes themselves have moved."""

    def bodies(x: float) -> bytes:
        shapes = [latch.body(), Pos(x, 14.4, 4) * latch.bolt()] + [Pos(*at, 0) * latch.pin() for at in latch.PIN_PLACES]
        return step_bytes(Compound(children=shapes), "Bodies")

    check = {"id": "x", "title": "X", "kind": "moved", "marks": 1, "instance": "bolt-1", "motions": SLIDE}
    exercise = read_exercise(latch.bundle([check]))
    report = grade(exercise, {"a.step": bodies(7), "a_moved.step": bodies(12)}, tolerance=TOLERANCE)
    assert report.checks[-1].measured == "slid by 5 mm along +X", json.dumps(report.checks[-1].model_dump())
