"""What a part lacks and has besides, by features; and why a part is freer or less free than asked."""

from typing import Any

import numpy as np
import pytest
from build123d import Axis, Box, Cylinder, Pos, Rot, chamfer, fillet

from rigid_bench.core.assembly.freedom.advice import Advice
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.grading.diagnosis.extras import without_extras
from rigid_bench.core.grading.diagnosis.feature_differences import FeatureDifferences, feature_differences
from rigid_bench.core.grading.diagnosis.freedom_causes import explain
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.registration.register import register
from rigid_bench.core.values.datums import AxisFeature, FrameFeature, PlaneFeature
from rigid_bench.core.wording.saying import say
from tests.support.shapes import TOLERANCE, features

pytestmark = pytest.mark.thorough

UP, ACROSS = np.array([0.0, 0, 1]), np.array([1.0, 0, 0])


def registered(reference: Any, own: Any) -> RegisteredPart:
    wanted, part = features(reference), features(Pos(5, 6, 7) * Rot(10, 20, 30) * own)
    return RegisteredPart(wanted, part, register(wanted, part, tolerance=TOLERANCE)[0])


def block() -> Any:
    return Box(60, 40, 12) - Pos(20, 12, 0) * Cylinder(3, 30) + Pos(-15, 0, 10) * Cylinder(6, 8)


def hole(x: float, y: float, radius: float, deep: float = 30) -> Any:
    return Pos(x, y, 6) * Cylinder(radius, 2 * deep)


def edges(shape: Any, treat: Any, size: float) -> Any:
    return treat(shape.edges().filter_by(Axis.Z).group_by(Axis.X)[0], size)


def said(differences: FeatureDifferences) -> tuple[list[str], list[str], list[str]]:
    return tuple(  # type: ignore[return-value]  # three lists
        [say(message) for message in messages]
        for messages in (differences.missing, differences.extra, differences.changed)
    )


@pytest.mark.parametrize(
    ("reference", "own", "missing", "extra", "changed"),
    [
        (block(), block(), [], [], []),
        (block() - hole(-20, -12, 2), block(), ["hole Ø4"], [], []),
        (block(), block() - hole(-20, -12, 2), [], ["hole Ø4"], []),
        (block(), block() - hole(8, -12, 2) - hole(22, -12, 2), [], ["2 × hole Ø4"], []),
        # a hole that ends in the part has the wall that was meant
        (block() - hole(8, -12, 2), block() - hole(8, -12, 2, 5), [], [], ["hole Ø4, 5 deep"]),
        (edges(block(), fillet, 3), block(), ["2 × rounded edge R3"], [], []),
        (block(), edges(block(), chamfer, 2), [], ["2 × chamfer 2 × 2"], []),
    ],
)  # fmt: skip
def test_features_are_compared_whatever_way_the_part_stands(
    reference: Any, own: Any, missing: list[str], extra: list[str], changed: list[str]
) -> None:
    reported = said(feature_differences(registered(reference, own), TOLERANCE))
    assert [len(words) for words in reported] == [len(missing), len(extra), len(changed)], reported
    for words, wanted in zip(reported, (missing, extra, changed), strict=True):
        assert all(begins in text for text, begins in zip(words, wanted, strict=True)), reported


def test_a_part_is_measured_without_what_it_has_besides() -> None:
    plain, more = features(block()), block() + Pos(0, 15, 8) * Box(8, 6, 6)
    assert without_extras(registered(block(), more), TOLERANCE).part.volume == pytest.approx(plain.volume, rel=1e-6)
    same = registered(block(), block())
    assert without_extras(same, TOLERANCE) is same


SPIN = Motion(kind="rotation", direction=UP, point=np.zeros(3))
SLIDE = Motion(kind="translation", direction=UP, point=np.zeros(3))
FLOOR, FOOT = PlaneFeature(np.zeros(3), UP), PlaneFeature(np.zeros(3), -UP)
BORE, FRAME = AxisFeature(np.zeros(3), UP), FrameFeature(np.zeros(3), UP, ACROSS)


def mate(kind: str, **more: Any) -> Mate:
    given = {"id": "m1", "kind": kind, "a": 0, "b": 1, "feature_a": BORE, "feature_b": BORE, **more}
    return Mate(**given)


SEAT = mate("coincident", feature_a=FLOOR, feature_b=FOOT, sense="opposed")
THREAD = mate("screw", pitch=1.25, feature_a=FRAME, feature_b=FRAME)


def told(advice: Advice, *own: Mate, seen: tuple[Motion, ...] = ()) -> tuple[str | None, str]:
    cause, step = explain(advice, own, name="Pin", other="Base", asked=[SPIN], seen=seen, units="mm")
    if cause:
        assert say(cause.message)
    return cause.code if cause else None, say(step)


@pytest.mark.parametrize(
    ("advice", "own", "code", "step"),
    [
        (Advice(too_many=(SLIDE,), missing=()), (), "placed-not-held", "Mate"),
        (Advice(too_many=(), missing=(SPIN,), drop="m1"), (mate("coaxial"),), "mate-too-many", "m1"),
        (Advice(too_many=(), missing=(SPIN,), loosen=("m1", "revolute")), (mate("fixed"),),
         "fixed-where-it-should-move", "m1"),
        (Advice(too_many=(), missing=(SPIN,)), (mate("coaxial"),), None, "mate"),
        (Advice(too_many=(SLIDE,), missing=(), add=SEAT),
         (mate("coaxial"),), "mate-short", "Base"),
        (Advice(too_many=(SLIDE,), missing=(), add=THREAD),
         (mate("coaxial"),), "mate-short", "1.25 mm"),
        (Advice(too_many=(SLIDE,), missing=()), (mate("coaxial"),), "mate-short", "Base"),
        (Advice(too_many=(), missing=()), (mate("coaxial"),), None, "Pin"),
    ],
)  # fmt: skip
def test_a_wrong_freedom_has_one_cause_and_one_step(
    advice: Advice, own: tuple[Mate, ...], code: str | None, step: str
) -> None:
    found_code, said_step = told(advice, *own, seen=(SLIDE,))
    assert found_code == code
    assert step in said_step
    assert "{" not in said_step
