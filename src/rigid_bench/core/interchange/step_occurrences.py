"""Which product stands where in a STEP file, as its records say: so that what they say of a product finds its instance.

The kernel hands on names and places, and not the numbers of the records that they come from.
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.mates.registry import equations
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.formats.content.step_records import Records, Reference
from rigid_bench.core.values.datums import FrameFeature, make_frame
from rigid_bench.core.values.errors import InvalidDocument, RigidBenchError
from rigid_bench.core.values.frames import Pose, any_normal, unit

_Array = NDArray[np.float64]
#: mm and rad: what is declared holds as the parts stand.
HOLDS_MM, HOLDS_RAD = 1e-2, 1e-3
#: Places of one use that are looked at: an assembly that is used many times stands in as many; and how deep it may lie.
_MOST_PLACES, _DEEPEST = 64, 50
_X, _Z = (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)
#: A direction that leans more towards x has no zero direction along it.
_STEEP = 0.9
_FORMATIONS = ("PRODUCT_DEFINITION_FORMATION", "PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE")


@dataclass(frozen=True, slots=True, kw_only=True)
class Named:
    """An instance as the kernel read it."""

    #: The part's name, and the instance's.
    part: str
    name: str
    pose: Pose


def holds_as_placed(mate: Mate, instances: Sequence[Named]) -> bool:
    """Say whether a mate can be meant, and holds where its instances stand."""
    a, b = mate.feature_a.moved(instances[mate.a].pose), mate.feature_b.moved(instances[mate.b].pose)
    try:
        rows = equations(mate, a, b)
    except RigidBenchError:
        return False
    return all(abs(row.residual) < (HOLDS_RAD if row.is_angular else HOLDS_MM) for row in rows)


class Occurrences:
    """Finds instances by what records say of products and of their uses.

    Parameters
    ----------
    records
        Of the file.
    instances
        As they were read from it.
    mm
        Of its unit of length.
    """

    def __init__(self, records: Records, instances: Sequence[Named], *, mm: float) -> None:
        self._records, self._instances, self._mm = records, instances, mm
        self._known_places: dict[Reference, list[Pose]] = {}
        #: use -> the product above it and its own, by the numbers of their definitions.
        self._uses = {
            Reference(number): (values[3], values[4])
            for number, values in records.of("NEXT_ASSEMBLY_USAGE_OCCURRENCE")
            if len(values) > 4 and all(isinstance(end, Reference) for end in values[3:5])
        }
        self._shifts = {
            use: transformation
            for _, values in records.of("CONTEXT_DEPENDENT_SHAPE_REPRESENTATION")
            if (use := self._use_of(values)) is not None and (transformation := self._transformation(values))
        }

    def frame(self, number: Any) -> FrameFeature | None:
        """Return a placement, mm, by its number; None where the record is none."""
        values = self._records.values(number, "AXIS2_PLACEMENT_3D")
        if len(values) < 4:
            return None
        point, z, x = (
            self.triple(own, kind)
            for own, kind in zip(values[1:4], ("CARTESIAN_POINT", "DIRECTION", "DIRECTION"), strict=True)
        )
        try:
            along = unit(_Z if z is None else z)
            across = any_normal(along) if x is None and abs(along[0]) > _STEEP else _X if x is None else x
            return None if point is None else make_frame(self._mm * point, along, np.asarray(across, dtype=float))
        except InvalidDocument:
            return None

    def triple(self, number: Any, kind: str) -> _Array | None:
        """Return the three numbers of a point or direction; None where the record has not just these."""
        for own in self._records.values(number, kind)[1:2]:
            if isinstance(own, list) and len(own) == 3 and all(isinstance(value, float) for value in own):
                return np.array(own)
        return None

    def called(self, name: str) -> list[int]:
        """Return the places of the instances with a name, or of those of the part with it."""
        wanted = name.casefold()
        own = [k for k, instance in enumerate(self._instances) if instance.name.casefold() == wanted]
        return own or [k for k, instance in enumerate(self._instances) if instance.part.casefold() == wanted]

    def of_definition(self, number: Any) -> list[int]:
        """Return the places of the instances of a product definition, or of one use of it."""
        if not isinstance(number, Reference):
            return []
        if number in self._uses:
            candidates = self.of_definition(self._uses[number][1])
            if len(candidates) < 2:
                return candidates
            places = self._places(number, ())
            return [k for k in candidates if any(self._stands(k, place) for place in places)]
        formations = self._records.values(number, "PRODUCT_DEFINITION")[2:3]
        for kind, formation in itertools.product(_FORMATIONS, formations):
            for product in self._records.values(formation, kind)[2:3]:
                names = {str(name).casefold() for name in self._records.values(product, "PRODUCT")[:2]}
                return [k for k, instance in enumerate(self._instances) if instance.part.casefold() in names]
        return []

    def _stands(self, instance: int, place: Pose) -> bool:
        return self._instances[instance].pose.is_close(place, mm=1e-3, rad=1e-4)

    def _use_of(self, values: Sequence[Any]) -> Reference | None:
        for shape in values[1:2]:
            for definition in self._records.values(shape, "PRODUCT_DEFINITION_SHAPE")[2:3]:
                if isinstance(definition, Reference) and definition in self._uses:
                    return definition
        return None

    def _transformation(self, values: Sequence[Any]) -> list[Pose]:
        """Return how the part of a use may stand in what is above it: exporters write the two frames either way."""
        given = [self._records.values(own, "REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION") for own in values[:1]]
        for own in (own[0] for own in given if own):
            ends = [self.frame(end) for end in self._records.values(own, "ITEM_DEFINED_TRANSFORMATION")[2:4]]
            if len(ends) == 2 and ends[0] and ends[1]:
                one, two = (_pose(end) for end in ends if end)
                return [two @ one.inverse(), one @ two.inverse()]
        return []

    def _places(self, use: Reference, below: tuple[Reference, ...]) -> list[Pose]:
        """Return where the part of a use may stand in the world."""
        if use not in self._known_places:
            own = self._shifts.get(use, [Pose.identity()])
            above = [other for other, (_, product) in self._uses.items() if product == self._uses[use][0]]
            if above and use not in below and len(below) < _DEEPEST:
                outer = itertools.chain.from_iterable(self._places(other, (*below, use)) for other in above)
                own = [place @ shift for place in itertools.islice(outer, _MOST_PLACES) for shift in own]
            self._known_places[use] = own[:_MOST_PLACES]
        return self._known_places[use]


def _pose(frame: FrameFeature) -> Pose:
    return Pose(np.column_stack([frame.x, np.cross(frame.direction, frame.x), frame.direction]), frame.point)
