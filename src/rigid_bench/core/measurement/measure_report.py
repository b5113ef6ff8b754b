"""The measure report: what a STEP file holds, in the published format."""

from rigid_bench.core.formats.measure import InstanceReport, MeasureReport, PartReport, PoseReport
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.kernel.read_model import read_model, read_part
from rigid_bench.core.measurement.feature_report import feature_report, listed, rounded
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.model import Model, ModelPart
from rigid_bench.core.part.recognition.inventory import take_inventory
from rigid_bench.core.part.symmetry import is_same_shape
from rigid_bench.core.values.errors import GeometryError
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.notices import said


def measure_file(data: bytes, *, name: str, tolerance: Tolerance, unit: str | None = None) -> MeasureReport:
    """Measure a file of parts.

    Parameters
    ----------
    data
        The whole file.
    name
        Its name, for the report and for messages.
    tolerance
        For reading features.
    unit
        As for `read_model`.

    Returns
    -------
    MeasureReport
        mm, mm2, mm3.

    Raises
    ------
    UnreadableFile, GeometryError
        The file cannot be used.
    """
    model = read_model(data, name=name, unit=unit)
    features, notices = _read_features(model, name, tolerance)
    parts = [part for part in model.parts if part.id in features]
    shapes = _shape_numbers(list(features.values()), tolerance)
    return MeasureReport(
        file=name,
        source_units=model.source_units,
        step_schema=model.schema,
        parts=[_part(*read, tolerance) for read in zip(parts, features.values(), shapes, strict=True)],
        instances=[
            InstanceReport(id=instance.id, name=instance.name, part=instance.part, pose=pose_report(instance.pose))
            for instance in model.instances
            if instance.part in features
        ],
        warnings=[message.text for message in said([*model.notices, *notices])],
    )


def _read_features(model: Model, name: str, tolerance: Tolerance) -> tuple[dict[str, PartFeatures], list[Message]]:
    """Return the features of each part, by id; what encloses nothing is left out where anything else is there."""
    features: dict[str, PartFeatures] = {}
    notices = []
    for part in model.parts:
        try:
            features[part.id] = read_part(part.shape, tolerance=tolerance)
        except GeometryError as exc:
            problem = exc
            notices.append(phrase("no-volume", name=part.name))
    if not features:
        raise GeometryError(name, problem.problem, problem.next_step)
    return features, notices


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


def _part(part: ModelPart, features: PartFeatures, shape: int, tolerance: Tolerance) -> PartReport:
    feature = feature_report(features, take_inventory(features, tolerance=tolerance))
    return PartReport(
        id=part.id,
        name=part.name,
        product=part.product,
        solids=part.solids,
        closed=features.closed,
        volume=rounded(features.volume),
        area=rounded(features.area),
        extents=listed(features.extents),
        centroid=listed(features.centroid),
        shape=shape,
        mesh=features.is_mesh or None,
        **dict(feature),
    )


def pose_report(pose: Pose) -> PoseReport:
    """Write a pose as the published formats do."""
    return PoseReport(position=listed(pose.position), quaternion=[round(value, 12) for value in pose.quaternion()])
