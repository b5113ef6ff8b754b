"""How far linked parts go until they meet something: closed formulas, and small steps with the kernel's volumes."""

import itertools
import math
from typing import Any

import pytest
from build123d import Box, Cylinder, Pos, Rot

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, interference, least_gap, place
from rigid_bench.core.assembly.freedom.analysis import Freedom, freedom
from rigid_bench.core.assembly.freedom.travel import follow
from rigid_bench.core.assembly.mates.relax import relax
from rigid_bench.core.assembly.motion import watch
from rigid_bench.core.assembly.motion.sweep import Stop, run
from rigid_bench.core.values.frames import Pose
from tests.support import mechanisms as m
from tests.support.shapes import TOLERANCE, features

pytestmark = pytest.mark.thorough

CRANK, ROD, TURNED = 20.0, 60.0, math.radians(40)
PIN = (CRANK * math.cos(TURNED), CRANK * math.sin(TURNED), 0.0)
END = (PIN[0] + math.sqrt(ROD**2 - PIN[1] ** 2), 0.0, 0.0)


def solids(*shapes: Any) -> dict[int, PlacedSolid]:
    return {k: place(f"i{k}", features(shape), Pose.identity()) for k, shape in enumerate(shapes)}


def bar(start: tuple[float, ...], end: tuple[float, ...], level: float) -> Any:
    dx, dy = end[0] - start[0], end[1] - start[1]
    middle = ((start[0] + end[0]) / 2, (start[1] + end[1]) / 2, level)
    return Pos(*middle) * Rot(0, 0, math.degrees(math.atan2(dy, dx))) * Box(math.hypot(dx, dy) + 8, 6, 4)


def crank_and_block(plate: Any) -> tuple[Freedom, dict[int, PlacedSolid]]:
    """A crank on a plate, a rod, and a block that slides on the plate, 20 mm long."""
    joints = (
        m.Joint(kind="revolute", bodies=(0, 1)),
        m.Joint(kind="revolute", bodies=(1, 2), at=PIN),
        m.Joint(kind="revolute", bodies=(2, 3), at=END),
        m.Joint(kind="prismatic", bodies=(0, 3), along=m.X, at=END),
    )
    block = Pos(END[0], 0, 5) * Box(20, 12, 10)
    parts = solids(plate, bar((0, 0), PIN, 15), bar(PIN, END, 20), block)
    return freedom(m.mechanism(*joints), tolerance=TOLERANCE), parts


FLOOR = Pos(40, 0, -2) * Box(200, 80, 4)


def turns(free: Freedom, parts: dict[int, PlacedSolid]) -> list[Stop]:
    (turn,) = free.motions(1)
    stops = [run(free, turn, 1, None, parts, way=way, tolerance=TOLERANCE) for way in (1, -1)]
    return stops if turn.direction[2] > 0 else stops[::-1]


def crank_angle(station: float) -> float:
    """Return the crank's angle, rad, at which the block is so far from the crank's axis (law of cosines)."""
    return math.acos((CRANK**2 + station**2 - ROD**2) / (2 * CRANK * station))


def test_the_block_stops_the_crank_where_it_meets_a_wall() -> None:
    wall = END[0] - 10 - 12.5  # before the block's face
    free, parts = crank_and_block(FLOOR + Pos(wall - 2, 0, 5) * Box(4, 20, 10))
    there, back = turns(free, parts)
    assert there.by == back.by == (0, 3)
    assert there.amount == pytest.approx(crank_angle(wall + 10) - TURNED, abs=1e-4)
    assert back.amount == pytest.approx(crank_angle(wall + 10) + TURNED, abs=1e-4)


def test_the_block_says_so_itself_and_goes_to_its_dead_point_the_other_way() -> None:
    free, parts = crank_and_block(FLOOR + Pos(END[0] - 10 - 12.5 - 2, 0, 5) * Box(4, 20, 10))
    (slide,) = free.motions(3)
    stops = {way: run(free, slide, 3, None, parts, way=way, tolerance=TOLERANCE) for way in (1, -1)}
    assert (stops[1].by, stops[-1].by) == (None, (0, 3))
    assert stops[1].amount == pytest.approx(CRANK + ROD - END[0], abs=1e-4)
    assert stops[-1].amount == pytest.approx(12.5, abs=1e-3)


def test_what_nothing_stops_comes_round_and_parts_on_other_levels_are_not_looked_at(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    def refuse(*_: object, **__: object) -> float:
        raise AssertionError("triangles were asked")

    monkeypatch.setattr(watch, "least_gap", refuse)
    there, back = turns(*crank_and_block(FLOOR))
    assert (there.by, back.by) == (None, None)
    assert there.amount == pytest.approx(2 * math.pi)
    assert back.amount == pytest.approx(2 * math.pi)


def test_parts_that_pass_through_each_other_from_the_beginning_are_let_by() -> None:
    free, parts = crank_and_block(FLOOR + Pos(*PIN[:2], 12) * Cylinder(2, 40))
    assert interference(parts[0], parts[2], tolerance=TOLERANCE) > 0
    assert [stop.by for stop in turns(free, parts)] == [None, None]


@pytest.mark.parametrize(("x", "y"), [(45.0, 22.0), (30.0, -14.0), (62.0, 9.0)])
def test_a_post_in_the_rods_way_stops_it_where_small_steps_first_find_them_in_each_other(x: float, y: float) -> None:
    crank, parts = crank_and_block(FLOOR + Pos(x, y, 10) * Cylinder(2, 28))
    (turn,) = crank.motions(1)
    for way in (1, -1):
        stop = run(crank, turn, 1, None, parts, way=way, tolerance=TOLERANCE)
        free, met = by_small_steps(crank, parts, way)
        assert stop.by == (None if met is None else (0, 2))
        assert free - 1e-3 <= stop.amount <= (met or 2 * math.pi) + 1e-6


def by_small_steps(crank: Freedom, parts: dict[int, PlacedSolid], way: int) -> tuple[float, float | None]:
    """Return after what turn all parts are still clear of each other, and after what some are not."""
    (turn,) = crank.motions(1)
    free = 0.0
    for step in follow(crank, turn, 1, None, way=way):
        poses = relax(crank.system, step.poses).poses
        for a, b in itertools.combinations(parts, 2):
            if least_gap(parts[a].part, poses[a], parts[b].part, poses[b], fine=True) == 0:
                one, two = (place("i", parts[k].part, poses[k]) for k in (a, b))
                if interference(one, two, tolerance=TOLERANCE) > 0:
                    return free, step.amount
        free = step.amount
    return free, None
