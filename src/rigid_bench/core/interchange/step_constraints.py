"""Constraints between the parts of a STEP file's assembly as mates: ISO 10303-109, as AP242 takes them up.

The names of the constraints and what each joins are from memory, and there is no reader to hold the records to; so a
constraint becomes a mate only where its two elements lead to faces or axes of two parts, and where it holds as the
parts stand. All others are named.
"""

from collections import deque
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from rigid_bench.core.assembly.mates.registry import KINDS, joins
from rigid_bench.core.formats.build import Mate
from rigid_bench.core.formats.content.step_records import Records, Reference
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.interchange.step_occurrences import HOLDS_MM, Named, Occurrences, holds_as_placed
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature, PointFeature
from rigid_bench.core.values.frames import unit

MARK = "_ASSEMBLY_CONSTRAINT"
#: What constraints of a name become, the longest name that fits first.
_KINDS = {
    "PARALLEL_ASSEMBLY_CONSTRAINT_WITH_DIMENSION": "distance",
    "SURFACE_DISTANCE_ASSEMBLY_CONSTRAINT_WITH_DIMENSION": "distance",
    "ANGLE_ASSEMBLY_CONSTRAINT_WITH_DIMENSION": "angle",
    "PARALLEL_ASSEMBLY_CONSTRAINT": "parallel",
    "PERPENDICULAR_ASSEMBLY_CONSTRAINT": "perpendicular",
    "INCIDENCE_ASSEMBLY_CONSTRAINT": "coincident",
    "COAXIAL_ASSEMBLY_CONSTRAINT": "coaxial",
    "TANGENT_ASSEMBLY_CONSTRAINT": "tangent",
}
FIXED = "FIXED_CONSTITUENT_ASSEMBLY_CONSTRAINT"
#: How far from an element its geometry and its part are looked for, in records.
_DEEPEST, _MOST = 8, 400
#: A direction that is none.
_NO_LENGTH = 1e-9
_Element = tuple[int, Feature]


