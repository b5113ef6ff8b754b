"""A joint that turns about one point."""

from rigid_bench.core.assembly.mates.equations import at_point
from rigid_bench.core.assembly.mates.kind import MateKind, Rule
from rigid_bench.core.wording.language import N_

KIND = MateKind(
    name="spherical",
    words=N_("turn about one point"),
    rules={("point", "point"): Rule(3, lambda a, b, mate: at_point(a.point, b.point))},
    symbol="spherical pair",
)
