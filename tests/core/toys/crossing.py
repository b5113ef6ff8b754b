"""A toy mate: two axes that cross each other, at whatever angle."""

import numpy as np

from rigid_bench.core.assembly.mates.equations import Equation, shift
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import AxisFeature
from rigid_bench.core.values.frames import unit


def _axes(a: AxisFeature, b: AxisFeature, mate: Mate) -> list[Equation]:
    across = unit(np.cross(a.direction, b.direction))
    return [shift(float(across @ (b.point - a.point)), across, b.point)]


KIND = MateKind(
    name="crossing",
    words="cross",
    rules={("axis", "axis"): Rule(1, _axes)},
    choices=(Choice(id="cross", words="cross each other", places={"round-round": 0}, is_relation=True),),
)
