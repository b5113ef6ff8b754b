"""A table of mates becomes a build: each point is found on the parts where they stand."""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.mates.registry import KINDS, check_mate, joins
from rigid_bench.core.formats.build import Build, Instance, Mate, Part
from rigid_bench.core.formats.mate_table import GROUNDED, MateRow
from rigid_bench.core.grading.intake.submitted_parts import SubmittedInstance, SubmittedPart
from rigid_bench.core.part.faces import Cylinder, Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.values.datums import AxisFeature, CylinderFeature, Feature, PlaneFeature
from rigid_bench.core.values.errors import InvalidDocument
from rigid_bench.core.wording.language import _, series

#: mm: a point is on a face or an axis from this near on; and a face is where there is material so far behind it.
_NEAR, _BEHIND = 0.05, 0.02
#: mm that an axis is longer than its wall, for points at its ends.
_BEYOND = 1.0
_Vector = NDArray[np.float64]


def build_of_table(
    rows: Sequence[MateRow], name: str, parts: Sequence[SubmittedPart], instances: Sequence[SubmittedInstance]
) -> Build:
    """Return the build that a table declares of a positioned model.

    Parameters
    ----------
    rows
        The table.
    name
        Of its file, for messages.
    parts, instances
        What the model holds, where it stands; instances keep their order.

    Raises
    ------
    InvalidDocument
        A line names a part that there is not, or a point on none of its faces and axes, or a kind that does not join
        what is there: which line, and what to do.
    NotSupported
        There is no such kind of mate.
    """
    grounded = {index for row in rows if row.kind == GROUNDED for index in _meant(row, row.a, name, instances)}
    mates = [_mate(row, name, parts, instances) for row in rows if row.kind != GROUNDED]
    return declared_build(mates, grounded, parts, instances)


def declared_build(
    mates: Sequence[Mate],
    grounded: Collection[int],
    parts: Sequence[SubmittedPart],
    instances: Sequence[SubmittedInstance],
) -> Build:
    """Return a build of what was handed in, where it stands, with mates and which instances are grounded."""
    return Build(
        parts=tuple(Part(id=part.id, name=part.name, file=None, product=None) for part in parts),
        instances=tuple(
            Instance(
                id=own.id, part=parts[own.part].id if own.part is not None else "", grounded=index in grounded,
                pose=own.pose,
            )
            for index, own in enumerate(instances)
        ),
        mates=tuple(mates),
    )  # fmt: skip


def with_grounded(instances: Sequence[SubmittedInstance], build: Build) -> tuple[SubmittedInstance, ...]:
    """Return the instances as the build says which are grounded."""
    return tuple(replace(own, grounded=said.grounded) for own, said in zip(instances, build.instances, strict=True))


def _meant(row: MateRow, part: str, name: str, instances: Sequence[SubmittedInstance]) -> list[int]:
    """Return the instances that a line may mean: by id, or all of that name."""
    wanted = part.casefold()
    meant = [index for index, own in enumerate(instances) if own.id.casefold() == wanted] or [
        index for index, own in enumerate(instances) if own.name.casefold() == wanted
    ]
    if not meant:
        names = series(sorted({own.name for own in instances}))
        raise InvalidDocument(
            _("{name}, line {line}", name=name, line=row.line),
            _("there is no part '{part}'", part=part[:60]),
            _("Name one of: {names}", names=names[:300]),
        )
    return meant


def _mate(row: MateRow, name: str, parts: Sequence[SubmittedPart], instances: Sequence[SubmittedInstance]) -> Mate:
    where = f"{name}, line {row.line}"
    if row.kind not in KINDS:
        raise InvalidDocument(
            where,
            _("there is no kind '{kind}'", kind=row.kind[:40]),
            _("The kinds are: {kinds}", kinds=series(sorted(KINDS))),
        )
    assert row.at_a is not None
    assert row.at_b is not None
    sides = [
        [
            (index, feature)
            for index in _meant(row, part, name, instances)
            for feature in _features_at(instances[index], parts, np.array(point))
        ]
        for part, point in ((row.a, row.at_a), (row.b, row.at_b))
    ]
    for side, part, lies_on in zip("ab", (row.a, row.b), sides, strict=True):
        if not lies_on:
            problem = _(
                "the point on part {side} lies on no flat or round face of '{part}', and on no axis",
                side=side,
                part=part[:60],
            )
            raise InvalidDocument(where, problem, _("Give a point in the assembly's coordinates, mm, inside the face"))
    for a, feature_a in sides[0]:
        for b, feature_b in sides[1]:
            if a != b and joins(row.kind, feature_a, feature_b):
                mate = Mate(
                    id=f"line-{row.line}", kind=row.kind, a=a, feature_a=feature_a, b=b, feature_b=feature_b,
                    value=row.value, sense=row.sense,
                )  # fmt: skip
                check_mate(mate)
                return mate
    problem = _("'{kind}' does not join what lies at the two points", kind=row.kind)
    raise InvalidDocument(where, problem, _("Choose another kind, or points on other faces"))


def _features_at(instance: SubmittedInstance, parts: Sequence[SubmittedPart], point: _Vector) -> Iterator[Feature]:
    """Yield what a point in the assembly lies on, in the part's own coordinates: faces, then axes."""
    if instance.part is None:
        return
    part = parts[instance.part].features
    here = instance.pose.inverse().point(point)
    yield from (PlaneFeature(here, plane.normal) for plane in part.planes if _is_on(part, plane, here))
    for wall in part.cylinders:
        if _is_on_wall(part, wall, here):
            yield CylinderFeature(wall.point, wall.direction, wall.radius)
    for wall in part.cylinders:
        if _is_on_axis(wall, here):
            yield AxisFeature(wall.point, wall.direction)


def _is_on(part: PartFeatures, plane: Plane, point: _Vector) -> bool:
    """Tell whether a point lies within a flat face: on its plane, with material behind and none before."""
    if abs(float((point - plane.point) @ plane.normal)) > _NEAR:
        return False
    on = point - float((point - plane.point) @ plane.normal) * plane.normal
    return part.is_inside(on - _BEHIND * plane.normal) and not part.is_inside(on + _BEHIND * plane.normal)


def _is_on_wall(part: PartFeatures, wall: Cylinder, point: _Vector) -> bool:
    offset = point - wall.point
    radial = offset - float(offset @ wall.direction) * wall.direction
    if not _is_along(wall, point) or abs(float(np.linalg.norm(radial)) - wall.radius) > _NEAR:
        return False
    normal = wall.normals_at(point[None])[0]
    on = point + (wall.radius - float(np.linalg.norm(radial))) * radial / np.linalg.norm(radial)
    return part.is_inside(on - _BEHIND * normal) and not part.is_inside(on + _BEHIND * normal)


def _is_on_axis(wall: Cylinder, point: _Vector) -> bool:
    offset = point - wall.point
    apart = float(np.linalg.norm(offset - float(offset @ wall.direction) * wall.direction))
    return _is_along(wall, point) and apart < _NEAR


def _is_along(wall: Cylinder, point: _Vector) -> bool:
    return -_BEYOND < float((point - wall.point) @ wall.direction) < wall.length + _BEYOND
