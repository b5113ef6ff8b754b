"""A joint that slides and turns on a plane."""

from rigid_bench.core.assembly.mates.equations import Equation, on_plane, parallel
from rigid_bench.core.assembly.mates.kind import MateKind, Rule
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import FrameFeature, PlaneFeature
from rigid_bench.core.wording.language import N_

_Flat = PlaneFeature | FrameFeature


def _on_one_another(a: _Flat, b: _Flat, mate: Mate) -> list[Equation]:
    return [*parallel(a.direction, b.direction, mate), *on_plane(a, b.point, mate.offset)]


KIND = MateKind(
    name="planar",
    words=N_("slide on one another"),
    rules={("frame", "frame"): Rule(3, _on_one_another), ("plane", "plane"): Rule(3, _on_one_another)},
    turns=True,
    looser=("parallel",),
    symbol="planar pair",
)
