"""What the sample exercises share: solids to STEP files, and the small pieces of a build file."""

import json
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from build123d import Compound, Location, Part, export_step

Vector = tuple[float, float, float]
#: All sample files carry this time, so that the same code writes the same bytes.
_WRITTEN = "2026-01-01T00:00:00"


@dataclass(frozen=True, slots=True, kw_only=True)
class Placed:
    """A solid where it stands in an assembly."""

    name: str
    solid: Part
    position: Vector = (0.0, 0.0, 0.0)
    #: Degrees about x, y and z, in that order.
    turn: Vector = (0.0, 0.0, 0.0)


def step_bytes(shape: Any, name: str) -> bytes:
    """Write one solid as a STEP file."""
    shape.label = name
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "part.step"
        export_step(shape, path, timestamp=_WRITTEN)
        return path.read_bytes()


def assembly_bytes(parts: Sequence[Placed], name: str) -> bytes:
    """Write placed solids as a STEP assembly."""
    children = []
    for part in parts:
        child = Location(part.position, part.turn) * part.solid
        child.label = part.name
        children.append(child)
    return step_bytes(Compound(children=children), name)


def plane(point: Vector, normal: Vector) -> dict[str, Any]:
    """A flat face of a build or exercise file."""
    return {"plane": {"point": point, "normal": normal}}


def cylinder(point: Vector, direction: Vector, radius: float) -> dict[str, Any]:
    """A round wall of a build or exercise file."""
    return {"cylinder": {"point": point, "direction": direction, "radius": radius}}


def axis(point: Vector, direction: Vector) -> dict[str, Any]:
    """An axis of a build or exercise file."""
    return {"axis": {"point": point, "direction": direction}}


def frame(origin: Vector, z: Vector, x: Vector) -> dict[str, Any]:
    """A joint's frame of a build file."""
    return {"frame": {"origin": origin, "z": z, "x": x}}


def on(instance: str, feature: dict[str, Any]) -> dict[str, Any]:
    """A feature of one instance."""
    return {"instance": instance, **feature}


def json_bytes(document: dict[str, Any]) -> bytes:
    """Write a document as people like to read it."""
    return json.dumps(document, indent=1).encode()
