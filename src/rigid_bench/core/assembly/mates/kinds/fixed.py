"""Two parts held as one."""

from rigid_bench.core.assembly.mates.equations import Equation, at_point, frames_agree
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import FrameFeature
from rigid_bench.core.wording.language import N_


def _frames(a: FrameFeature, b: FrameFeature, mate: Mate) -> list[Equation]:
    return [*frames_agree(a, b, mate), *at_point(a.point, b.point)]


KIND = MateKind(
    name="fixed",
    words=N_("fixed together"),
    rules={("frame", "frame"): Rule(6, _frames)},
    looser=("revolute", "prismatic", "cylindrical", "planar"),
    symbol="rigid pair",
    urdf="fixed",
    choices=(
        Choice(
            id="fix-together",
            words=N_("fix together"),
            places={"flat-flat": 5, "flat-round": 5, "round-round": 4},
            is_joint=True,
        ),
    ),
)
