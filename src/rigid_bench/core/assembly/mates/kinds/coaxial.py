"""Two round walls on one axis."""

from rigid_bench.core.assembly.mates.equations import Equation, on_axis, parallel
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import AxisFeature, FrameFeature
from rigid_bench.core.wording.language import N_


def share_an_axis(a: AxisFeature | FrameFeature, b: AxisFeature | FrameFeature, mate: Mate) -> list[Equation]:
    """Keep two axes in line: four equations."""
    return [*parallel(a.direction, b.direction, mate), *on_axis(a, b.point)]


KIND = MateKind(
    name="coaxial",
    words=N_("share an axis"),
    rules={("axis", "axis"): Rule(4, share_an_axis)},
    looser=("parallel",),
    advised=2,
    choices=(Choice(id="share-an-axis", words=N_("share an axis"), places={"round-round": 1}, is_relation=True),),
)
