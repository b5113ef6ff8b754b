"""A joint that turns and travels by a pitch."""

import math

from rigid_bench.core.assembly.mates.equations import Equation, shift
from rigid_bench.core.assembly.mates.kind import Choice, MateKind, Rule, needed
from rigid_bench.core.assembly.mates.kinds.coaxial import share_an_axis
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.values.datums import FrameFeature
from rigid_bench.core.values.frames import cross
from rigid_bench.core.wording.language import N_, _


def _frames(a: FrameFeature, b: FrameFeature, mate: Mate) -> list[Equation]:
    if not mate.pitch:
        raise needed(mate, _("a pitch other than 0"))
    lead = mate.pitch / (2 * math.pi)
    travel = float(a.direction @ (b.point - a.point))
    turned = math.atan2(float(cross(a.x, b.x) @ a.direction), float(a.x @ b.x))
    # a turn is only seen up to whole ones: take the whole turns that the travel shows
    turned += 2 * math.pi * round((travel / lead - turned) / (2 * math.pi))
    advance = shift(travel - lead * turned, a.direction, b.point, angular=-lead * a.direction)
    return [*share_an_axis(a, b, mate), advance]


KIND = MateKind(
    name="screw",
    words=N_("screw together"),
    rules={("frame", "frame"): Rule(5, _frames)},
    turns=True,
    travels=True,
    symbol="helical pair",
    choices=(
        Choice(
            id="screw-into",
            words=N_("screw into"),
            places={"round-round": 5},
            value_label=N_("Pitch, mm"),
            is_joint=True,
        ),
    ),
)
