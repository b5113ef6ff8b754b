"""What a drawing shows of an exercise: each part in its hidden-line views, cut where that says more, the assembly."""

import pickle
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.motion.apart import shifts_apart, ways_apart
from rigid_bench.core.drawing.assembly_section import cut_assembly
from rigid_bench.core.drawing.assembly_steps import assembly_steps
from rigid_bench.core.drawing.line_cleaning import drawn_once
from rigid_bench.core.drawing.sections import choose_section
from rigid_bench.core.drawing.stock_pieces import CUT_PROCESSES, stock_piece
from rigid_bench.core.exercise.bundle import Exercise
from rigid_bench.core.formats.build import Instance
from rigid_bench.core.formats.pictures import (
    AssemblyPictures,
    ExplodedPictures,
    FlatsModel,
    HoleCircleModel,
    PartPictures,
    Polyline,
    RoundModel,
    SeenInstance,
    Sheet,
    ViewModel,
)
from rigid_bench.core.kernel.distance import moved
from rigid_bench.core.kernel.feature_reader import tight_box
from rigid_bench.core.kernel.read_model import read_model, read_part
from rigid_bench.core.kernel.views import View, draw_view, seen_edges
from rigid_bench.core.part.directions import BACK, BOTTOM, FRONT, LEFT, PICTORIAL, SIDE, TOP, Direction, axes_of
from rigid_bench.core.part.faces import Cylinder, Sphere
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.model import Body
from rigid_bench.core.part.recognition.inventory import Inventory, take_inventory
from rigid_bench.core.part.recognition.prisms import find_prisms
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.recent_results import RecentResults, digest_of
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.language import _

_Array = NDArray[np.float64]
_LEVEL, _SQUARE = 1e-6, 1e-6
#: rad: less is no round end but a rounding.
_HALF_ROUND = np.pi - 1e-3
#: mm: triangles of a cut face stay so near to what is round; what is narrower is no area.
_FINE, _SLIVER = 0.02, 1e-4
#: While an exercise is set, its checks change with every edit, and what it is drawn of seldom.
_PARTS = RecentResults[PartPictures](most=64)
_ASSEMBLED, _APART = RecentResults[AssemblyPictures](most=16), RecentResults[ExplodedPictures | None](most=16)


