"""Modelled threads are named by pitch, diameters and hand; what only winds a little, or crosses, is none."""

import pytest
from build123d import Cylinder, Helix, Plane, Polygon, Pos, Rot, sweep

from rigid_bench.core.measurement.feature_report import feature_report
from rigid_bench.core.part.recognition.inventory import take_inventory
from rigid_bench.core.wording.features import feature_list
from tests.support.shapes import TOLERANCE, features

pytestmark = pytest.mark.thorough


@pytest.mark.parametrize(
    ("pitch", "length", "is_left"), [(1.5, 12, False), (1.5, 12, True), (2.5, 30, False), (0.8, 5, True)]
)
def test_a_modelled_thread_has_pitch_diameters_and_hand(pitch: float, length: float, is_left: bool) -> None:
    helix = Helix(pitch=pitch, height=length, radius=4, lefthand=is_left)
    ridge = Polygon(
        (-0.1, -0.4 * pitch), (-0.1, 0.4 * pitch), (0.6 * pitch, 0.1 * pitch), (0.6 * pitch, -0.1 * pitch), align=None
    )
    profile = Plane(origin=helix @ 0, z_dir=helix % 0, x_dir=(1, 0, 0)) * ridge
    rod = Pos(0, 0, length / 2) * Cylinder(4, length + 4) + sweep(profile, path=helix, is_frenet=True)
    part = features(rod)
    (thread,) = feature_report(part, take_inventory(part, tolerance=TOLERANCE)).helical_threads
    assert thread.pitch == pytest.approx(pitch, abs=1e-3)
    assert (thread.major_diameter, thread.minor_diameter) == pytest.approx((8 + 1.2 * pitch, 8), abs=0.01)
    assert (thread.hand, thread.internal) == ("left" if is_left else "right", False)


def test_a_hole_across_a_rod_is_no_thread() -> None:
    part = features(Cylinder(10, 30) - Rot(90, 0, 0) * Cylinder(4, 40))
    features_found = feature_list(feature_report(part, take_inventory(part, tolerance=TOLERANCE)))
    assert not any("thread" in feature.code for feature in features_found)
