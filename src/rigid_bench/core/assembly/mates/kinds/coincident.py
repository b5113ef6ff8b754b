"""Faces level or against each other, an axis in a face, a point on any of them."""

import math

from rigid_bench.core.assembly.mates.equations import Equation, at_angle, at_point, on_axis, on_plane, parallel
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import AxisFeature, PlaneFeature
from rigid_bench.core.wording.language import N_


def _planes(a: PlaneFeature, b: PlaneFeature, mate: Mate) -> list[Equation]:
    return [*parallel(a.normal, b.normal, mate), *on_plane(a, b.point)]


def _axis_in_plane(plane: PlaneFeature, axis: AxisFeature, mate: Mate) -> list[Equation]:
    return [*at_angle(plane.normal, axis.direction, math.pi / 2), *on_plane(plane, axis.point)]


KIND = MateKind(
    name="coincident",
    words=N_("meet"),
    rules={
        ("plane", "plane"): Rule(3, _planes),
        ("plane", "axis"): Rule(2, _axis_in_plane),
        ("plane", "point"): Rule(1, lambda plane, point, mate: on_plane(plane, point.point)),
        ("axis", "point"): Rule(2, lambda axis, point, mate: on_axis(axis, point.point)),
        ("point", "point"): Rule(3, lambda a, b, mate: at_point(a.point, b.point)),
    },
    looser=("parallel",),
    advised=1,
    choices=(
        Choice(id="faces-meet", words=N_("faces meet"), sense="opposed", places={"flat-flat": 1}, is_relation=True),
        Choice(id="faces-level", words=N_("faces level"), sense="aligned", places={"flat-flat": 1}, is_relation=True),
    ),
)
