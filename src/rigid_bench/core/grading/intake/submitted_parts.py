"""Parts and placings as they were handed in."""

from dataclasses import dataclass

from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.frames import Pose


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class SubmittedPart:
    """A part of the submission."""

    id: str
    name: str
    #: The file that it came in.
    file: str
    product: str
    features: PartFeatures
    #: False for a mesh whose file does not say its unit: mm were taken.
    has_unit: bool = True


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class SubmittedInstance:
    """A placing of one of them. `part` is an index, or None where the build has no geometry for it."""

    id: str
    name: str
    part: int | None
    pose: Pose
    grounded: bool
