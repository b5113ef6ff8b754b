"""Faces or axes at right angles."""

import math

from rigid_bench.core.assembly.mates.equations import at_angle, parallel
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule
from rigid_bench.core.wording.language import N_

KIND = MateKind(
    name="perpendicular",
    words=N_("stand square"),
    rules={
        ("plane", "plane"): Rule(1, lambda a, b, mate: at_angle(a.normal, b.normal, math.pi / 2)),
        ("axis", "axis"): Rule(1, lambda a, b, mate: at_angle(a.direction, b.direction, math.pi / 2)),
        ("plane", "axis"): Rule(2, lambda plane, axis, mate: parallel(plane.normal, axis.direction, mate)),
    },
    advised=5,
    choices=(
        Choice(
            id="square",
            words=N_("stand square"),
            places={"flat-flat": 7, "flat-round": 3, "round-round": 8},
            is_relation=True,
        ),
    ),
)
