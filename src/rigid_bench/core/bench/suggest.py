"""Mates that parts look as if they had where they stand: faces that meet or are level, round bodies in holes."""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from functools import lru_cache

import numpy as np

from rigid_bench.core.assembly.contact.contacts import NEAR_MM, Contact, find_contacts
from rigid_bench.core.bench.documents import BenchMate, BenchParts, BenchState, Suggestion, labels, side
from rigid_bench.core.bench.work import Answer
from rigid_bench.core.kernel.meshes.collision_meshes import CollisionMesh
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.wording.contacts import contact_words

#: Suggestions that are made at most.
_MOST = 120
#: mm: boxes so near to each other touch.
_TOUCH_MM = 1e-3
#: Digits to which two parts stand to each other, mm and directions.
_DIGITS = 7


def suggest(
    state: BenchState,
    parts: BenchParts,
    collision_meshes: Mapping[str, CollisionMesh],
    answer: Answer,
    *,
    tolerance: Tolerance,
) -> list[Suggestion]:
    """List mates that contacts show and that would take a motion away.

    Parameters
    ----------
    state, parts, collision_meshes
        What is placed, and its parts' features and collision meshes by the part's id.
    found
        What the mates that there are leave free.
    tolerance
        For contacts.

    Returns
    -------
    list of Suggestion
        Pair by pair in the order of the parts; the ids of their mates are only good for this state.
    """
    called = labels(state, parts)
    made: list[Suggestion] = []
    for a, b in _near(state, collision_meshes):
        one, other = state.placed[a], state.placed[b]
        if not answer.freedom.relative_twists(b, a).shape[1]:
            continue
        contacts = _contacts(
            collision_meshes[one.part], collision_meshes[other.part], _seen(one.pose, other.pose), tolerance
        )
        for number, contact in enumerate(contacts, 1):
            mate = replace(contact.mate(f"{one.id} {other.id} {number}"), a=a, b=b)
            if not answer.freedom.takes_any(mate):
                continue
            words = contact_words(contact, called[one.id], called[other.id])
            own = BenchMate(
                id=mate.id, kind=mate.kind, sense=mate.sense, value=mate.value, words=words,
                a=side(one.id, mate.feature_a), b=side(other.id, mate.feature_b),
            )  # fmt: skip
            made.append(Suggestion(words=words, mate=own))
    return made[:_MOST]


def _near(state: BenchState, collision_meshes: Mapping[str, CollisionMesh]) -> Iterator[tuple[int, int]]:
    """Yield the pairs whose boxes touch."""
    if not state.placed:
        return
    corners = np.array([instance.pose.point(collision_meshes[instance.part].part.corners) for instance in state.placed])
    low, high = corners.min(axis=1) - _TOUCH_MM, corners.max(axis=1) + _TOUCH_MM
    for a, b in np.argwhere(np.all(low[:, None] <= high[None], axis=2)).tolist():
        if a < b and np.all(low[b] <= high[a]):
            yield a, b


def _seen(one: Pose, other: Pose) -> tuple[float, ...]:
    relative = one.inverse() @ other
    return tuple(np.round([*relative.rotation.ravel(), *relative.position], _DIGITS).tolist())


@lru_cache(maxsize=4096)  # most parts stand to each other as they did before the last step
def _contacts(
    one: CollisionMesh, other: CollisionMesh, seen: tuple[float, ...], tolerance: Tolerance
) -> tuple[Contact, ...]:
    """Find what two parts show, the first at the origin."""
    pose = Pose(np.array(seen[:9]).reshape(3, 3), np.array(seen[9:]))
    contacts = find_contacts([(one.part, Pose.identity()), (other.part, pose)], tolerance=tolerance)
    return tuple(
        contact for contact in contacts if contact.touches or (contact.kind == "seated" and contact.gap_mm > -NEAR_MM)
    )