def make_pictures(
    exercise: Exercise, *, tolerance: Tolerance, progress: Callable[[str], None] = lambda text: None
) -> Sheet:
    """Draw an exercise's parts and assembly.

    Parameters
    ----------
    exercise
        With its reference files.
    tolerance
        For what counts as one feature.
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
    features = {}
    drawn = [(part, part.file) for part in exercise.model.parts if part.file]
    for part, file in drawn:
        solids = [read for read in read_model(exercise.part_files[part.id], name=file).parts if read.solids]
        if not solids:
            raise InvalidDocument(file, _("it holds no solid"), _("Give one solid per part file"))
        features[part.id] = read_part(solids[0].shape, tolerance=tolerance)
    pictures = {}
    for part, _unused in drawn:
        progress(f"Drawing {part.name}")
        drawn_part = _PARTS.of(
            digest_of(exercise.part_files[part.id], repr(tolerance)),
            partial(part_pictures, features[part.id], tolerance=tolerance),
        )
        is_cut = part.origin == "made" and part.process in CUT_PROCESSES and not features[part.id].is_mesh
        stock = stock_piece(features[part.id]) if is_cut else None
        pictures[part.id] = drawn_part.model_copy(update={"stock": stock})
    files = (text for part in exercise.part_files.items() for text in part)
    placed = digest_of(pickle.dumps(exercise.reference), repr(tolerance), *files)
    return Sheet(
        parts=pictures,
        assembly=_assembly(exercise, features, placed, progress),
        exploded=_APART.of(placed, lambda: _exploded(exercise, features, tolerance, progress)),
    )


def part_pictures(part: PartFeatures, *, tolerance: Tolerance) -> PartPictures:
    """Draw one part.

    Raises
    ------
    GeometryError
        The kernel cannot work out the hidden lines.
    """
    inventory = take_inventory(part, tolerance=tolerance)
    return PartPictures(
        views=[_view([part.shape], direction) for direction in (FRONT, TOP, SIDE, PICTORIAL, LEFT, BACK, BOTTOM)],
        section=None if part.is_mesh else choose_section(part, inventory, _view),
        rounds=_rounds(part, inventory),
        hole_circles=[
            HoleCircleModel(
                centre=pattern.pattern.centre.tolist(),
                direction=pattern.pattern.direction.tolist(),
                diameter=pattern.pattern.pitch_circle,
            )
            for pattern in inventory.patterns
            if pattern.of == "hole" and pattern.pattern.kind == "circular"
        ],
        flats=[
            FlatsModel(
                sides=prism.outline.sides,
                centre=np.round(prism.position, 6).tolist(),
                direction=prism.direction.tolist(),
                across_flats=prism.outline.across_flats,
            )
            for prism in find_prisms(part)
            if prism.outline.sides and not prism.is_hollow
        ],
    )


def _rounds(part: PartFeatures, inventory: Inventory) -> list[RoundModel]:
    holes = [wall for wall in part.cylinders if wall.is_hollow and wall.goes_round]
    rounds = [_round("hole", wall) for wall in holes] + [_round("boss", wall) for wall in part.bosses]
    rounds += [
        _round("round end", round_wall.wall)
        for round_wall in inventory.round_walls
        if round_wall.wall.sweep > _HALF_ROUND
    ]
    for surface in part.surfaces:
        if isinstance(surface, Sphere):
            middle = np.round(surface.point, 6).tolist()
            rounds.append(RoundModel(kind="ball", start=middle, end=middle, diameter=2 * surface.radius))
    return rounds


def _round(kind: Literal["hole", "boss", "round end"], wall: Cylinder) -> RoundModel:
    start, end = (np.round(point, 6).tolist() for point in (wall.point, wall.end))
    return RoundModel(kind=kind, start=start, end=end, diameter=2 * wall.radius)


def _assembly(
    exercise: Exercise, features: Mapping[str, PartFeatures], placed: str, progress: Callable[[str], None]
) -> AssemblyPictures | None:
    if exercise.reference is None:
        return None
    progress(_("Drawing the assembly"))
    instances = [instance for instance in exercise.reference.instances if instance.part in features]
    drawn = _ASSEMBLED.of(placed, lambda: _seen_instances(instances, features))
    # where it is cut depends on what is asked
    section = cut_assembly(instances, features, exercise.model.checks, _view)
    return drawn.model_copy(update={"section": section})


def _seen_instances(instances: Sequence[Instance], features: Mapping[str, PartFeatures]) -> AssemblyPictures:
    solids = [moved(features[instance.part].shape, instance.pose) for instance in instances]
    edges = seen_edges(solids, PICTORIAL, size=_size(solids))
    return AssemblyPictures(
        view=_view(solids, PICTORIAL),
        instances=[
            SeenInstance(instance=instance.id, part=instance.part, point=_middle_of_longest(own))
            for instance, own in zip(instances, edges, strict=True)
        ],
    )


def _exploded(
    exercise: Exercise,
    features: Mapping[str, PartFeatures],
    tolerance: Tolerance,
    progress: Callable[[str], None],
) -> ExplodedPictures | None:
    """Draw the assembly apart, each part out along its way in; None for a single part, or where nothing comes apart."""
    build = exercise.reference
    if build is None or len(build.instances) < 2 or any(own.part not in features for own in build.instances):
        return None
    progress(_("Drawing the assembly apart"))
    placed = {k: (features[own.part], own.pose) for k, own in enumerate(build.instances)}
    base = next((k for k, own in enumerate(build.instances) if own.grounded), 0)
    free = freedom(build, tolerance=tolerance)
    motions = {k: free.motions(k) for k in placed}
    ways = ways_apart(placed, motions, build.mates, base=base, tolerance=tolerance)
    if not ways:
        return None
    shifts = shifts_apart(placed, ways)
    apart = [
        replace(own, pose=Pose(own.pose.rotation, own.pose.position + shifts[k]))
        for k, own in enumerate(build.instances)
    ]
    frame = axes_of(PICTORIAL)[:2]
    middles = {k: pose.point(part.box.mean(axis=0)) for k, (part, pose) in placed.items()}
    drawn = _seen_instances(apart, features)
    return ExplodedPictures(
        view=drawn.view,
        instances=drawn.instances,
        trails=[
            np.round(np.array([middles[k], middles[k] + shift]) @ frame.T, 3).tolist()
            for k, shift in shifts.items()
            if np.linalg.norm(shift) > _LEVEL
        ],
        steps=assembly_steps(build, ways, base=base, tolerance=tolerance),
    )


def _middle_of_longest(edges: Sequence[_Array]) -> list[float] | None:
    longest = max(edges, key=lambda line: float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum()), default=None)
    if longest is None:
        return None
    middle = longest[len(longest) // 2] if len(longest) > 2 else longest.mean(axis=0)
    return np.round(middle, 3).tolist()  # type: ignore[no-any-return]


def _size(solids: Sequence[Body]) -> float:
    boxes = np.array([tight_box(solid) for solid in solids])
    return float(np.linalg.norm(boxes[:, 1].max(axis=0) - boxes[:, 0].min(axis=0)))


def _view(solids: Sequence[Body], direction: Direction) -> ViewModel:
    return view_model(draw_view(solids, direction, size=_size(solids)))


def view_model(view: View) -> ViewModel:
    """Write a view as plain data."""

    def rounded(lines: Sequence[_Array]) -> list[Polyline]:
        return [np.round(line, 3).tolist() for line in lines]

    size = float(np.linalg.norm(np.ptp(view.box, axis=0)))
    visible, hidden = drawn_once(rounded(view.visible), rounded(view.hidden), size)
    return ViewModel(name=view.name, visible=visible, hidden=hidden, box=np.round(view.box, 3).tolist())
