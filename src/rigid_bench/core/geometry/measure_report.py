"""The measure report: what a STEP file holds, in the published format."""

import math
from collections import Counter
from collections.abc import Iterable
from typing import Annotated

from pydantic import Field

from rigid_bench.core.documents import Document
from rigid_bench.core.frames import Pose
from rigid_bench.core.geometry.edge_treatments import find_chamfers, find_fillets
from rigid_bench.core.geometry.faces import Cylinder
from rigid_bench.core.geometry.features import PartFeatures, read_features
from rigid_bench.core.geometry.holes import Hole, find_holes
from rigid_bench.core.geometry.register import is_same_shape
from rigid_bench.core.geometry.step_file import StepPart, read_step
from rigid_bench.core.tolerance import Tolerance


class PoseReport(Document):
    """Position in mm, unit quaternion [w, x, y, z]."""

    position: list[float]
    quaternion: list[float]


class HoleReport(Document):
    """A hole, in its part's coordinates."""

    diameter: float
    depth: float
    through: bool
    entry: str
    position: list[float]
    direction: list[float]
    tip: float | None = None


class BossReport(Document):
    """A round wall with the material inside."""

    diameter: float
    height: float
    position: list[float]
    direction: list[float]


class FilletReport(Document):
    """Rounded edges of one radius."""

    radius: float
    count: int


class ChamferReport(Document):
    """Chamfered edges of one size; the angle is that to the face of the longer leg, degrees."""

    legs: list[float]
    angle: float
    count: int


class PartReport(Document):
    """One part."""

    id: str
    name: str
    product: str
    solids: int
    closed: bool
    volume: float
    area: float
    extents: list[float]
    centroid: list[float]
    shape: int
    holes: list[HoleReport]
    bosses: list[BossReport]
    fillets: list[FilletReport]
    chamfers: list[ChamferReport]


class InstanceReport(Document):
    """A leaf of the assembly."""

    id: str
    name: str
    part: str
    pose: PoseReport


class MeasureReport(Document):
    """The whole file, as in `docs/schemas/measure-report.json`."""

    file: str
    units: str = "mm"
    source_units: str
    #: Written as "schema"; Pydantic keeps that name for itself.
    step_schema: Annotated[str, Field(serialization_alias="schema")]
    parts: list[PartReport]
    instances: list[InstanceReport]
    warnings: list[str]


def measure_file(data: bytes, *, name: str, tolerance: Tolerance) -> MeasureReport:
    """Measure a STEP file.

    Parameters
    ----------
    data
        The whole file.
    name
        Its name, for the report and for messages.
    tolerance
        For reading features.

    Returns
    -------
    MeasureReport
        mm, mm2, mm3.

    Raises
    ------
    UnreadableFile, GeometryError
        The file cannot be used.
    """
    model = read_step(data, name=name)
    features = [read_features(part.shape, tolerance=tolerance) for part in model.parts]
    shapes = _shape_numbers(features, tolerance)
    return MeasureReport(
        file=name,
        source_units=model.source_units,
        step_schema=model.schema,
        parts=[_part(*each) for each in zip(model.parts, features, shapes, strict=True)],
        instances=[
            InstanceReport(id=each.id, name=each.name, part=each.part, pose=pose_report(each.pose))
            for each in model.instances
        ],
        warnings=list(model.warnings),
    )


def _shape_numbers(features: list[PartFeatures], tolerance: Tolerance) -> list[int]:
    """Give parts of one shape one number, counted from 1."""
    known: list[PartFeatures] = []
    numbers = []
    for part in features:
        number = next((k for k, other in enumerate(known, 1) if is_same_shape(other, part, tolerance=tolerance)), 0)
        if not number:
            known.append(part)
            number = len(known)
        numbers.append(number)
    return numbers


def _part(part: StepPart, features: PartFeatures, shape: int) -> PartReport:
    fillets = Counter(each.radius for each in find_fillets(features))
    chamfers = Counter((each.legs, each.angle) for each in find_chamfers(features))
    return PartReport(
        id=part.id,
        name=part.name,
        product=part.product,
        solids=part.solids,
        closed=features.closed,
        volume=_round(features.volume),
        area=_round(features.area),
        extents=_list(features.extents),
        centroid=_list(features.centroid),
        shape=shape,
        holes=[_hole(each) for each in find_holes(features)],
        bosses=[_boss(each) for each in features.bosses],
        fillets=[FilletReport(radius=radius, count=count) for radius, count in fillets.items()],
        chamfers=[
            ChamferReport(legs=list(legs), angle=_round(math.degrees(angle)), count=count)
            for (legs, angle), count in chamfers.items()
        ],
    )


def _hole(hole: Hole) -> HoleReport:
    wall = hole.cylinder
    return HoleReport(
        diameter=_round(2 * wall.radius),
        depth=_round(hole.depth),
        through=hole.through,
        entry=hole.entry,
        position=_list(wall.point),
        direction=_list(wall.direction),
        tip=_round(hole.tip) if hole.tip else None,
    )


def _boss(wall: Cylinder) -> BossReport:
    return BossReport(
        diameter=_round(2 * wall.radius),
        height=_round(wall.length),
        position=_list(wall.point),
        direction=_list(wall.direction),
    )


def pose_report(pose: Pose) -> PoseReport:
    """Write a pose as the published formats do."""
    return PoseReport(position=_list(pose.position), quaternion=[round(value, 12) for value in pose.quaternion()])


def _round(value: float) -> float:
    """Drop the dust of floating point: a millionth of a millimetre is far below any export's precision."""
    return round(float(value), 6) + 0.0


def _list(vector: Iterable[float]) -> list[float]:
    return [_round(value) for value in vector]
