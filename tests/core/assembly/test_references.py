"""Mobility, ranks and positions against outside references: SymPy, MuJoCo, and closed formulas."""

import math
from collections.abc import Callable, Sequence
from xml.etree import ElementTree as ET

import mujoco  # type: ignore[import-untyped]  # it ships no types
import numpy as np
import pytest
import sympy  # type: ignore[import-untyped]  # it ships no types
from numpy.typing import NDArray

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.freedom.travel import follow
from rigid_bench.core.values.frames import unit
from tests.support import mechanisms as m
from tests.support.shapes import TOLERANCE

_Array = NDArray[np.float64]

#: Mechanisms whose points are whole numbers and whose axes are those of the world: ranks are exact in fractions.
EXACT = [
    m.four_bar, m.slider_crank, m.five_bar, m.watt_six_bar, m.stephenson_six_bar, m.closed_triangle, m.pantograph,
    m.parallelogram_with_extra_link, m.scissor_lift, m.elliptic_trammel, m.sarrus, m.oldham, m.scotch_yoke, m.door,
]  # fmt: skip


@pytest.mark.parametrize("joints", EXACT, ids=[joint_family.__name__ for joint_family in EXACT])
def test_the_rank_is_the_exact_one(joints: Callable[[], tuple[m.Joint, ...]]) -> None:
    """SymPy works out the rank in fractions; nothing there is rounded."""
    drawn = joints()
    bodies = 1 + max(body for joint in drawn for body in joint.bodies)
    exact = sympy.Matrix.vstack(*[_exact_rows(joint, bodies) for joint in drawn]).rank()
    assert freedom(m.mechanism(*drawn, seed=5), tolerance=TOLERANCE).rank == 6 + exact


def _exact_rows(joint: m.Joint, bodies: int) -> sympy.Matrix:
    """Rows of a revolute or prismatic joint on the twists of the moving bodies, in fractions."""
    axis = sympy.Matrix([int(value) for value in joint.along])
    point = sympy.Matrix([sympy.Rational(str(float(value))) for value in joint.at])
    across = [sympy.Matrix([int(k == j) for j in range(3)]) for k in range(3) if axis[k] == 0]
    turning = [sympy.Matrix.hstack(vector.T, sympy.zeros(1, 3)) for vector in across]
    if joint.kind == "prismatic":
        turning.append(sympy.Matrix.hstack(axis.T, sympy.zeros(1, 3)))
    ways = across if joint.kind == "prismatic" else [*across, axis]
    # the velocity of the joint's point along w: w . v + (point x w) . omega
    shifting = [sympy.Matrix.hstack(point.cross(way).T, way.T) for way in ways]
    own = sympy.Matrix.vstack(*turning, *shifting)
    whole = sympy.zeros(own.rows, 6 * (bodies - 1))
    for body, sign in zip(joint.bodies, (-1, 1), strict=True):
        if body:
            whole[:, 6 * (body - 1) : 6 * body] += sign * own
    return whole


#: Mechanisms that hinges, slides and balls express, their loops closed by points of hinges.
SIMULATED = [
    *EXACT, m.bennett, m.universal_joint, m.stewart_platform, m.rssr, m.quick_return, m.planar_platform,
    m.spherical_platform, m.spherical_five_bar, m.straight_line_linkage, m.double_universal_joint, m.arm,
    lambda: m.skew_ring(*["revolute"] * 7),
]  # fmt: skip


@pytest.mark.parametrize("joints", SIMULATED, ids=[joint_family.__name__ for joint_family in SIMULATED])
def test_mobility_is_that_of_a_simulator(joints: Callable[[], tuple[m.Joint, ...]]) -> None:
    """In MuJoCo: velocities less the rank of the loop equations."""
    drawn = joints()
    model = mujoco.MjModel.from_xml_string(_as_xml(drawn))
    data = mujoco.MjData(model)
    mujoco.mj_forward(model, data)
    rows = np.array(data.efc_J).ravel()[: data.nefc * model.nv].reshape(-1, model.nv)  # the rest of it is left over
    rank = int(np.sum(np.linalg.svd(rows / np.maximum(np.abs(rows).max(initial=1e-9), 1e-9), compute_uv=False) > 1e-7))
    assert freedom(m.mechanism(*drawn, seed=9), tolerance=TOLERANCE).mobility == model.nv - rank


_KINDS = {"revolute": "hinge", "prismatic": "slide", "spherical": "ball"}


