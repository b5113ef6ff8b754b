"""What can be pointed at, the dimensions that are offered, and new checks of an assembly."""

from typing import Any

import numpy as np
import pytest
from build123d import Align, Box, Cylinder, Pos, chamfer

from rigid_bench.core.drawing.audit.part_audit import audit_part
from rigid_bench.core.exercise.authoring import check_factory
from rigid_bench.core.exercise.authoring.check_factory import Picked, PlacedInstance
from rigid_bench.core.exercise.authoring.offers import offers
from rigid_bench.core.exercise.authoring.pointable import numbers_of, pointables
from rigid_bench.core.exercise.authoring.propose_sizes import dimensions, missing_dimensions
from rigid_bench.core.exercise.bundle import CheckModel, PartModel
from rigid_bench.core.formats.documents import FeatureModel
from rigid_bench.core.formats.pointing import Pointable
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.errors import FormRejected
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

CORNER = (Align.MIN, Align.MIN, Align.MIN)


def features(shape: Any) -> PartFeatures:
    return read_features(shape.solid().wrapped, tolerance=TOLERANCE)


def plate() -> Any:
    """60 x 40 x 8, two holes of 6 at (12, 10) and (42, 25), one 5 deep."""
    holes = [Pos(12, 10, -1) * Cylinder(3, 20, align=(Align.CENTER, Align.CENTER, Align.MIN))]
    holes += [Pos(42, 25, 3) * Cylinder(3, 20, align=(Align.CENTER, Align.CENTER, Align.MIN))]
    return Box(60, 40, 8, align=CORNER) - holes


@pytest.fixture(scope="module")
def listed() -> dict[str, Pointable]:
    return {pointable.words: pointable for pointable in pointables(features(plate()), mm=1.0)}


def test_every_face_and_hole_has_a_name_and_edges_to_point_at(listed: dict[str, Pointable]) -> None:
    assert set(listed) == {
        "top face, z = 8", "bottom face, z = 0", "left face, x = 0", "right face, x = 60", "front face, y = 0",
        "back face, y = 40", "Ø6 hole, x = 12, y = 10", "Ø6 hole, x = 42, y = 25", "top face, z = 3",
    }  # fmt: skip
    hole, left = listed["Ø6 hole, x = 42, y = 25"], listed["left face, x = 0"]
    assert (hole.is_hole, hole.depth) == (True, 5)
    ring = np.array(hole.lines["top"]).reshape(-1, 2)
    assert np.allclose(np.hypot(*(ring - (42, 25)).T), 3, atol=0.05)
    assert sorted(round(line[0][0]) for line in hole.lines["front"]) == [39, 45]
    assert all(x == 0 for line in left.lines["front"] for x, _ in line)
    assert not left.lines["right side"]  # seen flat there: its edges are its neighbours'


@pytest.mark.parametrize(
    ("a", "b", "given"),
    [
        ("left face, x = 0", "", []),
        ("Ø6 hole, x = 42, y = 25", "", [("diameter", 6), ("radius", 3), ("depth", 5)]),
        ("left face, x = 0", "right face, x = 60", [("length", 60)]),
        ("left face, x = 0", "top face, z = 8", [("angle", 90)]),
        ("Ø6 hole, x = 12, y = 10", "left face, x = 0", [("position", 12)]),
        ("Ø6 hole, x = 12, y = 10", "top face, z = 8", []),
        (
            "Ø6 hole, x = 12, y = 10",
            "Ø6 hole, x = 42, y = 25",
            [("position", 33.541), ("position", 30), ("position", 15)],
        ),
    ],
)
def test_one_or_two_features_offer_their_dimensions(
    listed: dict[str, Pointable], a: str, b: str, given: list[tuple[str, float]]
) -> None:
    offered = offers(listed[a], listed[b] if b else None)
    assert [(offer.measure, round(offer.nominal, 3)) for offer in offered] == given


def test_a_dimension_lights_the_faces_of_which_it_speaks(listed: dict[str, Pointable]) -> None:
    own = list(listed.values())
    offered = offers(listed["Ø6 hole, x = 12, y = 10"], listed["left face, x = 0"])[0]
    ends = [FeatureModel.model_validate(field).feature() for field in offered.fields["between"]]
    names = {own[k].words for k in numbers_of(ends, [pointable.feature.feature() for pointable in own])}
    assert names == {"Ø6 hole, x = 12, y = 10", "left face, x = 0"}


