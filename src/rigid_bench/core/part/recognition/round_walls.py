"""Part-round walls: half bores, saddles and full-round ends; not holes, bosses, fillets or slot ends."""

from collections.abc import Iterable
from dataclasses import dataclass

from rigid_bench.core.part.faces import Cylinder
from rigid_bench.core.part.features import PartFeatures


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class RoundWall:
    """A round wall that does not close."""

    wall: Cylinder
    #: How many of its neighbours along its length it runs into without a kink.
    tangent: int
    surface: int


def find_round_walls(part: PartFeatures, *, without: Iterable[int]) -> list[RoundWall]:
    """Find round walls that do not go round.

    Parameters
    ----------
    part
        Its surfaces and edges.
    without
        Surfaces that are known as something else: fillets, ends of slots, corners of pockets.

    Returns
    -------
    list of RoundWall
        In the order of their surfaces.
    """
    known = set(without)
    return [
        RoundWall(
            wall=surface,
            tangent=len({other for edge, other in part.edges.neighbours(number) if part.edges.is_smooth(edge)}),
            surface=number,
        )
        for number, surface in enumerate(part.surfaces)
        if isinstance(surface, Cylinder) and not surface.goes_round and number not in known
    ]
