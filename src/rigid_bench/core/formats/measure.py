"""The measure report, in the published format."""

from typing import Annotated

from pydantic import Field

from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.features import FeatureReport


class PoseReport(Document):
    """Position in mm, unit quaternion [w, x, y, z]."""

    position: list[float]
    quaternion: list[float]


class PartReport(FeatureReport):
    """One part, with its features; of a mesh only what a mesh can carry."""

    id: str
    name: str
    product: str
    solids: int
    closed: bool
    volume: float
    area: float
    extents: list[float]
    centroid: list[float]
    shape: int
    #: It came as triangles.
    mesh: bool | None = None


class InstanceReport(Document):
    """A leaf of the assembly."""

    id: str
    name: str
    part: str
    pose: PoseReport


class MeasureReport(Document):
    """The whole file, as in `docs/schemas/measure-report.json`."""

    file: str
    units: str = "mm"
    source_units: str
    #: Written as "schema"; Pydantic keeps that name for itself.
    step_schema: Annotated[str, Field(serialization_alias="schema")]
    parts: list[PartReport]
    instances: list[InstanceReport]
    #: Relative error that volumes and areas may have.
    volume_tolerance: float = 1e-7
    warnings: list[str]
