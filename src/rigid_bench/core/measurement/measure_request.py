"""What a measure is asked, and how it finds the features it speaks of on the student's part."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument

Dimension = Literal["length", "angle", "area", "volume", "mass", "count", "share"]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Request:
    """What to measure: a name of `MEASURES` and the features it speaks of."""

    measure: str
    #: One or two features, in the reference's coordinates.
    features: tuple[Feature, ...] = ()
    #: "x", "y" or "z" of the reference, for an extent.
    axis: str | None = None
    #: g/cm3, for a mass.
    density: float | None = None
    #: Named in errors.
    where: str = "measure"


#: Takes a reference laid over a part and a request; None where the part lacks a feature.
Measure = Callable[[RegisteredPart, Request], float | None]


def needs(request: Request, what: str) -> InvalidDocument:
    """Return the refusal of a request that lacks what its measure needs."""
    return InvalidDocument(request.where, f"the measure '{request.measure}' needs {what}", "Add it to the check")


def wall_of(laid: RegisteredPart, request: Request) -> Cylinder | None:
    """Find the one round wall of a request on the part; None where the part lacks it."""
    if len(request.features) != 1 or not isinstance(request.features[0], AxisFeature):
        raise needs(request, "one cylinder")
    return laid.wall(request.features[0], where=request.where)


_Kinds = type[Feature] | tuple[type[Feature], ...]


def two_of(
    laid: RegisteredPart, request: Request, first: _Kinds, second: _Kinds
) -> tuple[PlaneFeature | CylinderFeature | None, PlaneFeature | CylinderFeature | None]:
    """Find both features of a measure on the part; None where the part lacks one."""
    wanted = request.features
    if len(wanted) != 2 or not isinstance(wanted[0], first) or not isinstance(wanted[1], second):
        raise needs(request, "two features, flat faces or round walls as the measure says")
    found = [laid.feature(each, where=request.where) for each in wanted]
    for each in found:
        assert each is None or isinstance(each, PlaneFeature | CylinderFeature)
    return found[0], found[1]  # type: ignore[return-value]  # narrowed one line above
