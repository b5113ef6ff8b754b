"""Advice by how a part is to be made: corners that no cutter reaches, walls that are uneven, parts too large.

Values of the trade are common practice, no source.
"""

from collections.abc import Iterator

import numpy as np

from rigid_bench.core.exercise.bundle import PartModel
from rigid_bench.core.measurement.box_frame import box_frames
from rigid_bench.core.part.edges import LINE
from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.inventory import inventory_of
from rigid_bench.core.part.walls import flat_walls
from rigid_bench.core.standards.stock import SHEETS
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.datums import number
from rigid_bench.core.wording.language import _

#: Processes with a cutter that turns, and the least radius of the corners that it leaves, mm.
CUTTERS = {"milled": 1.5, "routed": 1.5}
#: Processes that warp or sink where a wall is so many times as thick as another.
_UNEVEN = {"printed": 4.0, "vacuum formed": 2.0, "cast": 2.0}
#: mm2 of a wall's face for each mm2 of its thickness squared.
_WIDE = 9.0
#: mm: what a school's machine takes, the largest size first.
ROOM = {"printed": (250.0, 210.0, 210.0), "laser cut": (600.0, 400.0, 10.0), "milled": (400.0, 200.0, 100.0),
        "turned": (250.0, 100.0, 100.0), "vacuum formed": (450.0, 400.0, 200.0)}  # fmt: skip
#: Cosine and mm: sharp inside edges meet in a corner.
_CORNER_MM, _SHARP = 1e-3, 0.2
_EXACT = 0.01


def likely_process(shape: PartFeatures) -> str:
    """Propose how a part is made, by its shape: from sheet, on the lathe, or printed.

    A plate of a thickness that is sold, cut square through, comes from sheet; what is round about one axis is
    turned; all else can be printed.
    """
    pose, sizes = box_frames(shape)[0]
    thin = int(np.argmin(sizes))
    through = pose.rotation[:, thin]
    flats = all(
        min(abs(float(plane.normal @ through)), 1 - abs(float(plane.normal @ through))) < 1e-6 for plane in shape.planes
    )
    walls = all(abs(float(cylinder.direction @ through)) > 1 - 1e-6 for cylinder in shape.cylinders)
    levels = {
        round(float(plane.point @ through), 3) for plane in shape.planes if abs(float(plane.normal @ through)) > 0.5
    }
    if _is_sold(float(sizes[thin])) and flats and walls and not shape.others and not shape.cones and len(levels) == 2:
        return "laser cut"
    axes = [cylinder.direction for cylinder in shape.cylinders]
    along = bool(axes) and all(abs(float(axis @ axes[0])) > 1 - 1e-6 for axis in axes)
    if along and all(abs(float(plane.normal @ axes[0])) > 1 - 1e-6 for plane in shape.planes) and not shape.others:
        return "turned"
    return "printed"


def _is_sold(thickness: float) -> bool:
    return any(abs(thickness - size) < _EXACT for sizes in SHEETS.values() for size in sizes)


def process_advice(part: PartModel, shape: PartFeatures, *, mm: float, tolerance: Tolerance) -> Iterator[str]:
    """Yield what is likely to go wrong when a part is made as its exercise says, each with what to do."""
    process = part.process or ""
    if process in CUTTERS and _sharp_pockets(shape):
        yield (
            _(
                "{name}: {shape} inside corners are sharp; a round cutter leaves a radius there ({number} at "
                "least). Round them, or say that they are filed.",
                name=part.name,
                shape=_sharp_pockets(shape),
                number=number(CUTTERS[process] / mm),
            )
        )
    for fillet in inventory_of(shape, tolerance).fillets if process in CUTTERS else ():
        wall = shape.surfaces[fillet.surface]
        if isinstance(wall, Cylinder) and wall.is_hollow and fillet.radius < CUTTERS[process] - _EXACT:
            yield (
                _(
                    "{name}: an inside corner of R{radius} is sharper than the cutter (R{cutter} at least). "
                    "Make it larger.",
                    name=part.name,
                    radius=number(fillet.radius / mm),
                    cutter=number(CUTTERS[process] / mm),
                )
            )
    if process in _UNEVEN:
        yield from _uneven(part, shape, process)
    sizes = sorted(box_frames(shape)[0][1].tolist(), reverse=True)
    if process in ROOM and any(a > b for a, b in zip(sizes, ROOM[process], strict=True)):
        own = " × ".join(number(size / mm) for size in sizes)
        room = " × ".join(number(side / mm) for side in ROOM[process])
        yield _(
            "{name}: {own} is larger than what is usually {process} at school ({room}). Split it, or ask.",
            name=part.name,
            own=own,
            process=process,
            room=room,
        )
    if process == "laser cut" and not _is_sold(sizes[-1]):
        yield _(
            "{name}: no sheet is {number} thick. Take a thickness that is sold.",
            name=part.name,
            number=number(sizes[-1] / mm),
        )


def _uneven(part: PartModel, shape: PartFeatures, process: str) -> Iterator[str]:
    walls = [
        flat_wall.thickness
        for flat_wall in flat_walls(shape)
        # a wall is much wider than thick; what is as high as wide is the body itself
        if min(shape.surfaces[k].area for k in flat_wall.surfaces) > _WIDE * flat_wall.thickness**2
    ]
    if walls and max(walls) > _UNEVEN[process] * min(walls):
        run = f"{min(walls):.3g} to {max(walls):.3g} mm"
        yield _(
            "{name}: its walls run from {run}; what is {process} sinks or warps there. Make them more even.",
            name=part.name,
            run=run,
            process=process,
        )


def _sharp_pockets(shape: PartFeatures) -> int:
    """Count the corners where three sharp inside edges meet: two walls and a floor."""
    edges = shape.edges
    inside = [k for k, angle in enumerate(edges.angles) if angle > _SHARP and edges.kinds[k] == LINE]
    ends = np.array([point for k in inside for point in (edges.starts[k], edges.ends[k])]).reshape(-1, 3)
    if not len(ends):
        return 0
    corners = np.unique(np.round(ends / _CORNER_MM).astype(np.int64), axis=0, return_counts=True)[1]
    return int(np.count_nonzero(corners >= 3))
