"""Contacts from geometry alone: which faces meet or are level, which round bodies sit in which holes."""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from build123d import Box, Cylinder, Pos

from rigid_bench.core.assembly.contact.contacts import Contact, contact_build, find_contacts
from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.formats.build import Instance
from rigid_bench.core.values.frames import Pose
from tests.support.shapes import TOLERANCE, features

WORLD = Pose.from_rotation_vector([0.3, -0.8, 0.5], [70, -20, 11])


def placed(*solids: tuple[Any, tuple[float, float, float]], turned: bool = True) -> list[tuple[Any, Pose]]:
    world = WORLD if turned else Pose.identity()
    return [(features(solid), world @ Pose(np.eye(3), np.array(at, dtype=float))) for solid, at in solids]


def contacts(*solids: tuple[Any, tuple[float, float, float]]) -> list[Contact]:
    return find_contacts(placed(*solids), tolerance=TOLERANCE)


def kinds(contacts: list[Contact]) -> list[tuple[str, float]]:
    return sorted((contact.kind, round(contact.gap_mm, 6)) for contact in contacts)


BLOCK = Box(20, 20, 10)


@pytest.mark.parametrize(
    ("at", "expected"),
    [
        ((0, 0, 10), [("level", 0.0)] * 4 + [("meet", 0.0)]),
        ((3, 4, 10), [("meet", 0.0)]),
        ((3, 4, 10.4), [("meet", 0.4)]),
        ((20, 20, 10), []),  # corner to corner: no area in common
        ((3, 4, 11.2), []),
        ((20, 3, 0), [("level", 0.0)] * 2 + [("meet", 0.0)]),
    ],
)
def test_faces_of_two_blocks(at: tuple[float, float, float], expected: list[tuple[str, float]]) -> None:
    assert kinds(contacts((BLOCK, (0, 0, 0)), (BLOCK, at))) == sorted(expected)


def test_crossed_bars_meet_although_no_corner_lies_on_the_other() -> None:
    touching = contacts((Box(80, 8, 6), (0, 0, 0)), (Box(8, 80, 6), (0, 0, 6)))
    assert kinds(touching) == [("meet", 0.0)]


def test_a_ring_of_faces_that_meet_only_in_the_hole_does_not_count() -> None:
    plate = Box(40, 40, 6) - Cylinder(12, 20)
    assert kinds(contacts((plate, (0, 0, 0)), (Box(6, 6, 6), (0, 0, 6)))) == []


@pytest.mark.parametrize(("pin", "gap"), [(7.8, 0.1), (8.0, 0.0), (8.1, -0.05)])
def test_a_pin_in_a_bore(pin: float, gap: float) -> None:
    touching = contacts((BLOCK - Cylinder(4, 30), (0, 0, 0)), (Cylinder(pin / 2, 14), (0, 0, 1)))
    assert kinds(touching) == [("seated", gap)]


def test_bores_in_line_are_found_and_a_far_pin_is_not() -> None:
    bored = BLOCK - Cylinder(4, 30)
    assert ("in line", 0.0) in kinds(contacts((bored, (0, 0, 0)), (bored, (0, 0, 10))))
    assert kinds(contacts((bored, (0, 0, 0)), (Cylinder(3.9, 14), (0, 0, 40)))) == []


def test_a_contact_is_a_mate_that_holds() -> None:
    own = placed((BLOCK - Cylinder(4, 30), (0, 0, 0)), (BLOCK + Pos(0, 0, -8) * Cylinder(3.9, 10), (0, 0, 10)))
    contacts = find_contacts(own, tolerance=TOLERANCE)
    instances = [Instance(id=f"i{k}", part="p", grounded=k == 0, pose=pose) for k, (_, pose) in enumerate(own)]
    build = contact_build(instances, contacts)
    answer = freedom(
        replace(build, mates=tuple(contact.mate(f"m{k}") for k, contact in enumerate(contacts))), tolerance=TOLERANCE
    )
    assert not answer.conflicts
    assert freedom(build, tolerance=TOLERANCE).mobility == 1  # it spins on its peg


@pytest.mark.parametrize(("is_against", "mobility"), [(False, 1), (True, 3)])
def test_walls_on_both_sides_guide_a_slide_and_a_floor_alone_only_holds_against(
    is_against: bool, mobility: int
) -> None:
    """A block between two walls, 0.3 mm from each, on a floor."""
    channel = Pos(0, 0, -5) * Box(60, 30, 10) + [Pos(0, side * 12.8, 5) * Box(60, 5, 10) for side in (1, -1)]
    own = placed((channel, (0, 0, 0)), (BLOCK, (0, 0, 5)))
    instances = [Instance(id=f"i{k}", part="p", grounded=k == 0, pose=pose) for k, (_, pose) in enumerate(own)]
    build = contact_build(instances, find_contacts(own, tolerance=TOLERANCE), is_against=is_against)
    assert freedom(build, tolerance=TOLERANCE).mobility == mobility
