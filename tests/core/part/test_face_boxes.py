"""Boxes of faces hold the triangles that the kernel makes of them, and are what parts along a way are told apart by."""

from typing import Any

import numpy as np
import pytest
from build123d import Box, Cone, Cylinder, Pos, Rot, Sphere, Torus, fillet

from rigid_bench.core.assembly.contact.clearance import least_gap
from rigid_bench.core.assembly.freedom.placements import Placements
from rigid_bench.core.assembly.motion.box_gaps import box_gaps, carried, face_gaps
from rigid_bench.core.kernel.meshes.mesh_body import triangles_of
from rigid_bench.core.part.face_boxes import face_boxes
from rigid_bench.core.values.frames import Pose
from tests.support.shapes import features

PLATE = Box(60, 30, 8)
SHAPES = {
    "plate with a hole askew": PLATE - Rot(30, 20, 0) * Cylinder(5, 60),
    "rounded": fillet(PLATE.edges(), 3),
    "cone on a plate": PLATE + Pos(0, 0, 8) * Cone(9, 4, 10),
    "ball and ring": Sphere(10) + Torus(12, 4),
    "bent": Rot(10, 20, 30) * (PLATE + Pos(20, 0, 8) * Rot(0, 90, 0) * Cylinder(6, 20)),
}


@pytest.mark.parametrize("shape", SHAPES.values(), ids=SHAPES)
def test_boxes_of_faces_together_hold_the_part(shape: Any) -> None:
    part = features(shape)
    boxes = face_boxes(part)
    corners = np.asarray(triangles_of(part.shape, within_mm=0.02).vertices)
    held = np.any(
        np.all((corners[:, None] > boxes[:, 0] - 1e-6) & (corners[:, None] < boxes[:, 1] + 1e-6), axis=2), axis=1
    )
    assert held.all()


@pytest.mark.parametrize("shape", SHAPES.values(), ids=SHAPES)
def test_boxes_never_say_that_parts_are_further_apart_than_they_are(shape: Any) -> None:
    a, b = features(shape), features(SHAPES["bent"])
    chance = np.random.default_rng(5)
    poses = [Pose.from_rotation_vector(chance.normal(size=3), 45 * chance.normal(size=3)) for _ in range(40)]
    seen = Placements(np.array([pose.rotation for pose in poses]), np.array([pose.position for pose in poses]))
    true = [least_gap(a, Pose.identity(), b, pose, fine=True) for pose in poses]
    whole, faces = box_gaps(seen, carried(seen, b.corners), a, b), face_gaps(seen, a, b)
    assert np.all(whole <= np.array(true) + 0.05)
    assert np.all(faces <= np.array(true) + 0.05)
    assert (faces > 0).any()
