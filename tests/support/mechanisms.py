"""Textbook mechanisms as builds, made from joints in one drawing of the world."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from rigid_bench.core.formats.build import Build, Instance, Limits, Mate, Part
from rigid_bench.core.values.datums import Feature, PlaneFeature, PointFeature, make_frame
from rigid_bench.core.values.frames import Pose, any_normal, unit

Xyz = Sequence[float] | np.ndarray
X, Y, Z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)


@dataclass(frozen=True, kw_only=True)
class Joint:
    """A joint between two bodies, drawn where the bodies stand."""

    kind: str
    bodies: tuple[int, int]
    at: Xyz = (0.0, 0.0, 0.0)
    along: Xyz = Z
    pitch: float | None = None
    limits: Limits | None = None


def mechanism(*joints: Joint, seed: int | None = None) -> Build:
    """Make a build of bodies 0 (grounded), 1, 2 ... and their joints.

    With a seed, the world and every part's own coordinates are turned and moved at
    random, and the joints are shuffled.
    """
    random = np.random.default_rng(seed)
    count = 1 + max(body for joint in joints for body in joint.bodies)
    poses = [Pose.identity()] * count
    world = Pose.identity()
    if seed is not None:
        world = Pose.from_rotation_vector(random.normal(size=3), random.normal(size=3) * 100)
        poses = [Pose.from_rotation_vector(random.normal(size=3), random.normal(size=3) * 100) for _ in range(count)]
        joints = tuple(joints[k] for k in random.permutation(len(joints)))
    return Build(
        parts=(Part(id="body", name="Body", file=None, product=None),),
        instances=tuple(
            Instance(id=f"body-{k}", part="body", grounded=k == 0, pose=world @ pose) for k, pose in enumerate(poses)
        ),
        mates=tuple(_mate(f"m{k}", joint, poses) for k, joint in enumerate(joints)),
    )


def _mate(name: str, joint: Joint, poses: Sequence[Pose]) -> Mate:
    a, b = joint.bodies
    feature = _feature(joint)
    return Mate(
        id=name,
        kind="coincident" if joint.kind == "on a plane" else joint.kind,
        a=a,
        feature_a=feature.moved(poses[a].inverse()),
        b=b,
        feature_b=_other_side(joint, feature).moved(poses[b].inverse()),
        pitch=joint.pitch,
        sense="either",
        limits=joint.limits,
    )


def _feature(joint: Joint) -> Feature:
    at, along = np.array(joint.at, dtype=float), unit(joint.along)
    if joint.kind == "spherical":
        return PointFeature(at)
    if joint.kind in ("coincident", "on a plane"):
        return PlaneFeature(at, along)
    return make_frame(at, along, any_normal(along))


def _other_side(joint: Joint, feature: Feature) -> Feature:
    if joint.kind == "on a plane":
        return PointFeature(feature.point)
    return PlaneFeature(feature.point, -feature.normal) if isinstance(feature, PlaneFeature) else feature


def ungrounded(build: Build) -> Build:
    """Return the build with nothing grounded."""
    return replace(build, instances=tuple(replace(instance, grounded=False) for instance in build.instances))


def revolutes(*points: Xyz, along: Xyz = Z) -> tuple[Joint, ...]:
    """A closed ring of bodies joined by parallel revolutes at the points."""
    count = len(points)
    return tuple(
        Joint(kind="revolute", bodies=(k, (k + 1) % count), at=point, along=along) for k, point in enumerate(points)
    )


def four_bar() -> tuple[Joint, ...]:
    """Crank, coupler and rocker on a ground link."""
    return revolutes((0, 0, 0), (10, 20, 0), (60, 40, 0), (70, 0, 0))


def slider_crank() -> tuple[Joint, ...]:
    """Crank, rod and a slider along x."""
    return (
        *revolutes((0, 0, 0), (10, 20, 0), (70, 0, 0), (0, 0, 0))[:3],
        Joint(kind="prismatic", bodies=(0, 3), at=(70, 0, 0), along=X),
    )


def bennett(a: float = 30.0, alpha: float = math.radians(40), beta: float = math.radians(70)) -> tuple[Joint, ...]:
    """Four skew revolutes with opposite links alike and a / sin(alpha) = b / sin(beta)."""
    b = a * math.sin(beta) / math.sin(alpha)
    theta = 1.0
    # closure of Bennett's linkage: tan(theta/2) tan(phi/2) = sin((beta+alpha)/2) / sin((beta-alpha)/2)
    phi = 2 * math.atan(math.sin((beta + alpha) / 2) / math.sin((beta - alpha) / 2) / math.tan(theta / 2))
    frame, joints = np.eye(4), []
    for k, (length, twist, angle) in enumerate(
        ((a, alpha, theta), (b, beta, phi), (a, alpha, -theta), (b, beta, -phi))
    ):
        joints.append(Joint(kind="revolute", bodies=(k, (k + 1) % 4), at=frame[:3, 3], along=frame[:3, 2]))
        frame = frame @ _denavit_hartenberg(length, twist, angle)
    return tuple(joints)


def _denavit_hartenberg(length: float, twist: float, angle: float) -> np.ndarray:
    c, s, ct, st = math.cos(angle), math.sin(angle), math.cos(twist), math.sin(twist)
    return np.array(
        [[c, -s * ct, s * st, length * c], [s, c * ct, -c * st, length * s], [0, st, ct, 0], [0, 0, 0, 1.0]]
    )


def sarrus() -> tuple[Joint, ...]:
    """Two hinged chains at right angles keep a plate parallel to the ground: it rises straight."""
    one = [((0, 0, 0), X), ((0, 10, 15), X), ((0, 0, 30), X)]
    two = [((20, 20, 0), Y), ((30, 20, 15), Y), ((20, 20, 30), Y)]
    pairs = [(0, 1), (1, 2), (2, 5), (0, 3), (3, 4), (4, 5)]
    return tuple(
        Joint(kind="revolute", bodies=bodies, at=at, along=along)
        for bodies, (at, along) in zip(pairs, one + two, strict=True)
    )


def universal_joint() -> tuple[Joint, ...]:
    """Two shafts at 30 degrees and a cross: four axes through one point."""
    shaft = (math.cos(math.radians(30)), 0.0, math.sin(math.radians(30)))
    return tuple(
        Joint(kind="revolute", bodies=bodies, along=along)
        for bodies, along in (((0, 1), X), ((1, 2), Y), ((2, 3), (-shaft[2], 0, shaft[0])), ((3, 0), shaft))
    )


def oldham() -> tuple[Joint, ...]:
    """Two parallel shafts 5 mm apart, coupled by a disc that slides in both."""
    return (
        Joint(kind="revolute", bodies=(0, 1)),
        Joint(kind="prismatic", bodies=(1, 2), along=X),
        Joint(kind="prismatic", bodies=(2, 3), along=Y),
        Joint(kind="revolute", bodies=(3, 0), at=(5, 0, 0)),
    )


def scotch_yoke() -> tuple[Joint, ...]:
    """A crank pin in a slotted slide."""
    return (
        Joint(kind="revolute", bodies=(0, 1)),
        Joint(kind="revolute", bodies=(1, 2), at=(8, 6, 0)),
        Joint(kind="prismatic", bodies=(2, 3), at=(8, 6, 0), along=Y),
        Joint(kind="prismatic", bodies=(3, 0), at=(8, 0, 0), along=X),
    )


def stewart_platform() -> tuple[Joint, ...]:
    """Six legs, each ball - slide - ball, carry a plate (body 1)."""
    joints = []
    for leg in range(6):
        angle = math.radians(60 * leg + (8 if leg % 2 else -8))
        foot = np.array([50 * math.cos(angle), 50 * math.sin(angle), 0])
        angle = math.radians(60 * leg + (-20 if leg % 2 else 20))
        head = np.array([30 * math.cos(angle), 30 * math.sin(angle), 60])
        lower, upper = 2 + 2 * leg, 3 + 2 * leg
        joints += [
            Joint(kind="spherical", bodies=(0, lower), at=foot),
            Joint(kind="prismatic", bodies=(lower, upper), at=(foot + head) / 2, along=head - foot),
            Joint(kind="spherical", bodies=(upper, 1), at=head),
        ]
    return tuple(joints)


def rssr() -> tuple[Joint, ...]:
    """Two skew cranks and a rod with two balls, which may spin idly."""
    return (
        Joint(kind="revolute", bodies=(0, 1), along=X),
        Joint(kind="spherical", bodies=(1, 2), at=(0, 10, 10)),
        Joint(kind="spherical", bodies=(2, 3), at=(60, 30, 20)),
        Joint(kind="revolute", bodies=(3, 0), at=(60, 0, 0), along=Y),
    )


def parallelogram_with_extra_link() -> tuple[Joint, ...]:
    """Two parallel cranks, and a third that adds no constraint."""
    cranks = ((0, 0, 0), (30, 0, 0), (60, 0, 0))
    return tuple(
        joint
        for k, (x, y, z) in enumerate(cranks)
        for joint in (
            Joint(kind="revolute", bodies=(0, 1 + k), at=(x, y, z)),
            Joint(kind="revolute", bodies=(1 + k, 4), at=(x + 5, y + 20, z)),
        )
    )


def closed_triangle() -> tuple[Joint, ...]:
    """Three bars pinned to a triangle, one of them ground: a truss."""
    return revolutes((0, 0, 0), (40, 0, 0), (20, 30, 0))


def watt_six_bar() -> tuple[Joint, ...]:
    """A four-bar whose coupler and rocker carry two more links."""
    return (
        *four_bar(),
        Joint(kind="revolute", bodies=(2, 4), at=(30, 60, 0)),
        Joint(kind="revolute", bodies=(4, 5), at=(80, 70, 0)),
        Joint(kind="revolute", bodies=(5, 3), at=(90, 30, 0)),
    )


def five_bar() -> tuple[Joint, ...]:
    """Five links in a plane."""
    return revolutes((0, 0, 0), (-10, 30, 0), (25, 50, 0), (60, 30, 0), (50, 0, 0))


def block_on_three_faces() -> tuple[Joint, ...]:
    """Three flat contacts at right angles: 3 + 2 + 1."""
    return tuple(Joint(kind="coincident", bodies=(0, 1), along=along) for along in (X, Y, Z))


def arm(count: int = 6) -> tuple[Joint, ...]:
    """An open chain of revolutes in various directions."""
    directions = (Z, Y, Y, X, Y, X)
    return tuple(
        Joint(kind="revolute", bodies=(k, k + 1), at=(20.0 * k, 0, 5.0 * k), along=directions[k % 6])
        for k in range(count)
    )


def stephenson_six_bar() -> tuple[Joint, ...]:
    """A four-bar with two more links between its coupler and the ground."""
    more = (((2, 4), (30, 60, 0)), ((4, 5), (90, 70, 0)), ((5, 0), (110, 0, 0)))
    return (*four_bar(), *(Joint(kind="revolute", bodies=bodies, at=at) for bodies, at in more))


def quick_return() -> tuple[Joint, ...]:
    """A crank pin in a block that slides along a swinging lever."""
    return (
        Joint(kind="revolute", bodies=(0, 1)),
        Joint(kind="revolute", bodies=(1, 2), at=(10, 5, 0)),
        Joint(kind="prismatic", bodies=(2, 3), at=(10, 5, 0), along=(10, 35, 0)),
        Joint(kind="revolute", bodies=(3, 0), at=(0, -30, 0)),
    )


def elliptic_trammel() -> tuple[Joint, ...]:
    """A bar between two slides at right angles."""
    return (
        Joint(kind="prismatic", bodies=(0, 1), along=X),
        Joint(kind="prismatic", bodies=(0, 2), along=Y),
        Joint(kind="revolute", bodies=(1, 3), at=(30, 0, 0)),
        Joint(kind="revolute", bodies=(2, 3), at=(0, 40, 0)),
    )


def pantograph() -> tuple[Joint, ...]:
    """A parallelogram of four bars, one of them pivoted on the ground."""
    points = ((0, 0, 0), (20, 30, 0), (60, 30, 0), (40, 0, 0))
    ring = [Joint(kind="revolute", bodies=(1 + k, 1 + (k + 1) % 4), at=point) for k, point in enumerate(points)]
    return (Joint(kind="revolute", bodies=(0, 1), at=(-20, -30, 0)), *ring)


def scissor_lift() -> tuple[Joint, ...]:
    """Two stages of crossed bars, one foot pinned and one on a slide."""
    pins = (
        ((0, 1), (0, 0, 0)), ((5, 2), (40, 0, 0)), ((1, 2), (20, 15, 0)), ((1, 4), (40, 30, 0)),
        ((2, 3), (0, 30, 0)), ((3, 4), (20, 45, 0)),
    )  # fmt: skip
    slide = Joint(kind="prismatic", bodies=(0, 5), at=(40, 0, 0), along=X)
    return (slide, *(Joint(kind="revolute", bodies=bodies, at=at) for bodies, at in pins))


def planar_platform() -> tuple[Joint, ...]:
    """A plate in a plane on three legs of two links."""
    joints = []
    for leg in range(3):
        angle = math.radians(120 * leg)
        for k, (reach, shift) in enumerate(((60, 0.0), (45, 0.5), (15, 0.2))):
            at = (reach * math.cos(angle + shift), reach * math.sin(angle + shift), 0)
            bodies = ((0, 2 + 2 * leg), (2 + 2 * leg, 3 + 2 * leg), (3 + 2 * leg, 1))[k]
            joints.append(Joint(kind="revolute", bodies=bodies, at=at))
    return tuple(joints)


def spherical_platform() -> tuple[Joint, ...]:
    """A plate that turns about one point on three legs of two links, all nine axes through it."""
    joints = []
    for leg in range(3):
        for k, (turn, up) in enumerate(((0.0, 0.2), (0.7, 0.9), (1.1, -0.6))):
            angle = math.radians(120 * leg) + turn
            bodies = ((0, 2 + 2 * leg), (2 + 2 * leg, 3 + 2 * leg), (3 + 2 * leg, 1))[k]
            joints.append(Joint(kind="revolute", bodies=bodies, along=(math.cos(angle), math.sin(angle), up)))
    return tuple(joints)


def wedge() -> tuple[Joint, ...]:
    """Three slides in one plane."""
    return (
        Joint(kind="prismatic", bodies=(0, 1), along=X),
        Joint(kind="prismatic", bodies=(1, 2), at=(10, 10, 0), along=(1, 1, 0)),
        Joint(kind="prismatic", bodies=(2, 0), at=(20, 0, 0), along=Y),
    )


def skew_ring(*kinds: str, seed: int = 11) -> tuple[Joint, ...]:
    """A ring of joints on axes that have nothing in common."""
    random = np.random.default_rng(seed)
    count = len(kinds)
    return tuple(
        Joint(kind=kind, bodies=(k, (k + 1) % count), at=random.uniform(-50, 50, 3), along=random.normal(size=3))
        for k, kind in enumerate(kinds)
    )


def spherical_five_bar() -> tuple[Joint, ...]:
    """Five turning joints whose axes meet in one point."""
    axes = ((1, 0, 0.3), (0.6, 0.8, 0), (-0.2, 1, 0.4), (-0.9, 0.2, 0.7), (0.1, -1, 0.5))
    return tuple(Joint(kind="revolute", bodies=(k, (k + 1) % 5), along=along) for k, along in enumerate(axes))


def differential_screw() -> tuple[Joint, ...]:
    """Two threads of unlike pitch on one spindle, and a slide."""
    return (
        Joint(kind="screw", bodies=(0, 1), pitch=2.0),
        Joint(kind="screw", bodies=(1, 2), pitch=1.5),
        Joint(kind="prismatic", bodies=(2, 0), at=(30, 0, 0)),
    )


def door() -> tuple[Joint, ...]:
    """A door on two pivots of one axis."""
    return tuple(Joint(kind="revolute", bodies=(0, 1), at=(0, 0, height)) for height in (0, 60))


def ball_clamp() -> tuple[Joint, ...]:
    """Three balls: in a cone, in a groove that points to it, on a flat."""
    groove = np.array([40.0, 10, 0])
    across = np.cross(groove, Z)
    return (
        Joint(kind="spherical", bodies=(0, 1)),
        *(Joint(kind="on a plane", bodies=(0, 1), at=groove, along=unit(side * across) + Z) for side in (1, -1)),
        Joint(kind="on a plane", bodies=(0, 1), at=(10, 50, 0), along=Z),
    )


def straight_line_linkage() -> tuple[Joint, ...]:
    """Eight links of Peaucellier: a rhombus on two long arms, driven round a circle through their pivot."""
    long, side, radius = 60.0, 30.0, 25.0
    turn = 2 * math.acos(0.8)
    near = np.array([radius + radius * math.cos(turn), radius * math.sin(turn), 0])
    out, reach = unit(near), float(np.linalg.norm(near))
    middle = (long**2 - side**2 + reach**2) / (2 * reach)
    aside = math.sqrt(long**2 - middle**2) * np.cross(Z, out)
    left, right, far = middle * out + aside, middle * out - aside, (2 * middle - reach) * out
    pins = (
        ((0, 1), (radius, 0, 0)), ((0, 2), (0, 0, 0)), ((0, 3), (0, 0, 0)), ((1, 4), near), ((1, 5), near),
        ((2, 4), left), ((2, 6), left), ((3, 5), right), ((3, 7), right), ((6, 7), far),
    )  # fmt: skip
    return tuple(Joint(kind="revolute", bodies=bodies, at=at) for bodies, at in pins)


def double_universal_joint() -> tuple[Joint, ...]:
    """Two universal joints with a shaft between them that cannot grow."""
    first, between, last = unit((1, 0.3, 0)), np.array(X), unit((1, -0.2, 0.4))
    cross = unit(np.cross(first, (0, 0.4, 1)))
    other = unit((0, 1, 0.6))
    end = (50.0, 0, 0)
    axes = (
        ((0, 0, 0), first), ((0, 0, 0), cross), ((0, 0, 0), np.cross(between, cross)),
        (end, other), (end, np.cross(other, last)), (end, last),
    )  # fmt: skip
    return tuple(
        Joint(kind="revolute", bodies=(k, (k + 1) % 6), at=at, along=along) for k, (at, along) in enumerate(axes)
    )
