"""A joint that turns and slides on one axis."""

from rigid_bench.core.assembly.mates.kind import MateKind, Rule
from rigid_bench.core.assembly.mates.kinds.coaxial import share_an_axis
from rigid_bench.core.wording.language import N_

KIND = MateKind(
    name="cylindrical",
    words=N_("turn and slide on one axis"),
    rules={("frame", "frame"): Rule(4, share_an_axis), ("axis", "axis"): Rule(4, share_an_axis)},
    turns=True,
    travels=True,
    looser=("parallel",),
    symbol="cylindrical pair",
)
