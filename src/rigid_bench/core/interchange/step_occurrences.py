"""Which product stands where in a STEP file, as its records say: so that what they say of a product finds its instance.

The kernel hands on names and places, and not the numbers of the records that they come from.
"""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from rigid_bench.core.formats.content.step_records import Records, Reference
from rigid_bench.core.values.datums import FrameFeature, make_frame
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose, any_normal, unit

#: Places of one occurrence that are looked at: an assembly that is used many times stands in as many.
_MOST_PLACES = 64
_X, _Z = (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Named:
    """An instance as the kernel read it."""

    #: The part's name, and the instance's.
    part: str
    name: str
    pose: Pose


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
        #: use -> the product above it and its own, by the numbers of their definitions.
        self._uses = {
            number: (values[3], values[4])
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
        point = self._records.values(values[1], "CARTESIAN_POINT")[1:2]
        axes = [self._records.values(axis, "DIRECTION")[1:2] for axis in values[2:4]]
        z, x = (own[0] if own else usual for own, usual in zip(axes, (_Z, _X), strict=True))
        try:
            along = unit(np.array(z, dtype=float))
            across = np.array(x, dtype=float) if axes[1] or abs(along[0]) < 0.9 else any_normal(along)
            return make_frame(self._mm * np.array(point[0], dtype=float), along, across)
        except (IndexError, TypeError, ValueError, InvalidDocument):
            return None

    def called(self, name: str) -> list[int]:
        """Return the places of the instances with a name, or of those of the part with it."""
        wanted = name.casefold()
        own = [k for k, instance in enumerate(self._instances) if instance.name.casefold() == wanted]
        return own or [k for k, instance in enumerate(self._instances) if instance.part.casefold() == wanted]

    def of_definition(self, number: Any) -> list[int]:
        """Return the places of the instances of a product definition, or of one use of it."""
        if number in self._uses:
            candidates = self.of_definition(self._uses[number][1])
            if len(candidates) < 2:
                return candidates
            places = self._places(number, 0)
            return [k for k in candidates if any(self._stands(k, place) for place in places)]
        formation = (self._records.values(number, "PRODUCT_DEFINITION") or [None] * 3)[2]
        for kind in ("PRODUCT_DEFINITION_FORMATION", "PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE"):
            for product in self._records.values(formation, kind)[2:3]:
                names = {str(name).casefold() for name in self._records.values(product, "PRODUCT")[:2]}
                return [k for k, instance in enumerate(self._instances) if instance.part.casefold() in names]
        return []

    def _stands(self, instance: int, place: Pose) -> bool:
        return self._instances[instance].pose.is_close(place, mm=1e-3, rad=1e-4)

    def _use_of(self, values: Sequence[Any]) -> Reference | None:
        definition = (
            (self._records.values(values[1], "PRODUCT_DEFINITION_SHAPE") + [None] * 3)[2] if values[1:] else None
        )
        return definition if definition in self._uses else None

    def _transformation(self, values: Sequence[Any]) -> list[Pose]:
        """Return how the part of a use may stand in what is above it: exporters write the two frames either way."""
        for given in self._records.values(values[0], "REPRESENTATION_RELATIONSHIP_WITH_TRANSFORMATION")[:1]:
            ends = [self.frame(end) for end in self._records.values(given, "ITEM_DEFINED_TRANSFORMATION")[2:4]]
            if len(ends) == 2 and ends[0] and ends[1]:
                one, two = (_pose(end) for end in ends if end)
                return [two @ one.inverse(), one @ two.inverse()]
        return []

    def _places(self, use: Any, depth: int) -> list[Pose]:
        """Return where the part of a use may stand in the world."""
        own = self._shifts.get(use, [Pose.identity()])
        above = [other for other, (_, product) in self._uses.items() if product == self._uses[use][0]]
        if not above or depth > _MOST_PLACES:
            return own
        outer = list(itertools.chain.from_iterable(self._places(other, depth + 1) for other in above[:_MOST_PLACES]))
        return [place @ shift for place in outer[:_MOST_PLACES] for shift in own][:_MOST_PLACES]


def _pose(frame: FrameFeature) -> Pose:
    return Pose(np.column_stack([frame.x, np.cross(frame.direction, frame.x), frame.direction]), frame.point)