def _as_xml(joints: Sequence[m.Joint]) -> str:
    """Write a mechanism for the simulator: a tree of bodies, all drawn at the origin, and closures of its loops."""
    root = ET.Element("mujoco")
    ET.SubElement(root, "option", jacobian="dense")
    elements, closures = {0: ET.SubElement(root, "worldbody")}, ET.SubElement(root, "equality")
    waiting = sorted(joints, key=lambda joint: joint.kind == "revolute")  # only hinges and balls close loops
    while fitting := [joint for joint in waiting if any(body in elements for body in joint.bodies)]:
        joint = next((joint for joint in fitting if not all(body in elements for body in joint.bodies)), None)
        if joint is None:
            break
        waiting.remove(joint)
        old, new = sorted(joint.bodies, key=lambda body: body not in elements)
        elements[new] = ET.SubElement(elements[old], "body", name=f"b{new}")
        fields = {"type": _KINDS[joint.kind], "pos": _text(joint.at)}
        if joint.kind != "spherical":
            fields["axis"] = _text(joint.along)
        ET.SubElement(elements[new], "joint", fields)
        ET.SubElement(elements[new], "geom", size="1", contype="0", conaffinity="0", pos=_text(joint.at))
    for joint in waiting:
        assert joint.kind != "prismatic"
        points = [np.array(joint.at, dtype=float)]
        if joint.kind == "revolute":
            points.append(points[0] + 20 * unit(joint.along))
        for point in points:
            one, two = (f"b{body}" if body else "world" for body in sorted(joint.bodies, reverse=True))
            ET.SubElement(closures, "connect", body1=one, body2=two, anchor=_text(point))
    return ET.tostring(root, encoding="unicode")


def _text(vector: m.Xyz) -> str:
    return " ".join(repr(float(value)) for value in vector)


def test_positions_along_a_motion_are_those_of_a_simulator() -> None:
    """The second joint of an arm turns: the simulator's forward kinematics say where its last link goes."""
    drawn = m.arm(4)
    free = freedom(m.mechanism(*drawn), tolerance=TOLERANCE)
    (turn,) = free.motions(2, 1)
    model = mujoco.MjModel.from_xml_string(_as_xml(drawn))
    data = mujoco.MjData(model)
    for count, step in enumerate(follow(free, turn, 2, 1)):
        data.qpos[:] = 0.0
        data.qpos[1] = step.amount * float(turn.direction @ np.array(drawn[1].along))
        mujoco.mj_kinematics(model, data)
        relative = step.poses[1].inverse() @ step.poses[2]
        np.testing.assert_allclose(relative.rotation, data.xmat[2].reshape(3, 3), atol=1e-9)
        np.testing.assert_allclose(relative.position, data.xpos[2], atol=1e-4)
        if count == 40:
            break


def test_a_coupler_point_follows_its_closed_formula() -> None:
    """The circle-circle solution of a four-bar: Norton, Design of Machinery, ch. 4, from memory."""
    crank, coupler, rocker = (math.hypot(10, 20), math.hypot(50, 20), math.hypot(10, 40))
    free = freedom(m.mechanism(*m.four_bar()), tolerance=TOLERANCE)
    (turn,) = free.motions(1)
    start, point = math.atan2(20, 10), np.array([30.0, 60, 0])
    for step in follow(free, turn, 1, None):
        angle = start + step.amount * float(turn.direction[2])
        pin = crank * np.array([math.cos(angle), math.sin(angle)])
        wanted = _coupler_point(pin, coupler, rocker, point[:2])
        # exact at the ends of legs, and a cubic between them
        np.testing.assert_allclose(step.poses[2].point(point)[:2], wanted, atol=5e-4 * coupler)
    assert step.amount == pytest.approx(2 * math.pi)  # the crank goes round


def _coupler_point(pin: _Array, coupler: float, rocker: float, drawn: _Array) -> _Array:
    """Where a point of the coupler, drawn while its pins are at (10, 20) and (60, 40), is now."""
    ground = np.array([70.0, 0.0])
    apart = ground - pin
    reach = float(np.linalg.norm(apart))
    along = (reach**2 + coupler**2 - rocker**2) / (2 * reach)
    aside = math.sqrt(coupler**2 - along**2)
    other = pin + along * apart / reach + aside * np.array([-apart[1], apart[0]]) / reach
    before, now = np.array([50.0, 20.0]), other - pin
    turn = math.atan2(now[1], now[0]) - math.atan2(before[1], before[0])
    c, s = math.cos(turn), math.sin(turn)
    place: _Array = pin + np.array([[c, -s], [s, c]]) @ (drawn - np.array([10.0, 20.0]))
    return place
