"""Faces or axes at an angle."""

import math

from rigid_bench.core.assembly.mates.equations import Equation, at_angle
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule, value_of
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import AxisFeature, Feature, PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import angle_between
from rigid_bench.core.wording.language import N_, _

_Directed = PlaneFeature | AxisFeature


def _at_its_angle(a: _Directed, b: _Directed, mate: Mate) -> list[Equation]:
    value = value_of(mate)
    if not 0 < value < 180:
        raise InvalidDocument(
            _("mate '{id}'", id=mate.id),
            _("an angle of {value:g} degrees is not between 0 and 180", value=value),
            _("Use 'parallel' for 0 and 180"),
        )
    return at_angle(a.direction, b.direction, math.radians(value))


def _as_placed(a: Feature, b: Feature) -> float | None:
    """Return the angle between two directions, degrees."""
    if isinstance(a, _Directed) and isinstance(b, _Directed):
        return math.degrees(angle_between(a.direction, b.direction))
    return None


KIND = MateKind(
    name="angle",
    words=N_("keep an angle"),
    rules={("plane", "plane"): Rule(1, _at_its_angle), ("axis", "axis"): Rule(1, _at_its_angle)},
    value_unit="deg",
    as_placed=_as_placed,
    advised=6,
    choices=(
        Choice(
            id="at-an-angle",
            words=N_("at an angle"),
            places={"flat-flat": 8, "round-round": 10},
            value_label=N_("Angle, degrees"),
            is_relation=True,
        ),
    ),
)
