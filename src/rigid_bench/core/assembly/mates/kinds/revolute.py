"""A joint that turns about one axis."""

from rigid_bench.core.assembly.mates.equations import Equation, at_point, parallel
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import FrameFeature
from rigid_bench.core.wording.language import N_


def _frames(a: FrameFeature, b: FrameFeature, mate: Mate) -> list[Equation]:
    return [*parallel(a.direction, b.direction, mate), *at_point(a.point + mate.offset * a.direction, b.point)]


KIND = MateKind(
    name="revolute",
    words=N_("turn about one axis"),
    rules={("frame", "frame"): Rule(5, _frames)},
    turns=True,
    looser=("cylindrical",),
    symbol="revolute pair",
    urdf="revolute",
    choices=(
        Choice(
            id="turn-about",
            words=N_("turn about"),
            places={"round-round": 2},
            value_label=N_("Place along it, mm"),
            is_joint=True,
            limited="rotation",
        ),
    ),
)
