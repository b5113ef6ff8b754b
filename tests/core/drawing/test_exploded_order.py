"""The exploded drawing's order replayed: each part goes in along its way past those that stand already."""

import numpy as np
import pytest

from rigid_bench.core.formats.build import Instance
from rigid_bench.core.kernel.distance import moved, overlap_volume
from rigid_bench.core.kernel.read_model import read_model, read_part
from rigid_bench.core.values.frames import Pose
from tests.core.drawing.drawn_parts import demo
from tests.support.shapes import TOLERANCE

pytestmark = pytest.mark.thorough

#: mm3: less is touching.
_TOUCH = 0.5


@pytest.mark.parametrize("name", ["jig", "drawer", "mast"])
def test_every_part_goes_in_along_its_way(name: str) -> None:
    exercise, pictures, _ = demo(name)
    assert pictures.exploded is not None
    assert exercise.reference is not None
    shapes = {}
    for part in exercise.model.parts:
        if part.file:
            solid = next(own for own in read_model(exercise.part_files[part.id], name=part.file).parts if own.solids)
            shapes[part.id] = read_part(solid.shape, tolerance=TOLERANCE)
    by_id: dict[str, Instance] = {own.id: own for own in exercise.reference.instances}
    reach = 3 * max(part.size for part in shapes.values())
    there: list[Instance] = []
    for step in pictures.exploded.steps:
        own = by_id[step.instance]
        for share in (0.02, 0.1, 0.3, 1.0) if step.way else ():
            away = Pose(own.pose.rotation, own.pose.position - share * reach * np.array(step.way))
            for other in there:
                common = overlap_volume(
                    moved(shapes[own.part].shape, away), moved(shapes[other.part].shape, other.pose)
                )
                assert common < _TOUCH, f"{step.instance} meets {other.id}"
        there.append(own)
    assert len(there) == len(exercise.reference.instances)
