"""Measure one size of a student's part, by the name that an exercise gives it."""

from rigid_bench.core.measurement.feature_measures import OF_FEATURES
from rigid_bench.core.measurement.measure_request import MeasureKind, Request
from rigid_bench.core.measurement.round_measures import ROUND
from rigid_bench.core.measurement.sizes import SIZES
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _, series

#: Every measure, by its name.
MEASURES: dict[str, MeasureKind] = {**SIZES, **OF_FEATURES, **ROUND}


def measure(registered: RegisteredPart, request: Request) -> float | None:
    """Measure one size on the student's part.

    Parameters
    ----------
    registered
        The reference laid over the part.
    request
        What to measure, by features of the reference.

    Returns
    -------
    float or None
        mm, degrees, mm2, mm3, g or a count, as `MEASURES` says; None where the part lacks
        a feature that the measure needs.

    Raises
    ------
    InvalidDocument
        The exercise asks for a measure that is not known, or names a feature that the
        reference does not have.
    """
    if request.measure not in MEASURES:
        known = series(sorted(MEASURES))
        raise InvalidDocument(
            request.where,
            _("there is no measure '{measure}'", measure=request.measure),
            _("The measures are: {known}", known=known),
        )
    kind = MEASURES[request.measure]
    kind.check(request)
    return kind.find(registered, request)
