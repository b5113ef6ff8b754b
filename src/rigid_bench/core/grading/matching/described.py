"""Parts asked for by description, without a reference model: overall sizes, holes, radii, thickness, volume."""

import numpy as np
from scipy.optimize import linear_sum_assignment

from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.grading.diagnosis.causes import SCALES
from rigid_bench.core.grading.requirement import DimensionFields, requirement_of
from rigid_bench.core.kernel.distance import scaled as resized
from rigid_bench.core.kernel.read_model import read_part
from rigid_bench.core.measurement.box_frame import box_frames
from rigid_bench.core.measurement.measure import measure
from rigid_bench.core.measurement.measure_request import Request
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.recognition.inventory import inventory_of
from rigid_bench.core.part.walls import flat_walls
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.registration.register import Registration
from rigid_bench.core.values.tolerance import Tolerance

_AXES = ("x", "y", "z")
#: Measures that need no face of a reference.
_OF_THE_PART = frozenset(
    ("extent", "volume", "area", "mass", "closed", "least_wall", "greatest_wall", "wall_spread", "fillets", "chamfers")
)
#: Measures of sizes that are found by their value among all of the part.
_BY_SIZE = frozenset(("diameter", "radius", "thickness"))
#: What can be asked of a part without a reference model.
NAMELESS = _OF_THE_PART | _BY_SIZE
#: A part whose overall size is this near (as a share) to 25.4 or 10 times what it should be has a slipped unit.
_UNIT_SLIP = 0.1


def register_described(exercise: Exercise, part: str, submitted: PartFeatures, tolerance: Tolerance) -> RegisteredPart:
    """Look at a submitted part squarely, so that its overall sizes lie along the axes that the exercise gives them.

    Parameters
    ----------
    exercise
        Its checks say what the part should measure.
    part
        Id of a part without a reference model.
    submitted
        The student's part.
    tolerance
        For reading it anew where its unit slipped.

    Returns
    -------
    RegisteredPart
        The part laid over itself; its likeness says how well overall sizes, volume and holes agree, 0 to 1.
    """
    wanted = _nominals(exercise, part)
    sizes = {axis: value for (name, axis), value in wanted if name == "extent" and axis}
    scale = _scale(submitted, sizes)
    if scale != 1.0:
        submitted = read_part(resized(submitted.shape, 1 / scale), tolerance=tolerance)

    def off(frame: tuple[object, np.ndarray]) -> float:
        return sum(abs(float(frame[1][_AXES.index(axis)]) - value) for axis, value in sizes.items())

    pose, extents = min(box_frames(submitted), key=off)
    shares = [_share(float(extents[_AXES.index(axis)]), value) for axis, value in sizes.items()]
    shares += [_share(submitted.volume, value) for (name, _), value in wanted if name == "volume"]
    round_walls = sorted(2 * cylinder.radius for cylinder in submitted.cylinders)
    diameters = [value for (name, _), value in wanted if name == "diameter"]
    shares += [max((_share(round_wall, value) for round_wall in round_walls), default=0.0) for value in diameters]
    likeness = float(np.mean(shares)) if shares else 0.5
    return RegisteredPart(submitted, submitted, Registration(pose=pose, likeness=likeness), scale)


def measure_described(
    check: CheckModel, name: str, registered: RegisteredPart, exercise: Exercise, *, request: Request
) -> float | None:
    """Measure a size of a part that has no reference model.

    Parameters
    ----------
    check, name
        The check and its measure, one of `NAMELESS`.
    registered
        From `register_described`.
    exercise
        Its other checks: like sizes are shared out among them, nearest first.
    request
        As for `measure`.

    Returns
    -------
    float or None
        mm, mm2, mm3, g or a count; None where the part has nothing of the kind left.
    """
    if name in _OF_THE_PART:
        return measure(registered, request)
    registered.need_solid(where=request.where)
    if name == "thickness":
        return _thickness(registered.part)
    if name == "radius":
        radii = [fillet.radius for fillet in inventory_of(registered.part, Tolerance()).fillets]
    else:
        radii = [2 * cylinder.radius for cylinder in registered.part.cylinders if cylinder.goes_round]
    alike = [described for described in _of_part(exercise, str(check.fields["part"])) if described[1].measure == name]
    wanted = [requirement_of(known_check, fields, exercise).nominal * exercise.mm for known_check, fields in alike]
    if not radii:
        return None
    # a size counts once for each check, and not again for its copies
    own = sorted({round(size, 6) for size in radii})
    cost = np.abs(np.log(np.array(wanted)[:, None] / np.array(own)[None]))
    rows, columns = linear_sum_assignment(cost)
    shared = {alike[int(row)][0].id: own[int(column)] for row, column in zip(rows, columns, strict=True)}
    return shared.get(check.id)


def _thickness(part: PartFeatures) -> float | None:
    """Return the thickness that the flat walls with most area have, mm."""
    areas: dict[float, float] = {}
    for wall in flat_walls(part):
        key = round(wall.thickness, 4)
        areas[key] = areas.get(key, 0.0) + min(part.surfaces[surface].area for surface in wall.surfaces)
    return max(areas, key=lambda area: areas[area], default=None)


def _of_part(exercise: Exercise, part: str) -> list[tuple[CheckModel, DimensionFields]]:
    checks = [
        check for check in exercise.model.checks if check.kind == "dimension" and check.fields.get("part") == part
    ]
    return [(check, DimensionFields.model_validate(check.fields)) for check in checks]


def _nominals(exercise: Exercise, part: str) -> list[tuple[tuple[str, str | None], float]]:
    """List measure, axis and nominal (mm, mm3) of what is asked of a part."""
    powers = {"extent": 1, "diameter": 1, "volume": 3}
    return [
        (
            (fields.measure, fields.axis),
            requirement_of(check, fields, exercise).nominal * exercise.mm ** powers[fields.measure],
        )
        for check, fields in _of_part(exercise, part)
        if fields.measure in powers
    ]


def _scale(submitted: PartFeatures, sizes: dict[str, float]) -> float:
    if len(sizes) < len(_AXES):
        return 1.0
    ratio = submitted.size / float(np.linalg.norm(list(sizes.values())))
    return next((scale for scale in SCALES if abs(ratio / scale - 1) < _UNIT_SLIP), 1.0)


def _share(value: float, wanted: float) -> float:
    return min(value, wanted) / max(value, wanted) if value > 0 and wanted > 0 else 0.0
