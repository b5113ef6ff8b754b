"""What is measured stays as it was: no function of the kernel's folder wears out the shapes that it is given."""

import re
from collections.abc import Callable, Iterator
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.ShapeAnalysis import ShapeAnalysis_ShapeTolerance
from OCP.TopoDS import TopoDS_Shape

from rigid_bench.core.kernel.binding import faces_of
from rigid_bench.core.kernel.distance import behind, measure_gap, moved, overlap_volume
from rigid_bench.core.kernel.editing.defeature import without_faces
from rigid_bench.core.kernel.read_model import read_model
from rigid_bench.core.values.frames import Pose
from rigid_bench.demo.graded import read_graded

pytestmark = pytest.mark.thorough

KERNEL = Path(__file__).parents[3] / "src" / "rigid_bench" / "core" / "kernel"
#: As they stand, where faces lie in one plane, and moved a little, where they cross at small distances.
SHIFTS = [(0.0, 0.0, 0.0), (1.0, 0.5, 0.3333)]


def pairs() -> Iterator[tuple[TopoDS_Shape, TopoDS_Shape]]:
    """Pairs of parts of the sample builds, moved a little."""
    for exercise in read_graded():
        for sample in list(exercise.samples.values())[:1]:
            for name, data in sample.files.items():
                if not name.endswith(".step"):
                    continue
                shapes = [part.shape for part in read_model(data, name=name).parts if part.solids]
                for one, other in pairwise(shapes):
                    for shift in SHIFTS:
                        yield one, moved(other, Pose(np.eye(3), np.array(shift)))


def wear(shape: TopoDS_Shape) -> tuple[float, float, bool]:
    """The largest and the mean tolerance of what a shape is made of, and whether it is sound."""
    tolerance = ShapeAnalysis_ShapeTolerance()
    return tolerance.Tolerance(shape, 1), tolerance.Tolerance(shape, 0), BRepCheck_Analyzer(shape).IsValid()


def cut_through(one: TopoDS_Shape, _: TopoDS_Shape) -> object:
    return behind(one, point=np.zeros(3), normal=np.array([0.0, 0.0, 1.0]), reach=1_000.0)


def defeatured(one: TopoDS_Shape, _: TopoDS_Shape) -> object:
    return [without_faces(one, [number]) for number in range(min(6, len(faces_of(one))))]


@pytest.mark.parametrize("work", [overlap_volume, measure_gap, cut_through, defeatured], ids=lambda work: work.__name__)
def test_shapes_are_the_same_afterwards(work: Callable[[TopoDS_Shape, TopoDS_Shape], object]) -> None:
    count = 0
    for one, other in pairs():
        before = wear(one), wear(other)
        work(one, other)
        assert (wear(one), wear(other)) == before
        count += 1
    assert count > 15


def test_boolean_operations_are_done_in_one_module_that_spares_its_arguments() -> None:
    """Of the kernel's own constructors with two shapes, each would widen the tolerances of both."""
    used = re.compile(r"BRepAlgoAPI_(Cut|Common|Fuse|Section|Splitter)")
    named = {path.name for path in KERNEL.rglob("*.py") if used.search(path.read_text())}
    assert named == {"booleans.py"}
