"""A build as links and joints: where mates of two instances leave exactly a joint's motion, that joint is written."""

import itertools
import json
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.freedom.motions import Motion
from rigid_bench.core.assembly.mates.joints import Standing
from rigid_bench.core.formats.build import Build, BuildModel, Instance, Mate, read_build
from rigid_bench.core.interchange.chain import Abilities, Chain, Joint, JointKind, Link
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.core.values.units import MM_PER_UNIT

#: Two directions or places are one: sine of an angle, and mm.
_SAME, _SAME_MM = 1e-6, 1e-6


def chain_of(data: bytes, *, name: str, abilities: Abilities) -> Chain:
    """Read a build file as links and joints.

    Parameters
    ----------
    data, name
        The file's bytes, and its name for messages.
    abilities
        Which joints can be written; the mates of other pairs stay mates.

    Raises
    ------
    InvalidDocument, NotSupported
        It is no build file, or a mate of it cannot be meant.
    """
    build = read_build(data, name=name)
    model = BuildModel.model_validate(json.loads(data))
    mm = MM_PER_UNIT[model.units]
    written = {mate.id: _in_mm(mate.model_dump(mode="json", exclude_none=True), mm) for mate in model.mates}
    parts = {part.id: part.model_dump(mode="json", exclude_none=True) for part in model.parts}
    links = [
        Link(
            id=own.id, pose=own.pose, grounded=own.grounded, group=own.group, part=parts.get(own.part, {"id": own.part})
        )
        for own in build.instances
    ]
    joints, left = _pairs(build)
    tree, loops, unsaid = _spanning(links, joints, abilities)
    left += [mate for joint in unsaid for mate in joints[joint.name, joint.parent, joint.child][1]]
    order = {mate.id: number for number, mate in enumerate(build.mates)}
    mates = [written[mate.id] for mate in sorted(left, key=lambda mate: order.get(mate.id, 0)) if mate.id in written]
    return Chain(links=links, joints=tree, loops=loops, mates=mates, source=model.source or "")


def _in_mm(mate: dict[str, Any], mm: float) -> dict[str, Any]:
    """Write a mate in mm: lengths are multiplied, angles and directions stay."""
    if mm == 1.0:
        return mate
    for side in ("a", "b"):
        own = mate[side]
        for kind in ("plane", "axis", "cylinder", "frame"):
            for field in ("point", "origin"):
                if field in own.get(kind, {}):
                    own[kind][field] = [mm * value for value in own[kind][field]]
            if "radius" in own.get(kind, {}):
                own[kind]["radius"] *= mm
        if "point" in own:
            own["point"] = [mm * value for value in own["point"]]
    for field in ("offset", "pitch") + (() if mate["kind"] == "angle" else ("value",)):
        if field in mate:
            mate[field] *= mm
    if "translation" in mate.get("limits", {}):
        mate["limits"]["translation"] = [mm * value for value in mate["limits"]["translation"]]
    return mate


_Found = dict[tuple[str, str, str], tuple[Joint, list[Mate]]]


def _pairs(build: Build) -> tuple[_Found, list[Mate]]:
    """Return the joints that pairs of instances have, with their mates; and the mates of pairs that have none."""
    groups: dict[str, list[int]] = {}
    for index, own in enumerate(build.instances):
        if own.group:
            groups.setdefault(own.group, []).append(index)
    pairs: dict[tuple[int, int], list[Mate]] = {}
    for mate in build.mates:
        pairs.setdefault((min(mate.a, mate.b), max(mate.a, mate.b)), []).append(mate)
    joints: _Found = {}
    left: list[Mate] = []
    for group, members in groups.items():
        for a, b in itertools.pairwise(members):
            joint = _joint(build, (a, b), [], [], name=f"group {group} {b}")
            assert joint is not None
            joints[joint.name, joint.parent, joint.child] = (joint, [])
            left += pairs.pop((a, b), [])
    for pair, mates in pairs.items():
        is_ground = all(build.instances[index].grounded for index in pair)
        joint = None if is_ground else _of_pair(build, pair, mates)
        if joint is None:
            left += mates
        else:
            joints[joint.name, joint.parent, joint.child] = (joint, mates)
    return joints, left


def _of_pair(build: Build, pair: tuple[int, int], mates: Sequence[Mate]) -> Joint | None:
    """Return the joint that the mates of two instances leave; None for another motion, or mates that do not hold."""
    alone = tuple(replace(build.instances[index], grounded=place == 0, group=None) for place, index in enumerate(pair))
    renumbered = tuple(replace(mate, a=pair.index(mate.a), b=pair.index(mate.b)) for mate in mates)
    free = freedom(replace(build, instances=alone, mates=renumbered), tolerance=Tolerance())
    if free.conflicts:
        return None
    limited = [standing for _, standing, _ in free.system.limited([own.pose for own in alone])]
    return _joint(build, pair, free.motions(1), limited, mates=mates, name="+".join(mate.id for mate in mates))


