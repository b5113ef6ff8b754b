"""What a measure is asked, which features it takes, and how it finds them on the student's part."""

import itertools
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Final, Literal

from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.datums import (
    AxisFeature,
    ConeFeature,
    CylinderFeature,
    Feature,
    PlaneFeature,
    PointFeature,
    SphereFeature,
    TorusFeature,
)
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import N_, _, translated

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


#: By the name that a measure's `takes` gives it, what a feature must be. Cylinders and countersinks serve as axes, too.
_FEATURES: Final[Mapping[str, type[Feature]]] = {
    "plane": PlaneFeature,
    "axis": AxisFeature,
    "cone": ConeFeature,
    "torus": TorusFeature,
    "sphere": SphereFeature,
    "point": PointFeature,
}
#: What each is called in a sentence.
WORDS: Final[Mapping[str, str]] = {
    "plane": N_("a flat face (plane)"),
    "axis": N_("a round wall (cylinder or axis)"),
    "cone": N_("a cone"),
    "torus": N_("a ring (torus)"),
    "sphere": N_("a ball (sphere)"),
    "point": N_("a corner (point)"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasureKind:
    """One measure: what it gives, which features it takes, and how it is found."""

    gives: Dimension
    find: Measure
    #: The sets of features that it takes, by their names; nothing where it is of the whole part.
    takes: tuple[tuple[str, ...], ...] = ()

    def check(self, request: Request) -> None:
        """Refuse a request whose features are none that the measure takes.

        Raises
        ------
        InvalidDocument
            Saying which it takes.
        """
        if self.takes and not any(_serve(request.features, names) for names in self.takes):
            needed = ", or ".join(" and ".join(translated(WORDS[name]) for name in names) for names in self.takes)
            problem = _("the measure '{measure}' needs {needed}", measure=request.measure, needed=needed)
            raise InvalidDocument(request.where, problem, _("Name it in the check"))


def _serve(features: tuple[Feature, ...], names: tuple[str, ...]) -> bool:
    """Say whether features are those that are named, in any order."""
    return len(features) == len(names) and any(
        all(isinstance(feature, _FEATURES[name]) for feature, name in zip(features, order, strict=True))
        for order in itertools.permutations(names)
    )


def wall_of(registered: RegisteredPart, request: Request) -> Cylinder | None:
    """Find the one round wall of a request on the part; None where the part lacks it."""
    (feature,) = request.features
    assert isinstance(feature, AxisFeature)
    return registered.wall(feature, where=request.where)


def two_of(
    registered: RegisteredPart, request: Request
) -> tuple[PlaneFeature | CylinderFeature | None, PlaneFeature | CylinderFeature | None]:
    """Find both features of a measure on the part; None where the part lacks one."""
    features = [registered.feature(feature, where=request.where) for feature in request.features]
    for feature in features:
        assert feature is None or isinstance(feature, PlaneFeature | CylinderFeature)
    return features[0], features[1]  # type: ignore[return-value]  # narrowed one line above
