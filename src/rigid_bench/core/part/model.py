"""What a file of any kind holds: parts with their bodies, and where each instance stands."""

from dataclasses import dataclass
from typing import Any, TypeAlias

from rigid_bench.core.formats.message import Message
from rigid_bench.core.values.frames import Pose

#: A solid of the kernel, or a closed skin of triangles: only `core/kernel` looks inside.
Body: TypeAlias = Any


@dataclass(frozen=True, slots=True, kw_only=True)
class ModelPart:
    """One product of a file, or one solid of a product that has several."""

    #: Unique in the file.
    id: str
    #: As in the file, without control characters; may repeat.
    name: str
    #: Id of the product; parts that were cut from one product share it.
    product: str
    #: In the product's own coordinates, mm.
    shape: Body
    #: How many solids the shape has: one, or none where only surfaces came.
    solids: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ModelInstance:
    """A leaf of the assembly."""

    id: str
    name: str
    #: Id of the part that it shows.
    part: str
    #: From the part's coordinates to the root's.
    pose: Pose


@dataclass(frozen=True, slots=True, kw_only=True)
class Model:
    """What a file holds."""

    #: "AP203", "AP214", "AP242", "STL" or "3MF".
    schema: str
    #: The file's own length unit, as in "millimetre" or "inch".
    source_units: str
    parts: tuple[ModelPart, ...]
    instances: tuple[ModelInstance, ...]
    notices: tuple[Message, ...]
