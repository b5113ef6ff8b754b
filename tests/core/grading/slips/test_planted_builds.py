"""Builds of a stand with one slip of mating each: the check that tells it falls, with its cause, and no other."""

from functools import cache

import pytest

from benchmarks.planted_builds import BUILDS, PlantedBuild, tried
from benchmarks.stand import exercise

pytestmark = pytest.mark.thorough

exercise_once = cache(exercise)


@pytest.mark.parametrize("build", BUILDS, ids=lambda build: build.name)
def test_one_slip_is_told_once(build: PlantedBuild) -> None:
    fallen, is_right, is_named = tried(exercise_once(), build)
    assert (is_right, is_named) == (True, True), fallen
