"""The mechanism of a STEP file as mates: links, joints and pairs of ISO 10303-105, as AP242 takes them up.

The order of each record's values is as the kernel's own reader has it, which checks such records and does not hand them
on. A pair of low order says itself which turns and shifts it leaves; where a file leaves that out, the pair's name says
it (ISO 10303-105, from memory: turns about z, a prismatic pair slides along x).
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from rigid_bench.core.formats.build import Limits, Mate
from rigid_bench.core.formats.content.step_records import Records
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.interchange.step_constraints import MARK, Constraints
from rigid_bench.core.interchange.step_occurrences import Named, Occurrences, holds_as_placed
from rigid_bench.core.values.datums import FrameFeature, PlaneFeature, PointFeature, make_frame

#: Freedoms, shifts and turns along x, y and z, of pairs that do not say theirs.
_USUAL = {
    "REVOLUTE_PAIR": (False, False, False, False, False, True),
    "PRISMATIC_PAIR": (True, False, False, False, False, False),
    "CYLINDRICAL_PAIR": (False, False, True, False, False, True),
    "PLANAR_PAIR": (True, True, False, False, False, True),
    "SPHERICAL_PAIR": (False, False, False, True, True, True),
    "FULLY_CONSTRAINED_PAIR": (False, False, False, False, False, False),
}
_RANGE = "_WITH_RANGE"


@dataclass(frozen=True, slots=True, kw_only=True)
class Mechanism:
    """What a file declares."""

    #: Mates between instances, by their places.
    mates: tuple[Mate, ...]
    #: Places of the instances that stand on the ground.
    bases: frozenset[int]
    notices: tuple[Message, ...]


def read_mechanism(data: bytes, instances: Sequence[Named], *, mm: float) -> Mechanism | None:
    """Read the mechanism of a STEP file, and the constraints between its parts.

    Parameters
    ----------
    data
        The whole file.
    instances
        As they were read from it.
    mm
        Of its unit of length.

    Returns
    -------
    Mechanism or None
        None where the file has neither joints nor constraints. What no mate says, or is not between two instances, is
        left out with a notice.
    """
    text = data.upper()
    if b"KINEMATIC_JOINT" not in text and MARK.encode() not in text:
        return None
    records = Records(data)
    occurrences = Occurrences(records, instances, mm=mm)
    readers = (_Reader(records, occurrences, instances, mm), Constraints(records, occurrences, instances, mm=mm))
    mates = tuple(mate for reader in readers for mate in reader.mates())
    bases = frozenset(base for reader in readers for base in reader.bases())
    notices = tuple(message for reader in readers for message in reader.notices)
    return Mechanism(mates=mates, bases=bases, notices=notices) if mates or notices else None


class _Reader:
    def __init__(self, records: Records, occurrences: Occurrences, instances: Sequence[Named], mm: float) -> None:
        self.records, self.occurrences, self.instances, self.mm = records, occurrences, instances, mm
        self.notices: list[Message] = []
        self._rad = _radians(records)
        self._shown = {
            link: representation
            for representation, values in records.of("KINEMATIC_LINK_REPRESENTATION")
            for link in values[3:4]
        }

    def mates(self) -> Iterator[Mate]:
        for kind in self.records.names():
            if not kind.endswith(("_PAIR", f"_PAIR{_RANGE}", "_PAIR_WITH_PIN")):
                continue
            for number, values in self.records.of(kind):
                mate = self._mate(f"pair-{number}", kind, values)
                if mate:
                    yield mate
                else:
                    name = next((str(own) for own in values[:2] if own), f"#{number}")
                    self.notices.append(phrase("pair-left-out", name=name, kind=kind.lower().replace("_", " ")))

    def bases(self) -> Iterator[int]:
        """Yield the instances of the links that mechanisms stand on."""
        links = {representation: link for link, representation in self._shown.items()}
        for _, values in self.records.of("KINEMATIC_PROPERTY_MECHANISM_REPRESENTATION"):
            for representation in values[2:3]:
                yield from self._instances_of(links.get(representation))[:1]

    def _mate(self, name: str, kind: str, values: Sequence[Any]) -> Mate | None:
        joint = self.records.values(values[5], "KINEMATIC_JOINT") if len(values) > 5 else []
        one, two = [*(self.occurrences.frame(number) for number in values[3:5]), None, None][:2]
        ends = [self._instances_of(link)[:1] for link in joint[1:3]]
        if len(ends) < 2 or not all(ends) or ends[0] == ends[1] or not one or not two:
            return None
        (a,), (b,) = ends
        # frames are in the coordinates of the parts; some files give them in the world's
        back = [self.instances[index].pose.inverse() for index in (a, b)]
        for frames in ((one, two), (one.moved(back[0]), two.moved(back[1]))):
            mate = self._joined(name, kind, values, (a, b), frames)
            if mate is None or holds_as_placed(mate, self.instances):
                return mate
        return self._joined(name, kind, values, (a, b), (one, two))

    def _joined(
        self,
        name: str,
        kind: str,
        values: Sequence[Any],
        ends: tuple[int, int],
        frames: tuple[FrameFeature, FrameFeature],
    ) -> Mate | None:
        """Return the mate that a pair says of two instances, between two frames; None where no mate says it."""
        (a, b), (one, two) = ends, frames
        base, has_range = kind.removesuffix(_RANGE), kind.endswith(_RANGE)
        if base == "SCREW_PAIR":
            pitch = values[6] if len(values) > 6 and isinstance(values[6], float) else 0.0
            limits = self._limits("screw", values[7:]) if has_range else None
            return Mate(id=name, kind="screw", a=a, feature_a=one, b=b, feature_b=two, sense="aligned",
                        pitch=pitch * self.mm, limits=limits) if pitch else None  # fmt: skip
        flags = [value for value in values[6:12] if isinstance(value, bool)]
        shape = _shape(tuple(flags) if len(flags) == 6 else _USUAL[base]) if base in _USUAL else None
        if shape is None:
            return None
        mate_kind, axis = shape
        limits = self._limits(mate_kind, values[12:]) if has_range else None
        features = [_feature(mate_kind, frame, axis) for frame in frames]
        return Mate(id=name, kind=mate_kind, a=a, feature_a=features[0], b=b, feature_b=features[1],
                    sense="either" if mate_kind == "spherical" else "aligned", limits=limits)  # fmt: skip

    def _limits(self, kind: str, ends: Sequence[Any]) -> Limits | None:
        """Return the range of a pair; of a cylindrical one, the shift comes first."""
        if kind not in ("revolute", "prismatic", "cylindrical", "screw"):
            return None

        def span(place: int, scale: float) -> tuple[float, float] | None:
            low, high = (*ends[place : place + 2], None, None)[:2]
            is_whole = isinstance(low, float) and isinstance(high, float) and low <= high
            return (scale * low, scale * high) if is_whole else None

        if kind == "prismatic":
            limits = Limits(translation=span(0, self.mm))
        elif kind == "cylindrical":
            limits = Limits(translation=span(0, self.mm), rotation=span(2, self._rad))
        else:
            limits = Limits(rotation=span(0, self._rad))
        return limits if limits.rotation or limits.translation else None

    def _instances_of(self, link: Any) -> list[int]:
        """Return the places of the instances that a link may stand for, the likeliest first."""
        representation = self._shown.get(link)
        for association, values in self.records.of("KINEMATIC_LINK_REPRESENTATION_ASSOCIATION"):
            if representation is None or representation not in values[2:4]:
                continue
            shapes = [end for end in values[2:4] if end != representation]
            ties = [
                *self._tied("CONTEXT_DEPENDENT_KINEMATIC_LINK_REPRESENTATION", 0, [association]),
                *self._tied("SHAPE_DEFINITION_REPRESENTATION", 1, shapes),
            ]
            for tie in ties:
                for kind in ("PRODUCT_DEFINITION_RELATIONSHIP_KINEMATICS", "PRODUCT_DEFINITION_SHAPE"):
                    for definition in self.records.values(tie, kind)[2:3]:
                        if placed := self.occurrences.of_definition(definition):
                            return placed
        names = self.records.values(link, "KINEMATIC_LINK")
        return self.occurrences.called(str(names[0])) if names else []

    def _tied(self, kind: str, place: int, ends: Sequence[Any]) -> Iterator[Any]:
        """Yield what the records of a kind, of two values, tie to one of some ends, which stand at a place."""
        for _, values in self.records.of(kind):
            if len(values) > 1 and values[place] in ends:
                yield values[1 - place]


def _shape(free: tuple[bool, ...]) -> tuple[str, int] | None:
    """Return the kind of mate that leaves such shifts and turns, and along which axis; None for no kind of ours."""
    shifts, turns = ([axis for axis in range(3) if free[3 * part + axis]] for part in (0, 1))
    match len(shifts), len(turns):
        case 0, 0:
            return "fixed", 2
        case 0, 1:
            return "revolute", turns[0]
        case 1, 0:
            return "prismatic", shifts[0]
        case 1, 1 if shifts == turns:
            return "cylindrical", shifts[0]
        case 2, 1 if turns[0] not in shifts:
            return "planar", turns[0]
        case 0, 3:
            return "spherical", 2
    return None


def _feature(kind: str, frame: FrameFeature, axis: int) -> FrameFeature | PlaneFeature | PointFeature:
    """Return what a mate joins, its z along one of the frame's axes."""
    if kind == "spherical":
        return PointFeature(frame.point)
    along = np.array([frame.x, np.cross(frame.direction, frame.x), frame.direction])
    if kind == "planar":
        return PlaneFeature(frame.point, along[axis])
    return make_frame(frame.point, along[axis], along[(axis + 1) % 3])


def _radians(records: Records) -> float:
    """Return the unit of angle, rad: degrees where a file's context says so."""
    for _, values in records.of("GLOBAL_UNIT_ASSIGNED_CONTEXT"):
        for unit_number in values[0] if values and isinstance(values[0], list) else []:
            named = records.values(unit_number, "CONVERSION_BASED_UNIT")
            if named and "DEG" in str(named[0]).upper():
                return math.pi / 180
    return 1.0
