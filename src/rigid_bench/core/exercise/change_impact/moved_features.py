"""Features that are named on a face which has moved, or on a wall of another radius, named where they are now."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.formats.documents import nested

_Array = NDArray[np.float64]
#: mm within which a feature names a face or a wall, as when it is looked up.
_ON, _ALONG = 1e-2, 1 - 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class MovedFace:
    """A flat face that moved along its normal."""

    #: (3,) mm on the face as it was, and its normal, (3,) unit.
    point: _Array
    normal: _Array
    #: mm
    by: float

    def is_named_by(self, feature: Mapping[str, Any], mm: float) -> bool:
        """Say whether a feature in JSON is this face; lengths in it are in units of `mm`."""
        plane = feature.get("plane")
        if plane is None:
            return False
        point, normal = np.array(plane["point"], float) * mm, _unit(plane["normal"])
        return abs(float((point - self.point) @ self.normal)) < _ON and abs(float(normal @ self.normal)) > _ALONG

    def applied(self, feature: Mapping[str, Any], mm: float) -> dict[str, Any]:
        """Return a feature in JSON where it is now."""
        if not self.is_named_by(feature, mm):
            return dict(feature)
        point = np.array(feature["plane"]["point"], float) + self.by / mm * self.normal
        return {**feature, "plane": {**feature["plane"], "point": _listed(point)}}


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangedWall:
    """A round wall that got another radius."""

    #: (3,) mm on its axis, and along it, (3,) unit.
    point: _Array
    direction: _Array
    #: mm
    before: float
    radius: float

    def is_named_by(self, feature: Mapping[str, Any], mm: float) -> bool:
        """Say whether a feature in JSON is this wall or its axis; lengths in it are in units of `mm`."""
        named = feature.get("cylinder") or feature.get("axis")
        if named is None or abs(named.get("radius", self.before / mm) * mm - self.before) >= _ON:
            return False
        apart = np.array(named["point"], float) * mm - self.point
        off = np.linalg.norm(apart - (apart @ self.direction) * self.direction)
        return bool(off < _ON) and abs(float(_unit(named["direction"]) @ self.direction)) > _ALONG

    def applied(self, feature: Mapping[str, Any], mm: float) -> dict[str, Any]:
        """Return a feature in JSON with its radius now."""
        if "cylinder" not in feature or not self.is_named_by(feature, mm):
            return dict(feature)
        return {**feature, "cylinder": {**feature["cylinder"], "radius": self.radius / mm}}


SizeMove = MovedFace | ChangedWall


def repointed(document: Any, *, part: str, moves: list[SizeMove], part_of: Callable[[str], str], mm: float) -> Any:
    """Return a check, a mate or a list of them with every feature of a part where it is now.

    Parameters
    ----------
    document
        In JSON; features of instances name theirs, others are of the check's own `part`.
    part
        Whose sizes changed.
    moves
        What changed, in their order.
    part_of
        Instance -> part.
    mm
        Millimetres in the document's unit of length.
    """
    return _walked(document, "", part, moves, part_of, mm)


def _walked(document: Any, own: str, part: str, moves: list[SizeMove], part_of: Callable[[str], str], mm: float) -> Any:
    if isinstance(document, list):
        return [_walked(entry, own, part, moves, part_of, mm) for entry in document]
    if not isinstance(document, Mapping):
        return document
    if "instance" in document and isinstance(document["instance"], str):
        own = part_of(document["instance"])
    elif isinstance(document.get("part"), str):
        own = document["part"]
    if own == part:
        for move in moves:
            document = move.applied(document, mm)
    return {key: _walked(_nested(key, value), own, part, moves, part_of, mm) for key, value in document.items()}


def _nested(key: str, value: Any) -> Any:
    """Return what a field holds, features that are given flat in their nested form."""
    if key == "of":
        return nested(value)
    return [nested(entry) for entry in value] if key == "between" and isinstance(value, list) else value


def _unit(vector: Sequence[float]) -> _Array:
    unit: _Array = np.array(vector, float) / np.linalg.norm(vector)
    return unit


def _listed(vector: _Array) -> list[float]:
    return [round(float(value), 9) + 0.0 for value in vector]
