"""A joint that slides along one direction."""

from rigid_bench.core.assembly.mates.equations import Equation, frames_agree, on_axis
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import FrameFeature
from rigid_bench.core.wording.language import N_


def _frames(a: FrameFeature, b: FrameFeature, mate: Mate) -> list[Equation]:
    return [*frames_agree(a, b, mate), *on_axis(a, b.point)]


KIND = MateKind(
    name="prismatic",
    words=N_("slide along one direction"),
    rules={("frame", "frame"): Rule(5, _frames)},
    travels=True,
    looser=("cylindrical", "planar"),
    symbol="prismatic pair",
    urdf="prismatic",
    choices=(
        Choice(
            id="slide-along",
            words=N_("slide along"),
            places={"flat-flat": 4, "round-round": 3},
            is_joint=True,
            limited="translation",
        ),
    ),
)
