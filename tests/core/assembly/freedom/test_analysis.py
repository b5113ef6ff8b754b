"""Mobility against textbooks, motions against what they must be, and freedom from noise."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.values.datums import FrameFeature, make_frame
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance
from tests.support import mechanisms as m

TOLERANCE = Tolerance()

#: name, joints, mobility, source. All from memory of the named work.
TEXTBOOK = [
    ("four-bar", m.four_bar(), 1, "Norton, Design of Machinery, ch. 2"),
    ("slider-crank", m.slider_crank(), 1, "Norton, Design of Machinery, ch. 2"),
    ("bennett", m.bennett(), 1, "Bennett, A new mechanism, Engineering 76 (1903)"),
    ("sarrus", m.sarrus(), 1, "Sarrus, Comptes Rendus 36 (1853)"),
    ("universal joint", m.universal_joint(), 1, "Hunt, Kinematic Geometry of Mechanisms (1978)"),
    ("oldham", m.oldham(), 1, "Norton, Design of Machinery, ch. 2"),
    ("scotch yoke", m.scotch_yoke(), 1, "Norton, Design of Machinery, ch. 2"),
    ("stewart platform", m.stewart_platform(), 12, "Stewart (1965): six, and six legs that spin idly"),
    ("rssr", m.rssr(), 2, "Hartenberg and Denavit, Kinematic Synthesis (1964): one, and the idle rod"),
    ("parallelogram, extra link", m.parallelogram_with_extra_link(), 1, "Norton, Design of Machinery, ch. 2"),
    ("closed triangle", m.closed_triangle(), 0, "Norton, Design of Machinery, ch. 2"),
    ("watt six-bar", m.watt_six_bar(), 1, "Norton, Design of Machinery, ch. 2"),
    ("five-bar", m.five_bar(), 2, "Norton, Design of Machinery, ch. 2"),
    ("three flat faces", m.block_on_three_faces(), 0, "3-2-1 location, common practice, no source"),
    ("stephenson six-bar", m.stephenson_six_bar(), 1, "Norton, Design of Machinery, ch. 2"),
    ("quick return", m.quick_return(), 1, "Norton, Design of Machinery, ch. 2"),
    ("elliptic trammel", m.elliptic_trammel(), 1, "Hartenberg and Denavit, Kinematic Synthesis (1964)"),
    ("pantograph", m.pantograph(), 2, "Hartenberg and Denavit, Kinematic Synthesis (1964)"),
    ("scissor lift", m.scissor_lift(), 1, "Norton, Design of Machinery, ch. 2"),
    ("3-RRR in a plane", m.planar_platform(), 3, "Merlet, Parallel Robots (2006), ch. 2"),
    ("3-RRR about a point", m.spherical_platform(), 3, "Gosselin and Angeles, J. Mech. Transm. 111 (1989)"),
    ("wedge", m.wedge(), 1, "Hunt, Kinematic Geometry of Mechanisms (1978)"),
    ("RCCC", m.skew_ring("revolute", *["cylindrical"] * 3), 1, "Hunt, Kinematic Geometry of Mechanisms (1978)"),
    ("7R", m.skew_ring(*["revolute"] * 7), 1, "Hunt, Kinematic Geometry of Mechanisms (1978)"),
    ("6R", m.skew_ring(*["revolute"] * 6), 0, "Hunt, Kinematic Geometry of Mechanisms (1978)"),
    ("spherical five-bar", m.spherical_five_bar(), 2, "Chiang, Kinematics of Spherical Mechanisms (1988)"),
    ("differential screw", m.differential_screw(), 1, "Hunt, Kinematic Geometry of Mechanisms (1978)"),
    ("door on two pivots", m.door(), 1, "Blanding, Exact Constraint (1999)"),
    ("three balls", m.ball_clamp(), 0, "Blanding, Exact Constraint (1999): Kelvin's clamp"),
    ("peaucellier", m.straight_line_linkage(), 1, "Hartenberg and Denavit, Kinematic Synthesis (1964)"),
    ("double universal joint", m.double_universal_joint(), 1, "Hunt, Kinematic Geometry of Mechanisms (1978)"),
    ("six-axis arm", m.arm(6), 6, "Chebychev-Gruebler-Kutzbach: one per revolute of an open chain"),
]

#: The kinematic pairs of ISO 10303-105 and the freedom that each leaves.
PAIRS = [
    ("fixed", 0),
    ("revolute", 1),
    ("prismatic", 1),
    ("screw", 1),
    ("cylindrical", 2),
    ("planar", 3),
    ("spherical", 3),
]


def solved(*joints: m.Joint, seed: int | None = None) -> Freedom:
    return freedom(m.mechanism(*joints, seed=seed), tolerance=TOLERANCE)


@pytest.mark.parametrize(("joints", "mobility"), [row[1:3] for row in TEXTBOOK], ids=[row[0] for row in TEXTBOOK])
@pytest.mark.parametrize("seed", [None, 1, 2])
def test_mobility_is_the_textbooks(joints: tuple[m.Joint, ...], mobility: int, seed: int | None) -> None:
    freedom = solved(*joints, seed=seed)
    assert freedom.mobility == mobility
    assert not freedom.conflicts


@pytest.mark.parametrize("scale", [0.01, 1.0, 100.0])
@pytest.mark.parametrize("row", TEXTBOOK, ids=[row[0] for row in TEXTBOOK])
def test_neither_size_nor_a_part_far_away_changes_the_answer(
    row: tuple[str, tuple[m.Joint, ...], int, str], scale: float
) -> None:
    joints = [replace(joint, at=tuple(scale * np.array(joint.at, dtype=float))) for joint in row[1]]
    bodies = 1 + max(body for joint in joints for body in joint.bodies)
    far = m.Joint(kind="revolute", bodies=(0, bodies), at=(1e5, 1e5, 0))
    assert solved(*joints, seed=7).mobility == row[2]
    assert solved(*joints, far, seed=8).mobility == row[2] + 1


@pytest.mark.parametrize(("kind", "left"), PAIRS)
def test_a_pair_leaves_its_own_freedom(kind: str, left: int) -> None:
    freedom = solved(m.Joint(kind=kind, bodies=(0, 1), at=(5, 6, 7), pitch=2.0), seed=3)
    assert (freedom.mobility, freedom.equations) == (left, 6 + 6 - left)


def test_counting_mates_would_be_wrong_for_bennett() -> None:
    freedom = solved(*m.bennett())
    assert 6 * len(freedom.poses) - freedom.equations == -2
    assert freedom.mobility == 1


def test_counting_mates_is_wrong_for_most_loops() -> None:
    assert len(TEXTBOOK) >= 25
    wrong = {name for name, joints, mobility, _ in TEXTBOOK if mobility != _counted(joints)}
    assert {"bennett", "sarrus", "wedge", "3-RRR about a point", "door on two pivots", "peaucellier"} <= wrong
    assert not {"RCCC", "7R", "6R", "stewart platform", "six-axis arm"} & wrong


def _counted(joints: tuple[m.Joint, ...]) -> int:
    """Chebychev-Gruebler-Kutzbach in space: six a body, less what each joint holds."""
    holds = {"revolute": 5, "prismatic": 5, "screw": 5, "cylindrical": 4, "spherical": 3, "coincident": 3}
    bodies = max(body for joint in joints for body in joint.bodies)
    return 6 * bodies - sum(holds.get(joint.kind, 1) for joint in joints)


def test_nothing_grounded_counts_the_common_motions() -> None:
    build = m.ungrounded(m.mechanism(*m.four_bar(), seed=4))
    assert freedom(build, tolerance=TOLERANCE).mobility == 7


def test_the_third_face_that_adds_nothing_is_redundant() -> None:
    joints = (*m.block_on_three_faces(), m.Joint(kind="coincident", bodies=(0, 1), at=(9, 9, 0), along=m.Z))
    assert solved(*joints).redundant_mates == ("m3",)


def test_motions_are_named() -> None:
    (turn,) = solved(*m.slider_crank()).motions(1)
    (slide,) = solved(*m.slider_crank()).motions(3)
    assert (turn.kind, slide.kind) == ("rotation", "translation")
    np.testing.assert_allclose(turn.point, [0, 0, 0], atol=1e-9)
    np.testing.assert_allclose(slide.direction, [1, 0, 0], atol=1e-9)


def test_a_screw_is_named_with_its_pitch() -> None:
    (motion,) = solved(m.Joint(kind="screw", bodies=(0, 1), at=(3, 4, 0), pitch=1.25)).motions(1)
    assert motion.kind == "screw"
    assert motion.pitch == pytest.approx(1.25)


def test_a_universal_joint_turns_about_two_axes() -> None:
    motions = solved(*m.universal_joint()[:2]).motions(2)
    assert [motion.kind for motion in motions] == ["rotation", "rotation"]


def test_freedom_between_two_moving_parts() -> None:
    freedom = solved(*m.slider_crank())
    assert [motion.kind for motion in freedom.motions(2, 3)] == ["rotation"]


def test_a_motion_that_does_not_carry_on_is_marked() -> None:
    """Three collinear pins: the middle one can move to first order only (Hunt 1978)."""
    flat = m.revolutes((0, 0, 0), (20, 0, 0), (50, 0, 0))
    motions = solved(*flat).motions(1)
    assert [motion.finite for motion in motions] == [False]


def test_export_noise_is_no_constraint() -> None:
    """A four-bar whose axes are tilted by 1e-7 rad still moves."""
    build = m.mechanism(*m.four_bar(), seed=5)
    random = np.random.default_rng(6)
    mates = []
    for mate in build.mates:
        assert isinstance(mate.feature_b, FrameFeature)
        z = mate.feature_b.direction + random.normal(size=3) * 1e-7
        mates.append(replace(mate, feature_b=make_frame(mate.feature_b.point + 3e-6, z, mate.feature_b.x)))
    assert freedom(replace(build, mates=tuple(mates)), tolerance=TOLERANCE).mobility == 1


def test_a_mate_that_does_not_hold_is_a_conflict() -> None:
    build = m.mechanism(m.Joint(kind="coincident", bodies=(0, 1)))
    moved = replace(build.instances[1], pose=Pose(np.eye(3), np.array([0, 0, 0.5])))
    free = freedom(replace(build, instances=(build.instances[0], moved)), tolerance=TOLERANCE)
    (conflict,) = free.conflicts
    assert (conflict.mate, conflict.residual.mm) == ("m0", 0.5)


def test_an_empty_build_is_free() -> None:
    build = replace(m.mechanism(m.Joint(kind="fixed", bodies=(0, 1))), mates=())
    assert freedom(build, tolerance=TOLERANCE).mobility == 6


@given(
    kinds=st.lists(st.sampled_from(PAIRS), min_size=1, max_size=5),
    seed=st.integers(0, 10_000),
    size=st.sampled_from([0.5, 20.0, 5000.0]),
)
def test_an_open_chain_has_the_sum_of_its_joints(kinds: list[tuple[str, int]], seed: int, size: float) -> None:
    """Chebychev-Gruebler-Kutzbach: no loop, no redundancy; whatever the size and pose."""
    random = np.random.default_rng(seed)
    joints = [
        m.Joint(kind=kind, bodies=(k, k + 1), at=random.normal(size=3) * size, along=random.normal(size=3), pitch=size)
        for k, (kind, _) in enumerate(kinds)
    ]
    assert solved(*joints, seed=seed).mobility == sum(left for _, left in kinds)


@pytest.mark.parametrize("count", [7, 8])
@pytest.mark.parametrize("seed", range(12))
def test_a_loop_of_seven_turns_and_more_moves_and_carries_on(count: int, seed: int) -> None:
    """A spatial loop has the freedom of its joints less six (Hunt, Kinematic Geometry, 1978, from memory)."""
    loop = solved(*m.skew_ring(*["revolute"] * count, seed=seed))
    assert loop.mobility == count - 6
    assert all(motion.finite for index in range(1, count) for motion in loop.motions(index))
