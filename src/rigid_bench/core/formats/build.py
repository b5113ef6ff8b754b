"""The build file: which parts, where each instance stands, which is grounded, what holds it."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Annotated, Literal

import numpy as np
from pydantic import Field, ValidationError, model_validator

from rigid_bench.core.formats.documents import (
    Coordinate,
    Document,
    FeatureModel,
    Identifier,
    Quaternion,
    Vector,
    document_error,
    read_json,
)
from rigid_bench.core.values.datums import Feature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.units import MM_PER_UNIT
from rigid_bench.core.wording.language import _, series

FORMAT = "rigid-bench/build"
#: A class build has a dozen instances, a large one a few hundred.
MOST_INSTANCES, MOST_MATES = 2_000, 10_000

Sense = Literal["aligned", "opposed", "either"]


class PoseModel(Document):
    """Position in the file's unit, unit quaternion [w, x, y, z]."""

    position: Vector = [0, 0, 0]
    quaternion: Quaternion = [1, 0, 0, 0]


class PartModel(Document):
    """A part, with the STEP file it is in, or its product in the build's `source`."""

    id: Identifier
    name: str = ""
    file: str | None = None
    part: str | None = None
    #: What it is made of, as the student's program says.
    material: str = ""


class InstanceModel(Document):
    """One placing of a part."""

    id: Identifier
    part: Identifier
    grounded: bool = False
    pose: PoseModel = PoseModel()
    group: str | None = None


class OperandModel(FeatureModel):
    """A feature of an instance, in its part's own coordinates."""

    instance: Identifier


class LimitsModel(Document):
    """Least and greatest turn (degrees) and travel of a joint."""

    rotation: Annotated[list[Coordinate], Field(min_length=2, max_length=2)] | None = None
    translation: Annotated[list[Coordinate], Field(min_length=2, max_length=2)] | None = None

    @model_validator(mode="after")
    def _are_ranges(self) -> "LimitsModel":
        for ends in (self.rotation, self.translation):
            if ends and ends[0] > ends[1]:
                raise ValueError(
                    _("the least, {least:g}, is above the greatest, {greatest:g}", least=ends[0], greatest=ends[1])
                )
        return self


class MateModel(Document):
    """One relation between two instances."""

    id: Identifier
    kind: str
    a: OperandModel
    b: OperandModel
    value: Coordinate | None = None
    sense: Sense = "either"
    offset: Coordinate = 0.0
    pitch: Coordinate | None = None
    inside: bool = False
    limits: LimitsModel | None = None
    #: Proposed from where the parts stand, and confirmed by the student; not declared in a modelling program.
    confirmed: bool = False


class BuildModel(Document):
    """The build file as in `docs/schemas/build.json`."""

    format: Literal["rigid-bench/build"]
    version: Literal[1] = 1
    units: Literal["mm", "in"] = "mm"
    source: str | None = None
    parts: list[PartModel] = []
    instances: Annotated[list[InstanceModel], Field(min_length=1, max_length=MOST_INSTANCES)]
    mates: Annotated[list[MateModel], Field(max_length=MOST_MATES)] = []


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A part of a build."""

    id: str
    name: str
    #: The STEP file that it is in, or None.
    file: str | None
    #: The product in that file, or None where the file holds just this part.
    product: str | None
    #: What it is made of; "" where that is not said.
    material: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Instance:
    """One placing of a part."""

    id: str
    part: str
    grounded: bool
    pose: Pose
    #: Instances with the same group move as one.
    group: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """How far a joint may turn and travel, least and greatest; None where it is free."""

    #: rad
    rotation: tuple[float, float] | None = None
    #: mm
    translation: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Mate:
    """One relation; features in the own coordinates of their instances' parts."""

    id: str
    kind: str
    #: Index of the instance, and its feature.
    a: int
    feature_a: Feature
    b: int
    feature_b: Feature
    #: mm or degrees, as the kind says.
    value: float | None = None
    sense: Sense = "either"
    #: mm along a's z.
    offset: float = 0.0
    #: mm per turn.
    pitch: float | None = None
    #: One cylinder lies within the other.
    inside: bool = False
    limits: Limits | None = None
    #: Proposed from where the parts stand, and confirmed.
    confirmed: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Build:
    """A whole assembly, in mm."""

    parts: tuple[Part, ...]
    instances: tuple[Instance, ...]
    mates: tuple[Mate, ...]

    def index_of(self, instance: str) -> int:
        """Return the place of an instance, by its id.

        Raises
        ------
        KeyError
            There is no such instance.
        """
        for index, known_instance in enumerate(self.instances):
            if known_instance.id == instance:
                return index
        raise KeyError(instance)


