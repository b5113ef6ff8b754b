"""What can be pointed at on a part, as pages and files have it."""

from rigid_bench.core.formats.documents import Document, FeatureModel
from rigid_bench.core.formats.pictures import Polyline


class Pointable(Document):
    """One flat face, or one round wall."""

    words: str
    #: In the exercise's unit.
    feature: FeatureModel
    #: Material is all round it.
    is_hole: bool = False
    #: It opens inwards: a hole, a counterbore, half a bore.
    is_hollow: bool = False
    #: Less than a whole round is a rounding, which has a radius.
    goes_round: bool = True
    #: Of a hole, in the exercise's unit.
    depth: float | None = None
    #: The part's faces that it is made of.
    faces: list[int] = []
    #: By the view's name: the edges by which it is pointed at, mm in the view's plane.
    lines: dict[str, list[Polyline]]
