"""A gap between faces, axes or points."""

import math

import numpy as np

from rigid_bench.core.assembly.mates.equations import Equation, at_angle, at_point, away, on_axis, on_plane, parallel
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule, value_of
from rigid_bench.core.assembly.mates.kinds.coaxial import share_an_axis
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import AxisFeature, Feature, PlaneFeature, PointFeature
from rigid_bench.core.wording.language import N_


def _planes(a: PlaneFeature, b: PlaneFeature, mate: Mate) -> list[Equation]:
    return [*parallel(a.normal, b.normal, mate), *on_plane(a, b.point, value_of(mate))]


def _plane_axis(plane: PlaneFeature, axis: AxisFeature, mate: Mate) -> list[Equation]:
    return [*at_angle(plane.normal, axis.direction, math.pi / 2), *on_plane(plane, axis.point, value_of(mate))]


def _axes(a: AxisFeature, b: AxisFeature, mate: Mate) -> list[Equation]:
    if value_of(mate) == 0:
        return share_an_axis(a, b, mate)
    return [*parallel(a.direction, b.direction, mate), *away(a.point, b.point, value_of(mate), a.direction)]


def _axis_point(axis: AxisFeature, point: PointFeature, mate: Mate) -> list[Equation]:
    if value_of(mate) == 0:
        return on_axis(axis, point.point)
    return away(axis.point, point.point, value_of(mate), axis.direction)


def _points(a: PointFeature, b: PointFeature, mate: Mate) -> list[Equation]:
    return at_point(a.point, b.point) if value_of(mate) == 0 else away(a.point, b.point, value_of(mate))


def _as_placed(a: Feature, b: Feature) -> float | None:
    """Return the gap, mm, signed along a face's normal; a face counts before an axis."""
    apart = b.point - a.point
    if isinstance(a, PlaneFeature):
        return float(apart @ a.normal)
    if isinstance(b, PlaneFeature):
        return float(-apart @ b.normal)
    if isinstance(a, AxisFeature) and isinstance(b, AxisFeature):
        return float(np.linalg.norm(np.cross(apart, a.direction)))
    return None


KIND = MateKind(
    name="distance",
    words=N_("keep a gap"),
    rules={
        ("plane", "plane"): Rule(3, _planes),
        ("plane", "axis"): Rule(2, _plane_axis),
        ("axis", "axis"): Rule(3, _axes),
        ("plane", "point"): Rule(1, lambda plane, point, mate: on_plane(plane, point.point, value_of(mate))),
        ("axis", "point"): Rule(1, _axis_point),
        ("point", "point"): Rule(1, _points),
    },
    value_unit="mm",
    as_placed=_as_placed,
    looser=("parallel",),
    advised=3,
    choices=(
        Choice(
            id="keep-a-gap",
            words=N_("keep a gap"),
            sense="opposed",
            places={"flat-flat": 3, "flat-round": 4, "round-round": 9},
            value_label=N_("Gap, mm"),
            is_relation=True,
        ),
    ),
)
