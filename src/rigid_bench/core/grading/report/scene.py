"""What a comparison in 3D shows: the student's parts where they stand, how far each is off, and the reference's."""

import gzip
import json
from collections.abc import Mapping, Sequence
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rigid_bench.core.grading.context import Context
from rigid_bench.core.grading.intake.submission import Submission
from rigid_bench.core.grading.matching.placement import base_of
from rigid_bench.core.kernel.distance import moved
from rigid_bench.core.kernel.meshes.mesh_body import FINE_MM, carried, triangles_of
from rigid_bench.core.kernel.views import draw_view
from rigid_bench.core.part.directions import PICTORIAL
from rigid_bench.core.part.features import PartFeatures
from rigid_bench.core.part.model import Body
from rigid_bench.core.registration.correspond import RegisteredPart
from rigid_bench.core.values.errors import RigidBenchError
from rigid_bench.core.values.frames import Pose

_Array = NDArray[np.float64]
#: Triangles stay this near to a part, as a share of its size.
_FINE = 0.004
#: mm: less off than this says nothing.
_DUST = 0.03
#: Pairs of corner and triangle that are compared at once; and at most, else the part shows no differences.
_AT_ONCE, _MOST = 200_000, 6_000_000


def make_scene(context: Context) -> bytes | None:
    """Make the scene of a graded submission.

    Parameters
    ----------
    context
        The submission, matched.

    Returns
    -------
    bytes or None
        Gzipped JSON: `parts` and `ghosts`, each with `name`, `vertices` (flat, mm) and `triangles` (flat), parts
        with `off` (mm at each corner, above 0 where there is too much material; null where the shape is equal, or
        not known). None where no shape was handed in.
    """
    parts, ghosts = [], []
    for index, instance in enumerate(context.submission.instances):
        if instance.part is None:
            continue
        own = context.submission.parts[instance.part].features
        mesh = _triangles(own)
        registered = context.registrations(index)
        is_other = bool(registered) and registered[0].scale == 1.0 and registered[0].registration.likeness < 1.0
        off = _off(mesh, registered[0]) if is_other else None
        parts.append(_written(context.name_of(index), carried(mesh, instance.pose), off))
    world, reference = base_of(context), context.exercise.reference
    for required in reference.instances if reference and world else ():
        if required.part in context.references and world:
            mesh = carried(_triangles(context.references[required.part]), world @ required.pose)
            ghosts.append(_written(context.exercise.instance_name(required.id), mesh, None))
    if not ghosts:  # an exercise of single parts: each reference over the part that was taken for it
        for index, instance in enumerate(context.submission.instances):
            if instance.part is not None and (registered := context.registrations(index)):
                mesh = carried(_triangles(registered[0].reference), instance.pose @ registered[0].pose)
                ghosts.append(_written(context.name_of(index), mesh, None))
    if not parts:
        return None
    return _packed({"parts": parts, "ghosts": ghosts, **_line_views(context)})


def scene_of_submission(submission: Submission) -> bytes | None:
    """Make the scene of what was handed in alone: as `make_scene` does, with nothing to compare it to."""
    placed = [
        (own.name, submission.parts[own.part].features, own.pose)
        for own in submission.instances
        if own.part is not None
    ]
    if not placed:
        return None
    parts = [_written(name, carried(_triangles(part), pose), None) for name, part, pose in placed]
    view = _line_view([(part, pose) for _, part, pose in placed if not part.is_mesh])
    return _packed({"parts": parts, "ghosts": [], **({"view": view} if view else {})})


def _packed(scene: Mapping[str, Any]) -> bytes:
    return gzip.compress(json.dumps(scene, separators=(",", ":")).encode(), mtime=0)


def _line_views(context: Context) -> dict[str, Any]:
    """Draw the build and its reference with hidden lines, for browsers that cannot draw in 3D."""
    own = [(solid.part, solid.pose) for solid in context.solids.values() if not solid.part.is_mesh]
    world, reference = base_of(context), context.exercise.reference
    required = [
        (context.references[instance.part], world @ instance.pose)
        for instance in (reference.instances if reference and world else ())
        if world and instance.part in context.references
    ]
    views = {"view": _line_view(own), "ghost_view": _line_view(required)}
    return {name: view for name, view in views.items() if view}


def _line_view(placed: Sequence[tuple[PartFeatures, Pose]]) -> dict[str, Any] | None:
    if not placed:
        return None
    size = max(part.size for part, _ in placed)
    view = draw_view([moved(part.shape, pose) for part, pose in placed], PICTORIAL, size=size)
    lines = {"visible": view.visible, "hidden": view.hidden}
    return {kind: [np.round(line, 2).tolist() for line in polylines] for kind, polylines in lines.items()}


@lru_cache(maxsize=128)
def _triangles(part: PartFeatures) -> Body:
    return triangles_of(part.shape, within_mm=max(_FINE * part.size, 0.02))


def _written(name: str, mesh: Body, off: _Array | None) -> dict[str, Any]:
    return {
        "name": name,
        "vertices": np.round(np.asarray(mesh.vertices).ravel(), 3).tolist(),
        "triangles": np.asarray(mesh.faces).ravel().tolist(),
        "off": None if off is None else (np.round(off, 3) + 0.0).tolist(),
    }


def _off(mesh: Body, registered: RegisteredPart) -> _Array | None:
    """Return how far each corner of a part is outside (above 0) or inside its reference, mm."""
    try:
        reference = carried(_fine_triangles(registered.reference), registered.pose)
    except RigidBenchError:
        return None
    points, corners = np.asarray(mesh.vertices), np.asarray(reference.triangles)
    if len(points) * len(corners) > _MOST:
        return None
    normals = np.asarray(reference.face_normals)
    rows = max(1, _AT_ONCE // max(len(corners), 1))
    distances = [_distances(points[k : k + rows], corners, normals) for k in range(0, len(points), rows)]
    off = np.concatenate(distances)
    # corners lie on the part itself, but the reference's triangles stand off from what is round there
    return np.where(np.abs(off) < _DUST, 0.0, off)


@lru_cache(maxsize=64)
def _fine_triangles(part: PartFeatures) -> Body:
    return triangles_of(part.shape, within_mm=FINE_MM)


def _distances(points: _Array, corners: _Array, normals: _Array) -> _Array:
    """Return the signed distance of points, (n, 3), to the nearest of triangles, (m, 3, 3).

    The nearest point of a triangle is on its plane, or on the nearest of its edges.
    """
    apart = points[:, None] - corners[None, :, 0]
    height = np.einsum("nmk,mk->nm", apart, normals)
    inside = np.ones(height.shape, dtype=bool)
    least = np.full(height.shape, np.inf)
    for k in range(3):
        start, way = corners[:, k], corners[:, (k + 1) % 3] - corners[:, k]
        across = np.cross(normals, way)
        from_start = points[:, None] - start[None]
        inside &= np.einsum("nmk,mk->nm", from_start, across) >= 0
        share = np.einsum("nmk,mk->nm", from_start, way) / np.maximum((way**2).sum(axis=1), 1e-30)
        nearest = from_start - np.clip(share, 0, 1)[..., None] * way[None]
        least = np.minimum(least, np.linalg.norm(nearest, axis=2))
    distance = np.where(inside, np.abs(height), least)
    best = distance.argmin(axis=1)
    rows = np.arange(len(points))
    sign = np.sign(height[rows, best])
    return np.asarray(distance[rows, best] * np.where(sign == 0, 1.0, sign))
