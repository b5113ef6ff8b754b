"""What a bench holds, as plain data: parts to draw and to point at, instances that are placed, mates in their order."""

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from rigid_bench.core.formats.build import MateModel, OperandModel
from rigid_bench.core.formats.documents import Document, FeatureModel, feature_document
from rigid_bench.core.formats.pictures import Polyline, ViewModel
from rigid_bench.core.values.datums import Feature
from rigid_bench.core.values.frames import Pose

#: Digits of a pose that a page takes.
_DIGITS = 9


class BenchFeature(Document):
    """A face or round wall of a part that can be pointed at, in the part's own coordinates, mm."""

    words: str
    kind: Literal["flat", "round"]
    feature: FeatureModel
    #: It opens inwards and does not stand out; None for flats, and on benches of an older version.
    is_hollow: bool | None = None


class BenchPart(Document):
    """A part, to draw and to point at; mm."""

    id: str
    name: str
    #: How many lie beside the bench at the start.
    count: int
    file: str = ""
    product: str = ""
    #: Flat lists: x, y, z of each corner, the corners of each triangle, the feature of each triangle (-1 for none).
    vertices: list[float] = []
    triangles: list[int] = []
    faces: list[int] = []
    features: list[BenchFeature]
    #: [[least x, y, z], [greatest x, y, z]]
    box: list[list[float]]


class Placed(Document):
    """An instance on the bench, mm."""

    id: str
    part: str
    grounded: bool = False
    position: list[float] = [0.0, 0.0, 0.0]
    quaternion: list[float] = [1.0, 0.0, 0.0, 0.0]

    @property
    def pose(self) -> Pose:
        """Where it stands."""
        return Pose.from_quaternion(self.position, self.quaternion)


class BenchMate(MateModel):
    """A mate, with the words in which it was made."""

    words: str = ""


def side(instance: str, feature: Feature) -> OperandModel:
    """Write one side of a mate."""
    return OperandModel.model_validate({"instance": instance, **feature_document(feature)})


class Suggestion(Document):
    """A mate that two parts look as if they had, where they stand."""

    words: str
    mate: BenchMate


class BenchParts(Document):
    """What lies on a bench when it is opened."""

    parts: list[BenchPart]
    placed: list[Placed] = []
    mates: list[BenchMate] = []
    #: The exercise allows mates to be suggested from contacts.
    may_suggest: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class LaidOut:
    """What lies on a bench when it is opened, and the collision meshes of its parts (see `collision_meshes.py`)."""

    parts: BenchParts
    collision_meshes: bytes


class BenchState(Document):
    """Where a bench stands after one step: every step keeps one."""

    placed: list[Placed] = []
    mates: list[BenchMate] = []

    def instance(self, name: str) -> Placed | None:
        """Return an instance, or None."""
        return next((instance for instance in self.placed if instance.id == name), None)

    def build_document(self, parts: BenchParts, *, source: str = "") -> dict[str, Any]:
        """Write the build file of what the bench holds."""
        used = {instance.part for instance in self.placed}
        document: dict[str, Any] = {"format": "rigid-bench/build", "version": 1, "units": "mm"}
        if source:
            document["source"] = source
        document["parts"] = [
            {"id": part.id, "name": part.name, **({"part": part.product} if source else {"file": part.file})}
            for part in parts.parts
            if part.id in used
        ]
        document["instances"] = [
            {
                "id": instance.id,
                "part": instance.part,
                "grounded": instance.grounded,
                "pose": {"position": instance.position, "quaternion": instance.quaternion},
            }
            for instance in self.placed
        ]
        document["mates"] = [mate.model_dump(mode="json", exclude_none=True, exclude={"words"}) for mate in self.mates]
        return document


def labels(state: BenchState, parts: BenchParts) -> dict[str, str]:
    """Return what each instance is called: its part's name, with a number where there is more than one of it.

    Examples
    --------
    >>> pin = BenchPart(id="pin", name="Pin", count=2, features=[], box=[])
    >>> labels(BenchState(placed=[Placed(id="pin-1", part="pin")]), BenchParts(parts=[pin]))
    {'pin-1': 'Pin (1)'}
    """
    words, seen = dict[str, str](), dict[str, int]()
    known = {part.id: part for part in parts.parts}
    uses = [instance.part for instance in state.placed]
    names = [part.name for part in parts.parts]
    for instance in state.placed:
        part = known[instance.part]
        seen[instance.part] = seen.get(instance.part, 0) + 1
        own = part.name if names.count(part.name) == 1 else f"{part.name} ({part.id})"
        words[instance.id] = (
            own if max(part.count, uses.count(instance.part)) == 1 else f"{own} ({seen[instance.part]})"
        )
    return words


def matrix_of(pose: Pose) -> list[float]:
    """Write a pose as a 4 x 4 matrix, column by column, as the browser's drawing takes it."""
    matrix = np.eye(4)
    matrix[:3, :3], matrix[:3, 3] = pose.rotation, pose.position
    values: list[float] = np.round(matrix.T.ravel(), _DIGITS).tolist()
    return values


class Balloon(Document):
    """The number of an instance, and where its middle is in the view, mm."""

    number: int
    instance: str
    at: list[float]


class Ways(Document):
    """How a build comes apart."""

    #: By instance: how far it goes, (3,) mm in the world.
    shifts: dict[str, list[float]]
    #: The instances in the order in which they come to the base.
    order: list[str]
    #: Instances that nothing lets out.
    stuck: list[str]


class Exploded(Document):
    """A build drawn apart."""

    view: ViewModel
    #: From where a part belongs to where it is drawn, mm in the view.
    trails: list[Polyline]
    balloons: list[Balloon]
    #: By instance: how far it is drawn off its place, mm.
    distances: dict[str, float] = {}
    #: The instances in the order in which they come to the base.
    order: list[str]
    #: Instances that nothing lets out, and those of which the view shows nothing.
    stuck: list[str]
    hidden: list[str]