def _joint(
    build: Build, pair: tuple[int, int], motions: Sequence[Motion], limited: Sequence[Standing], *, name: str,
    mates: Sequence[Mate] = (),
) -> Joint | None:  # fmt: skip
    parent, child = (build.instances[index] for index in pair)
    shape = _shape(motions)
    if shape is None:
        return None
    kind, point, direction, pitch = shape
    joint = Joint(
        name=name, kind=kind, parent=parent.id, child=child.id, pitch=pitch, direction=direction,
        point=child.pose.position if point is None else point,
    )  # fmt: skip
    if not limited:
        return joint
    mate = next((own for own in mates if own.id == limited[0].mate), None)
    if mate is None or len({standing.mate for standing in limited}) > 1:
        return None
    return _limited(joint, mate, limited, build.instances, is_child_b=mate.b == pair[1])


def _limited(
    joint: Joint, mate: Mate, limited: Sequence[Standing], instances: Sequence[Instance], *, is_child_b: bool
) -> Joint | None:
    """Give a joint the limits of its mate: its axis looks so that they count the same way."""
    frame = mate.feature_a.moved(instances[mate.a].pose)
    way = np.array(getattr(frame, "direction", joint.direction))
    if abs(abs(float(way @ joint.direction)) - 1) > _SAME or joint.kind not in ("revolute", "prismatic", "cylindrical"):
        return None
    joint = replace(joint, direction=way if is_child_b else -way)
    for standing in limited:
        ends = (standing.least - standing.value, standing.greatest - standing.value)
        if standing.kind == "rotation" and joint.kind != "prismatic":
            joint = replace(joint, rotation=ends, turned=standing.value)
        elif standing.kind == "translation" and joint.kind != "revolute":
            joint = replace(joint, translation=ends, travelled=standing.value)
        else:
            return None
    return joint


_Shape = tuple[JointKind, Any, Any, float]


def _shape(motions: Sequence[Motion]) -> _Shape | None:
    """Return the joint whose motions these are: its kind, a point, its direction, its pitch."""
    turns = [motion for motion in motions if motion.kind == "rotation"]
    slides = [motion for motion in motions if motion.kind == "translation"]
    if not motions:
        return "fixed", None, np.array([0.0, 0.0, 1.0]), 0.0
    if not all(motion.finite for motion in motions):
        return None
    match len(turns), len(slides), len(motions):
        case 1, 0, 1:
            return "revolute", turns[0].point, turns[0].direction, 0.0
        case 0, 1, 1:
            return "prismatic", None, slides[0].direction, 0.0
        case 0, 0, 1:
            return "screw", motions[0].point, motions[0].direction, motions[0].pitch
        case 1, 1, 2 if _is_along(turns[0], slides[0]):
            return "cylindrical", turns[0].point, turns[0].direction, 0.0
        case 1, 2, 3 if not any(_is_along(turns[0], slide, most=0.5) for slide in slides):
            normal = np.cross(slides[0].direction, slides[1].direction)
            is_flat = np.linalg.norm(np.cross(normal, turns[0].direction)) < _SAME
            return ("planar", turns[0].point, turns[0].direction, 0.0) if is_flat else None
        case 3, 0, 3:
            centre = _meeting(turns)
            return None if centre is None else ("spherical", centre, np.array([0.0, 0.0, 1.0]), 0.0)
    return None


def _is_along(turn: Motion, slide: Motion, most: float = _SAME) -> bool:
    return bool(np.linalg.norm(np.cross(turn.direction, slide.direction)) < most)


def _meeting(turns: Sequence[Motion]) -> Any:
    """Return where three axes meet; None where they do not."""
    rows = np.vstack([np.eye(3) - np.outer(turn.direction, turn.direction) for turn in turns])
    wanted = np.concatenate([turn.point - turn.direction * (turn.direction @ turn.point) for turn in turns])
    centre, _, rank, _ = np.linalg.lstsq(rows, wanted, rcond=None)
    return centre if rank == 3 and np.linalg.norm(rows @ centre - wanted) < _SAME_MM else None


def _spanning(
    links: Sequence[Link], joints: _Found, abilities: Abilities
) -> tuple[list[Joint], list[Joint], list[Joint]]:
    """Return a tree of joints from the grounded links on, those that close loops, and those that cannot be said."""
    unsaid = [joint for joint, _ in joints.values() if joint.kind not in abilities.tree]
    open_joints = [joint for joint, _ in joints.values() if joint.kind in abilities.tree]
    tree: list[Joint] = []
    reached = {link.id for link in links if link.grounded}
    while True:
        joint = next((own for own in open_joints if (own.parent in reached) != (own.child in reached)), None)
        if joint is not None:
            open_joints.remove(joint)
            joint = joint if joint.parent in reached else turned_round(joint)
            tree.append(joint)
            reached.add(joint.child)
            continue
        root = next((link for link in links if link.id not in reached), None)
        if root is None:
            break
        reached.add(root.id)
    loops = [joint for joint in open_joints if joint.kind in abilities.loops]
    unsaid += [joint for joint in open_joints if joint.kind not in abilities.loops]
    return tree, loops, unsaid


def turned_round(joint: Joint) -> Joint:
    """Return a joint with parent and child changed: what was a turn of one is the same turn of the other, backwards."""
    return replace(joint, parent=joint.child, child=joint.parent, direction=-joint.direction)