def read_build(data: bytes, *, name: str) -> Build:
    """Read a build file.

    Parameters
    ----------
    data
        The file's bytes: JSON in UTF-8.
    name
        The file's name, for messages.

    Returns
    -------
    Build
        In mm, whatever unit the file is in.

    Raises
    ------
    InvalidDocument
        Saying which place in the file is wrong, and how.
    """
    document = read_json(data, name=name)
    if document.get("format") != FORMAT:
        raise InvalidDocument(
            _("{name}, at format", name=name),
            _('this is not a build file: "format" is not "{format}"', format=FORMAT),
            _("Hand in a build file"),
        )
    try:
        model = BuildModel.model_validate(document)
    except ValidationError as exc:
        raise document_error(name, exc) from exc
    return _build(model, name)


def is_build(data: bytes) -> bool:
    """Say whether the data looks like a build file, by content."""
    return data.lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"{") and FORMAT.encode() in data


def _build(model: BuildModel, name: str) -> Build:
    mm = MM_PER_UNIT[model.units]
    for what, items in (("parts", model.parts), ("instances", model.instances), ("mates", model.mates)):
        _check_unique([item.id for item in items], f"{name}, at {what}")
    parts = tuple(
        Part(
            id=part.id,
            name=part.name or part.id,
            file=part.file or model.source,
            product=part.part or (part.name or part.id if model.source and not part.file else None),
            material=part.material.strip(),
        )
        for part in model.parts
    )
    known = {part.id for part in parts}
    for index, instance in enumerate(model.instances):
        if instance.part not in known and parts:
            where = _("{name}, at instances[{index}].part", name=name, index=index)
            raise InvalidDocument(
                where,
                _("there is no part '{part}'", part=instance.part),
                _("Name one of: {known}", known=series(sorted(known))),
            )
    instances = tuple(
        _instance(instance, mm, f"{name}, at instances[{index}]") for index, instance in enumerate(model.instances)
    )
    places = {instance.id: index for index, instance in enumerate(instances)}
    mates = tuple(make_mate(mate, mm, places, f"{name}, at mates[{index}]") for index, mate in enumerate(model.mates))
    return Build(parts=parts, instances=instances, mates=mates)


def _check_unique(ids: Sequence[str], where: str) -> None:
    seen: set[str] = set()
    for identifier in ids:
        if identifier in seen:
            raise InvalidDocument(
                where, _("the id '{identifier}' is used twice", identifier=identifier), _("Give each its own id")
            )
        seen.add(identifier)


def _instance(model: InstanceModel, mm: float, where: str) -> Instance:
    if not 0.9 < np.linalg.norm(model.pose.quaternion) < 1.1:
        raise InvalidDocument(
            _("{where}.pose.quaternion", where=where),
            _("its length is not 1"),
            _("Give [w, x, y, z] of unit length; [1, 0, 0, 0] turns nothing"),
        )
    pose = Pose.from_quaternion([mm * value for value in model.pose.position], model.pose.quaternion)
    return Instance(id=model.id, part=model.part, grounded=model.grounded, pose=pose, group=model.group)


def make_mate(model: MateModel, mm: float, places: Mapping[str, int], where: str) -> Mate:
    """Make a mate of what a document says.

    Parameters
    ----------
    model
        As in a build file.
    mm
        Millimetres in the document's unit.
    places
        The instances' places in the build, by id.
    where
        For messages.

    Raises
    ------
    InvalidDocument
        It names an instance that there is not, or one twice, or a direction has length zero.
    """
    for side in ("a", "b"):
        instance = getattr(model, side).instance
        if instance not in places:
            raise InvalidDocument(
                _("{where}.{side}.instance", where=where, side=side),
                _("there is no instance '{instance}'", instance=instance),
                _("Name an instance of this build"),
            )
    if model.a.instance == model.b.instance:
        raise InvalidDocument(where, _("it mates an instance with itself"), _("Choose a feature of another instance"))
    is_angle = model.kind == "angle"
    return Mate(
        id=model.id,
        kind=model.kind,
        a=places[model.a.instance],
        feature_a=_feature(model.a, mm, f"{where}.a"),
        b=places[model.b.instance],
        feature_b=_feature(model.b, mm, f"{where}.b"),
        value=None if model.value is None else model.value * (1.0 if is_angle else mm),
        sense=model.sense,
        offset=mm * model.offset,
        pitch=None if model.pitch is None else mm * model.pitch,
        inside=model.inside,
        limits=_limits(model.limits, mm) if model.limits else None,
        confirmed=model.confirmed,
    )


def _limits(model: LimitsModel, mm: float) -> Limits:
    turn, travel = model.rotation, model.translation
    return Limits(
        rotation=(math.radians(turn[0]), math.radians(turn[1])) if turn else None,
        translation=(mm * travel[0], mm * travel[1]) if travel else None,
    )


def _feature(model: OperandModel, mm: float, where: str) -> Feature:
    try:
        return model.feature(mm=mm)
    except InvalidDocument as exc:
        raise InvalidDocument(f"{where}, {exc.where}", exc.problem, exc.next_step) from exc
