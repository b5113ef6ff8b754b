"""How long an exercise takes, from rates for each part, size and relation: common practice, no source."""

from dataclasses import dataclass

from rigid_bench.core.formats.documents import Document


class Rates(Document):
    """Minutes for each part, for each of its sizes, and for each relation, freedom or gap of an assembly.

    A teacher changes them; an experienced person takes about a third.
    """

    part: float = 5.0
    size: float = 1.5
    relation: float = 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Extent:
    """How much there is to do in an exercise: its parts, checks of one part, and checks of several."""

    parts: int
    sizes: int
    relations: int


def estimated_minutes(extent: Extent, rates: Rates) -> float:
    """Return how long it takes, in minutes.

    Examples
    --------
    >>> estimated_minutes(Extent(parts=2, sizes=10, relations=4), Rates(part=5, size=1.5, relation=3))
    37.0
    """
    return extent.parts * rates.part + extent.sizes * rates.size + extent.relations * rates.relation
