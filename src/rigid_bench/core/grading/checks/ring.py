"""Does a cap or shoulder touch one ring of a bearing only, the one that it moves with?"""

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.assembly.motion.removal import Placing
from rigid_bench.core.exercise.bundle import CheckModel, Exercise
from rigid_bench.core.formats.documents import Document
from rigid_bench.core.formats.message import Message, phrase
from rigid_bench.core.grading.checks.base import CheckKind, Task, known_instances
from rigid_bench.core.grading.report.models import Cause, CheckResult
from rigid_bench.core.part.faces import Cylinder, Plane
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.flat_bounds import FlatBounds
from rigid_bench.core.values.datums import PlaneFeature
from rigid_bench.core.values.frames import any_normal
from rigid_bench.core.wording.phrases import amount

#: Each ring takes about this share of the way from the bore to the outside (common practice, no source).
_RING = 1 / 3
#: Radii and directions at which it is looked whether both faces are there.
_RADII, _TURNS = 240, 24
#: Share by which a round edge seen as a polygon comes out smaller.
_FACETS = 0.03
#: mm: a cap may reach so much too far.
_DUST = 0.05


class RingFields(Document):
    """Fields of a check of kind `ring`."""

    #: The cap, spacer or shouldered part.
    instance: str
    bearing: str
    ring: Literal["inner", "outer"]


def _required(check: CheckModel, fields: RingFields, exercise: Exercise) -> Message:
    cap, bearing = exercise.instance_name(fields.instance), exercise.instance_name(fields.bearing)
    return phrase(f"asks.touches-{fields.ring}-ring", cap=cap, bearing=bearing)


def _judge(task: Task[RingFields]) -> CheckResult:
    context, fields = task.context, task.fields
    if absent := task.absent(fields.instance, fields.bearing, shape=True):
        return absent
    cap, bearing = (context.matching.instances[instance] for instance in (fields.instance, fields.bearing))
    part, pose = context.placings[bearing]
    walls = [cylinder for cylinder in part.cylinders if cylinder.goes_round]
    name = context.exercise.instance_name(fields.bearing)
    if len(walls) < 2:
        return task.result(
            "missed", phrase("measured.no-bearing"), next_step=phrase("step.bring-in-bearing", name=name)
        )
    bore, outside = min(walls, key=lambda wall: wall.radius), max(walls, key=lambda wall: wall.radius)
    seen = [
        _touched(context.placings[cap], (part, pose), bore, touching, outside.radius)
        for touching in _touching(task, cap, bearing)
    ]
    radii = np.concatenate(seen) if seen else np.zeros(0)
    if not len(radii):
        return task.result(
            "missed",
            phrase("measured.touches-neither"),
            next_step=phrase(f"step.seat-on-{fields.ring}-ring", bearing=name),
        )
    rounds = np.array([cylinder.radius for cylinder in (*part.cylinders, *context.placings[cap][0].cylinders)])
    radii = np.array([_snapped(radius, rounds) for radius in (radii.min(), radii.max())])
    width = outside.radius - bore.radius
    inner, outer = bore.radius + _RING * width, outside.radius - _RING * width
    mm, units = context.exercise.mm, context.exercise.model.units
    over = radii.max() - inner if fields.ring == "inner" else outer - radii.min()
    low, high = (amount(2 * float(radius) / mm, "length", units) for radius in (radii.min(), radii.max()))
    measured = phrase("measured.touches-from", low=low, high=high)
    if over <= _DUST:
        return task.result("met", measured)
    edge = amount(2 * (inner if fields.ring == "inner" else outer) / mm, "length", units)
    cause = Cause(code="both-rings", message=phrase(f"cause.over-{fields.ring}-ring", diameter=edge))
    return task.result("missed", measured, cause=cause, next_step=phrase(f"step.clear-of-{fields.ring}-ring"))


def _snapped(radius: float, rounds: NDArray[np.float64]) -> float:
    """Return the radius of the round wall that ends a face there: its edge was seen as a polygon."""
    nearest = float(rounds[np.abs(rounds - radius).argmin()])
    return nearest if abs(nearest - radius) < _FACETS * nearest else radius


def _touching(task: Task[RingFields], cap: int, bearing: int) -> list[tuple[PlaneFeature, PlaneFeature]]:
    """List the touching faces of the two, the cap's first, each in its own part's coordinates."""
    touching = []
    for contact in task.context.contacts:
        if contact.kind == "meet" and contact.touches and {contact.a, contact.b} == {cap, bearing}:
            own, other = (
                (contact.feature_a, contact.feature_b) if contact.a == cap else (contact.feature_b, contact.feature_a)
            )
            if isinstance(own, PlaneFeature) and isinstance(other, PlaneFeature):
                touching.append((own, other))
    return touching


def _touched(
    cap: Placing, bearing: Placing, bore: Cylinder, faces: tuple[PlaneFeature, PlaneFeature], reach: float
) -> NDArray[np.float64]:
    """Return the distances from the bearing's axis, mm, at which the faces lie over each other."""
    first = any_normal(bore.direction)
    second = np.cross(bore.direction, first)
    turns = 2 * math.pi * (np.arange(_TURNS) + 0.37) / _TURNS  # off the seams of round edges
    radii = np.linspace(bore.radius, reach, _RADII)
    rays = np.outer(np.cos(turns), first) + np.outer(np.sin(turns), second)
    middle = bore.point + float((faces[1].point - bore.point) @ bore.direction) * bore.direction
    points = middle + (radii[:, None, None] * rays[None]).reshape(-1, 3)
    there = cap[1].inverse().point(bearing[1].point(points))
    own, other = (_surface(part, face) for (part, _), face in zip((cap, bearing), faces, strict=True))
    common = FlatBounds(cap[0]).holds(own, there) & FlatBounds(bearing[0]).holds(other, points)
    return np.repeat(radii, _TURNS)[common]


def _surface(part: PartFeatures, face: PlaneFeature) -> int:
    return next(
        k
        for k, surface in enumerate(part.surfaces)
        if isinstance(surface, Plane)
        and np.array_equal(surface.point, face.point)
        and np.array_equal(surface.normal, face.normal)
    )


def _verify(check: CheckModel, fields: RingFields, exercise: Exercise) -> None:
    known_instances(check, exercise, fields.instance, fields.bearing)


KIND = CheckKind(name="ring", strip="fit", fields=RingFields, required=_required, judge=_judge, verify=_verify)
