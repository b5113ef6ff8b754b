"""The exercise sheet's pictures: each part in three hidden-line views, the assembly in one."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.exercise.bundle import Exercise
from rigid_bench.core.formats.pictures import Polyline, Sheet, ViewModel
from rigid_bench.core.kernel.distance import moved
from rigid_bench.core.kernel.feature_reader import tight_box
from rigid_bench.core.kernel.read_model import read_model
from rigid_bench.core.kernel.views import View, draw_view
from rigid_bench.core.part.directions import FRONT, PICTORIAL, SIDE, TOP, Direction
from rigid_bench.core.part.model import Body
from rigid_bench.core.values.errors import InvalidDocument


def make_sheet(exercise: Exercise, *, progress: Callable[[str], None] = lambda text: None) -> Sheet:
    """Draw an exercise's parts and assembly.

    Parameters
    ----------
    exercise
        With its reference files.
    progress
        Told what is being drawn.

    Returns
    -------
    Sheet

    Raises
    ------
    UnreadableFile, GeometryError, InvalidDocument
        A reference file cannot be drawn.
    """
    shapes = {}
    drawn = [(part, part.file) for part in exercise.model.parts if part.file]
    for part, file in drawn:
        solids = [each.shape for each in read_model(exercise.part_files[part.id], name=file).parts if each.solids]
        if not solids:
            raise InvalidDocument(file, "it holds no solid", "Give one solid per part file")
        shapes[part.id] = solids[0]
    views = {}
    for part, _ in drawn:
        progress(f"Drawing {part.name}")
        views[part.id] = [_view([shapes[part.id]], direction) for direction in (FRONT, TOP, SIDE, PICTORIAL)]
    return Sheet(parts=views, assembly=_assembly(exercise, shapes, progress))


def _assembly(exercise: Exercise, shapes: Mapping[str, Body], progress: Callable[[str], None]) -> ViewModel | None:
    if exercise.reference is None:
        return None
    progress("Drawing the assembly")
    return _view([moved(shapes[each.part], each.pose) for each in exercise.reference.instances], PICTORIAL)


def _view(solids: Sequence[Body], direction: Direction) -> ViewModel:
    boxes = np.array([tight_box(each) for each in solids])
    size = float(np.linalg.norm(boxes[:, 1].max(axis=0) - boxes[:, 0].min(axis=0)))
    return view_model(draw_view(solids, direction, size=size))


def view_model(view: View) -> ViewModel:
    """Write a view as plain data."""

    def rounded(lines: Sequence[NDArray[np.float64]]) -> list[Polyline]:
        return [np.round(line, 3).tolist() for line in lines]

    return ViewModel(
        name=view.name, visible=rounded(view.visible), hidden=rounded(view.hidden), box=np.round(view.box, 3).tolist()
    )