@pytest.mark.parametrize("dropped", range(8))
def test_what_is_dropped_from_a_whole_scheme_is_offered_again(dropped: int) -> None:
    part = features(plate())
    whole = [CheckModel.model_validate(dimension) for dimension in dimensions("p", part, TOLERANCE)]
    left = [check for k, check in enumerate(whole) if k != dropped % len(whole)]
    model = PartModel(id="p", name="P")
    assert len(audit_part(part, model, left, mm=1.0).missing) == 1
    given = missing_dimensions(model, part, left, mm=1.0, tolerance=TOLERANCE)
    mended = [*left, *(CheckModel.model_validate(check) for check in given)]
    assert audit_part(part, model, mended, mm=1.0).complete
    assert not audit_part(part, model, mended, mm=1.0).redundant


def test_a_chamfer_is_proposed_by_leg_and_angle() -> None:
    block = Box(30, 20, 10, align=CORNER)
    edge = block.edges().sort_by(lambda candidate: candidate.center().Z - candidate.center().X)[0]
    part = features(chamfer(edge, 2, 4))
    proposed = {dimension["measure"]: dimension["nominal"] for dimension in dimensions("p", part, TOLERANCE)}
    assert (proposed["chamfer"], round(proposed["chamfer_angle"], 3)) == (2, 26.565)


PLACES = {
    "base-1": PlacedInstance(part="base", name="Base", position=[0, 0, 0], quaternion=[1, 0, 0, 0]),
    "arm-1": PlacedInstance(part="arm", name="Arm", position=[10, 0, 8.5], quaternion=[1, 0, 0, 0]),
}


def picked(instance: str, words: str, listed: dict[str, Pointable]) -> Picked:
    return Picked(instance=instance, feature=listed[words].feature)


def test_a_relation_says_what_two_features_do(listed: dict[str, Pointable]) -> None:
    top, bottom = picked("base-1", "top face, z = 8", listed), picked("arm-1", "bottom face, z = 0", listed)
    gap = check_factory.relation("keep-a-gap", top, bottom, PLACES)
    assert (gap["relation"], gap["sense"], gap["value"]) == ("distance", "opposed", 0.5)
    assert check_factory.relation("faces-meet", top, bottom, PLACES)["title"] == "Arm and Base: faces meet"
    hole = picked("arm-1", "Ø6 hole, x = 12, y = 10", listed)
    axis = check_factory.relation("share-an-axis", picked("base-1", "Ø6 hole, x = 42, y = 25", listed), hole, PLACES)
    assert "axis" in axis["a"]
    for doing, one, other in (
        ("faces-meet", top, hole),
        ("share-an-axis", top, hole),
        ("touch", top, bottom),
        ("faces-meet", top, top),
        ("dance", top, bottom),
    ):
        with pytest.raises(FormRejected):
            check_factory.relation(doing, one, other, PLACES)


def test_a_freedom_is_in_the_coordinates_of_the_part_that_it_is_relative_to(listed: dict[str, Pointable]) -> None:
    hole = picked("arm-1", "Ø6 hole, x = 12, y = 10", listed)
    check = check_factory.freedom("arm-1", "base-1", slides=["x"], turns=["z"], through=hole, places=PLACES)
    assert check["title"] == "Arm slides along X and turns about Z"
    slide, turn = check["motions"]
    assert slide == {"kind": "translation", "direction": [1, 0, 0]}
    assert turn["axis"]["point"][:2] == [22, 10]
    held = check_factory.freedom("arm-1", "base-1", slides=[], turns=[], through=None, places=PLACES)
    assert (held["title"], held["motions"]) == ("Arm held", [])
    with pytest.raises(FormRejected):
        check_factory.freedom("arm-1", "arm-1", slides=[], turns=[], through=None, places=PLACES)


def test_a_gap_needs_limits_or_a_fit(listed: dict[str, Pointable]) -> None:
    between = (picked("base-1", "top face, z = 8", listed), picked("arm-1", "bottom face, z = 0", listed))
    check = check_factory.gap("", "", PLACES, least=0.3, between=between)
    assert (check["a"], check["b"], check["min"], len(check["between"])) == ("base-1", "arm-1", 0.3, 2)
    assert check_factory.gap("base-1", "arm-1", PLACES, fit="turn, printed")["fit"] == "turn, printed"
    for a, b, most in (("base-1", "arm-1", None), ("arm-1", "arm-1", 1.0)):
        with pytest.raises(FormRejected):
            check_factory.gap(a, b, PLACES, most=most)