class Constraints:
    """Reads the constraints of a file.

    Parameters
    ----------
    records, occurrences, instances
        Of the file.
    mm
        Of its unit of length.
    """

    def __init__(self, records: Records, occurrences: Occurrences, instances: Sequence[Named], *, mm: float) -> None:
        self._records, self._occurrences, self._instances, self._mm = records, occurrences, instances, mm
        self.notices: list[Message] = []

    def mates(self) -> Iterator[Mate]:
        """Yield the mates that constraints between two parts become."""
        for kind in self._records.names():
            if MARK in kind and kind != FIXED:
                for number, values in self._records.of(kind):
                    mate = self._mate(f"constraint-{number}", _KINDS.get(kind), values)
                    if mate:
                        yield mate
                    else:
                        name = next((str(own) for own in values[:2] if isinstance(own, str) and own), f"#{number}")
                        words = kind.lower().replace("_", " ")
                        self.notices.append(phrase("pair-left-out", name=name, kind=words))

    def bases(self) -> Iterator[int]:
        """Yield the instances that are fixed."""
        for _, values in self._records.of(FIXED):
            for reference in _references(values):
                yield from self._part_of(reference)[:1]

    def _mate(self, name: str, kind: str | None, values: Sequence[Any]) -> Mate | None:
        elements = [self._element(reference) for reference in _references(values)]
        sides = [element for element in elements if element]
        if kind is None or len(sides) < 2 or sides[0][0] == sides[1][0]:
            return None
        (a, one), (b, two) = sides[:2]
        if not joins(kind, one, two):
            return None
        placed = [feature.moved(self._instances[index].pose) for index, feature in (sides[0], sides[1])]
        value = KINDS[kind].as_placed(*placed)
        mate = Mate(id=name, kind=kind, a=a, feature_a=one, b=b, feature_b=two, value=value)
        return mate if holds_as_placed(mate, self._instances) and self._is_as_said(mate, values) else None

    def _is_as_said(self, mate: Mate, values: Sequence[Any]) -> bool:
        """Say whether a gap or an angle is as large where the parts stand as the constraint says, where it does."""
        said = [abs(value) * self._mm for value in values if isinstance(value, float)]
        if mate.kind != "distance" or not said or mate.value is None:
            return True
        return abs(abs(mate.value) - said[-1]) < HOLDS_MM

    def _near(self, number: Reference) -> Iterator[Reference]:
        """Yield a record and those that it leads to, the nearest first."""
        waiting, seen = deque([(number, 0)]), {number}
        while waiting and len(seen) < _MOST:
            here, depth = waiting.popleft()
            yield here
            if depth < _DEEPEST:
                for values in self._records.get(here).values():
                    for other in _references(values):
                        if other not in seen:
                            seen.add(other)
                            waiting.append((other, depth + 1))

    def _element(self, number: Reference) -> _Element | None:
        """Return the instance and the face, axis or point of an element; None where it leads to none."""
        feature = next((own for record in self._near(number) if (own := self._feature(record))), None)
        part = self._part_of(number)
        return (part[0], feature) if feature and part else None

    def _part_of(self, number: Reference) -> list[int]:
        """Return the instances of the use of a product, or of the product, that an element belongs to."""
        near = list(self._near(number))
        for kind in ("NEXT_ASSEMBLY_USAGE_OCCURRENCE", "PRODUCT_DEFINITION"):
            for record in near:
                if kind in self._records.get(record) and (placed := self._occurrences.of_definition(record)):
                    return placed
        # a face leads to no product: the shape that it is part of is said to be a product's
        for record in self._around(number):
            for shape in self._records.values(record, "SHAPE_DEFINITION_REPRESENTATION")[:1]:
                for definition in self._records.values(shape, "PRODUCT_DEFINITION_SHAPE")[2:3]:
                    if placed := self._occurrences.of_definition(definition):
                        return placed
        return []

    def _around(self, number: Reference) -> Iterator[Reference]:
        """Yield the records that a record is part of, the nearest first."""
        waiting, seen = deque([number]), {number}
        while waiting and len(seen) < _MOST:
            here = waiting.popleft()
            yield here
            new = [other for other in self._records.referring(here) if other not in seen]
            seen.update(new)
            waiting.extend(new)

    def _feature(self, number: Reference) -> Feature | None:
        record = self._records.get(number)
        for kind in ("PLANE", "CYLINDRICAL_SURFACE", "LINE", "AXIS2_PLACEMENT_3D"):
            values = record.get(kind)
            if values is None:
                continue
            if kind == "LINE":
                return self._line(values)
            frame = self._occurrences.frame(number if kind == "AXIS2_PLACEMENT_3D" else (values[1:2] or [None])[0])
            if frame is None:
                return None
            if kind == "PLANE":
                return PlaneFeature(frame.point, frame.direction)
            radius = values[2] if kind == "CYLINDRICAL_SURFACE" and len(values) > 2 else None
            if isinstance(radius, float):
                return CylinderFeature(frame.point, frame.direction, self._mm * radius)
            return AxisFeature(frame.point, frame.direction)
        point = self._occurrences.triple(number, "CARTESIAN_POINT")
        return None if point is None else PointFeature(self._mm * point)

    def _line(self, values: Sequence[Any]) -> AxisFeature | None:
        ends = [*values[1:3], None, None][:2]
        point = self._occurrences.triple(ends[0], "CARTESIAN_POINT")
        direction = self._occurrences.triple((self._records.values(ends[1], "VECTOR")[1:2] or [None])[0], "DIRECTION")
        if point is None or direction is None or np.linalg.norm(direction) < _NO_LENGTH:
            return None
        return AxisFeature(self._mm * point, unit(direction))


def _references(values: Sequence[Any]) -> Iterator[Reference]:
    """Yield the records that values name, in their order."""
    for value in values:
        if isinstance(value, Reference):
            yield value
        elif isinstance(value, list):
            yield from _references(value)
