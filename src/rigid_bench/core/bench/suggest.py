"""Mates that parts look as if they had where they stand: faces that meet or are level, round bodies in holes."""

import itertools
from collections.abc import Mapping
from functools import lru_cache

import numpy as np

from rigid_bench.core.assembly.contact_words import contact_words
from rigid_bench.core.assembly.contacts import Contact, find_contacts
from rigid_bench.core.bench.documents import BenchMate, BenchParts, BenchState, Suggestion, labels, side
from rigid_bench.core.bench.skins import BenchSkin
from rigid_bench.core.bench.work import Answer
from rigid_bench.core.frames import Pose
from rigid_bench.core.tolerance import Tolerance

#: Suggestions that are made at most.
_MOST = 120
#: Digits to which two parts stand to each other, mm and directions.
_DIGITS = 7


def suggest(
    state: BenchState, parts: BenchParts, skins: Mapping[str, BenchSkin], found: Answer, *, tolerance: Tolerance
) -> list[Suggestion]:
    """List mates that contacts show, between parts that are not held to each other yet.

    Parameters
    ----------
    state, parts, skins
        What is placed, and its parts' features and skins by the part's id.
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
    boxes = [each.pose.point(skins[each.part].corners) for each in state.placed]
    reach = [(each.min(axis=0) - 1e-3, each.max(axis=0) + 1e-3) for each in boxes]
    made: list[Suggestion] = []
    for a, b in itertools.combinations(range(len(state.placed)), 2):
        if np.any(reach[a][0] > reach[b][1]) or np.any(reach[b][0] > reach[a][1]):
            continue
        one, other = state.placed[a], state.placed[b]
        contacts = _contacts(skins[one.part], skins[other.part], _seen(one.pose, other.pose), tolerance)
        if not contacts or not found.found.relative_twists(b, a).shape[1]:
            continue
        known = [each for each in state.mates if {each.a.instance, each.b.instance} == {one.id, other.id}]
        for number, contact in enumerate(contacts, 1):
            mate = contact.mate(f"{one.id} {other.id} {number}")
            words = contact_words(contact, called[one.id], called[other.id])
            own = BenchMate(
                id=mate.id, kind=mate.kind, sense=mate.sense, value=mate.value, words=words,
                a=side(one.id, mate.feature_a), b=side(other.id, mate.feature_b),
            )  # fmt: skip
            if not any(_says(each) == _says(own) for each in known):
                made.append(Suggestion(words=words, mate=own))
    return made[:_MOST]


def _says(mate: BenchMate) -> tuple[object, ...]:
    sides = sorted((each.instance, each.model_dump_json(exclude={"instance"})) for each in (mate.a, mate.b))
    return (mate.kind, *sides)


def _seen(one: Pose, other: Pose) -> tuple[float, ...]:
    relative = one.inverse() @ other
    return tuple(np.round([*relative.rotation.ravel(), *relative.position], _DIGITS).tolist())


@lru_cache(maxsize=4096)  # most parts stand to each other as they did before the last step
def _contacts(one: BenchSkin, other: BenchSkin, seen: tuple[float, ...], tolerance: Tolerance) -> tuple[Contact, ...]:
    """Find what two parts show, the first at the origin."""
    pose = Pose(np.array(seen[:9]).reshape(3, 3), np.array(seen[9:]))
    found = find_contacts([(one.part, Pose.identity()), (other.part, pose)], tolerance=tolerance)
    return tuple(each for each in found if each.touches or each.kind == "seated")
