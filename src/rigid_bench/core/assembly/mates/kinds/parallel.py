"""Faces or axes that keep one direction."""

import math

from rigid_bench.core.assembly.mates.equations import at_angle, parallel
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule
from rigid_bench.core.wording.language import N_

KIND = MateKind(
    name="parallel",
    words=N_("stay parallel"),
    rules={
        ("plane", "plane"): Rule(2, lambda a, b, mate: parallel(a.normal, b.normal, mate)),
        ("axis", "axis"): Rule(2, lambda a, b, mate: parallel(a.direction, b.direction, mate)),
        ("plane", "axis"): Rule(1, lambda plane, axis, mate: at_angle(plane.normal, axis.direction, math.pi / 2)),
    },
    advised=4,
    choices=(
        Choice(
            id="parallel",
            words=N_("run along each other"),
            places={"flat-flat": 6, "flat-round": 2, "round-round": 6},
            is_relation=True,
        ),
    ),
)
