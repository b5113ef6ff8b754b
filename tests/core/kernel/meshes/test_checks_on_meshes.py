"""What is asked of cones, balls, edges and patterns is measured on meshes; what one does not show is left open."""

from typing import Any

import numpy as np
import pytest
import trimesh
from build123d import Axis, Box, Cone, Cylinder, Pos, Sphere, chamfer, fillet

from rigid_bench.core.kernel.meshes.triangulation import meshed
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.measurement.measure import measure
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.registration.register_mesh import register_mesh
from rigid_bench.core.values.datums import (
    AxisFeature,
    ConeFeature,
    CountersinkFeature,
    Feature,
    PlaneFeature,
    SphereFeature,
)
from rigid_bench.core.values.errors import MeshCannotAnswer
from tests.support.shapes import TOLERANCE, features, plate_with_four_holes

BLOCK = Box(60, 40, 20)
SUNK = BLOCK - Cylinder(3, 60) - Pos(0, 0, 8.5) * Cone(3, 6, 3)
SOCKET = BLOCK - Pos(0, 0, 12) * Sphere(8)
Z = np.array([0.0, 0.0, 1.0])
TOP = PlaneFeature(np.array([0.0, 0.0, 10.0]), Z)
SIDE = PlaneFeature(np.array([0.0, 20.0, 0.0]), np.array([0.0, 1.0, 0.0]))


def as_mesh(shape: Any, within_mm: float = 0.02) -> PartFeatures:
    mesh = meshed(shape.wrapped, within_mm=within_mm)
    return read_part(trimesh.Trimesh(mesh.vertices, mesh.faces, process=False), tolerance=TOLERANCE)


def measured(shape: Any, own: PartFeatures, name: str, *asked: Feature, axis: str | None = None) -> float | None:
    reference = features(shape)
    registered = RegisteredPart(reference, own, register_mesh(reference, own, tolerance=TOLERANCE)[0])
    return measure(registered, Request(measure=name, features=asked, axis=axis, where="check"))


@pytest.mark.parametrize(
    ("shape", "name", "asked", "axis", "value"),
    [
        (SUNK, "cone_angle", (ConeFeature(np.array([0, 0, 4.0]), Z, np.pi / 2),), None, 90.0),
        (SOCKET, "sphere_diameter", (SphereFeature(np.array([0, 0, 12.0]), 8.0),), None, 16.0),
        (SUNK, "countersink_diameter", (CountersinkFeature(np.array([0, 0, 0.0]), Z),), None, 12.0),
        (BLOCK, "edge_length", (TOP, SIDE), None, 60.0),
        (BLOCK, "tangency", (TOP, SIDE), None, 90.0),
        (fillet(BLOCK.edges().filter_by(Axis.Z), 5), "fillets", (), None, 4.0),
        (chamfer(BLOCK.edges().group_by(Axis.Z)[-1].filter_by(Axis.X), 3), "chamfers", (), None, 2.0),
        (plate_with_four_holes(), "pattern_count", (AxisFeature(np.array([20, 15, 0.0]), Z),), None, 4.0),
        (plate_with_four_holes(), "pitch", (AxisFeature(np.array([20, 15, 0.0]), Z),), "x", 40.0),
    ],
)
def test_a_mesh_answers(shape: Any, name: str, asked: tuple[Feature, ...], axis: str | None, value: float) -> None:
    assert measured(shape, as_mesh(shape), name, *asked, axis=axis) == pytest.approx(value, abs=1e-3)


def test_a_countersink_of_six_chords_is_not_said_to_be_missing() -> None:
    """So coarse it looks like a pyramid; the same part as a fine mesh has it."""
    ring = trimesh.creation.cone(radius=12, height=12, sections=6)
    block = trimesh.creation.box((60, 40, 20))
    coarse = block.difference(ring.apply_transform(trimesh.transformations.translation_matrix([0, 0, 0])))
    own = read_part(trimesh.Trimesh(coarse.vertices, coarse.faces, process=False), tolerance=TOLERANCE)
    shape = BLOCK - Pos(0, 0, 6) * Cone(12, 0.1, 12)
    asked = next(cone for cone in features(shape).cones)
    middle = asked.apex + (asked.near + asked.far) / 2 * asked.direction
    feature = ConeFeature(middle, asked.direction, 2 * asked.half_angle)
    with pytest.raises(MeshCannotAnswer):
        measured(shape, own, "cone_angle", feature)


@pytest.mark.parametrize("name", ["fillets", "chamfers"])
def test_other_counts_of_edges_than_asked_are_left_open(name: str) -> None:
    """A coarse rounding looks like chamfers: what is counted is taken only where it is as asked."""
    rounded = fillet(BLOCK.edges().filter_by(Axis.Z), 5)
    asked = rounded if name == "fillets" else chamfer(BLOCK.edges().filter_by(Axis.Z), 5)
    with pytest.raises(MeshCannotAnswer):
        measured(asked, as_mesh(BLOCK), name)
