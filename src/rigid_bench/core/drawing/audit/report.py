"""What an audit found, in the published format, and in words."""

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.drawing.audit.size_equations import Missing, PartAudit
from rigid_bench.core.formats.audit import MissingReport, PartAuditReport, RedundantReport
from rigid_bench.core.formats.documents import feature_model
from rigid_bench.core.values.datums import (
    AxisFeature,
    ConeFeature,
    CylinderFeature,
    Feature,
    PlaneFeature,
    SphereFeature,
    TorusFeature,
)
from rigid_bench.core.wording.datums import number
from rigid_bench.core.wording.language import NN_, _, translated_number

_DIGITS = 4
_AXES = "XYZ"


def part_report(audit: PartAudit, mm: float) -> PartAuditReport:
    """Report what the dimensions of a part fix; `mm` are millimetres in the exercise's unit."""
    count = len(audit.missing)
    loose = translated_number(*NN_("loose in {count} way", "loose in {count} ways"), count).format(count=count)
    words = [loose] if count else []
    words += [_("dimensioned twice")] if audit.redundant else []
    return PartAuditReport(
        complete=audit.complete,
        verdict=_(" and ").join(words) or _("rigid"),
        missing=[
            MissingReport(
                feature=feature_model(missing.unknown.feature, mm=mm),
                direction=_numbers(missing.direction),
                text=missing_words(missing, mm),
            )
            for missing in audit.missing
        ],
        redundant=[RedundantReport(check=redundant) for redundant in audit.redundant],
        without_tie=list(audit.without_tie),
    )


def missing_words(missing: Missing, mm: float) -> str:
    """Say what is missing, as a teacher would ask for it."""
    feature, way = missing.unknown.feature, missing.direction
    what = _words(feature, mm)
    match missing.unknown.kind:
        case "place":
            return _("No dimension says where {what} stands along {way}.", what=what, way=_way(way))
        case "slant":
            return _("No angle says how {what} slants.", what=what)
        case "radius":
            return _("No diameter is given for {what}.", what=what)
        case "depth":
            return _("No depth is given for {what}.", what=what)
        case "rounding":
            return _("No radius is given for the rounding at {place}.", place=_place(feature, mm))
        case "chamfer" | "chamfer angle":
            size = "leg" if missing.unknown.kind == "chamfer" else "angle"
            if size == "leg":
                return _("No leg is given for the chamfer at {place}.", place=_place(feature, mm))
            return _("No angle is given for the chamfer at {place}.", place=_place(feature, mm))
        case "countersink angle":
            return _("No angle is given for the countersink at {place}.", place=_place(feature, mm))
        case "shape" if isinstance(feature, SphereFeature):
            return _("No diameter is given for the ball at {place}.", place=_place(feature, mm))
        case "shape" if isinstance(feature, TorusFeature):
            return _("No radius is given for the ring at {place}.", place=_place(feature, mm))
        case "shape" if isinstance(feature, ConeFeature):
            return _("No size is given for the cone at {place}.", place=_place(feature, mm))
        case _:
            return _(
                "The surface at {place} is neither flat nor round: no dimension fixes it.",
                place=_place(feature, mm),
            )


def _words(feature: Feature, mm: float) -> str:
    if isinstance(feature, CylinderFeature):
        return _(
            "the Ø{diameter} wall about {place}", diameter=number(2 * feature.radius / mm), place=_place(feature, mm)
        )
    if isinstance(feature, PlaneFeature):
        return _("the face at {place} that looks along {way}", place=_place(feature, mm), way=_way(feature.normal))
    if isinstance(feature, SphereFeature):
        return _(
            "the ball of SØ{diameter} about {place}",
            diameter=number(2 * feature.radius / mm),
            place=_place(feature, mm),
        )
    return _("the axis through {place}", place=_place(feature, mm))


def _place(feature: Feature, mm: float) -> str:
    assert isinstance(feature, PlaneFeature | AxisFeature | SphereFeature)
    return f"({', '.join(number(float(coordinate) / mm) for coordinate in feature.point)})"


def _way(direction: NDArray[np.float64]) -> str:
    for name, axis in zip(_AXES, np.eye(3), strict=True):
        if abs(float(direction @ axis)) > 1 - 1e-6:
            return name
    return "a slant"


def _numbers(values: NDArray[np.float64]) -> list[float]:
    return [round(float(value), _DIGITS) + 0.0 for value in values]
