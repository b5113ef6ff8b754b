"""A round wall that touches a face or another round wall all along."""

import math

from rigid_bench.core.assembly.mates.equations import Equation, at_angle, away, on_plane, parallel
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import CylinderFeature, PlaneFeature
from rigid_bench.core.wording.language import N_


def _on_face(cylinder: CylinderFeature, plane: PlaneFeature, mate: Mate) -> list[Equation]:
    height = float(plane.normal @ (cylinder.point - plane.point))
    touch = on_plane(plane, cylinder.point, math.copysign(cylinder.radius, height))[0]
    # the plane is the second operand here, so the point's row counts the other way
    return [*at_angle(cylinder.direction, plane.normal, math.pi / 2), touch.reversed()]


def _walls(a: CylinderFeature, b: CylinderFeature, mate: Mate) -> list[Equation]:
    apart = abs(a.radius - b.radius) if mate.inside else a.radius + b.radius
    return [*parallel(a.direction, b.direction, mate), *away(a.point, b.point, apart, a.direction)]


KIND = MateKind(
    name="tangent",
    words=N_("touch along a line"),
    rules={("cylinder", "plane"): Rule(2, _on_face), ("cylinder", "cylinder"): Rule(3, _walls)},
    takes_walls=True,
    choices=(
        Choice(id="touch", words=N_("touch all along"), places={"flat-round": 1, "round-round": 7}, is_relation=True),
    ),
)
