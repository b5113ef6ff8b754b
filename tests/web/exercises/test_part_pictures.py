"""Small pictures of parts are drawn once for a version, and so many versions are remembered at most."""

from typing import Any, cast

import pytest

from rigid_bench.demo.graded import read_graded
from rigid_bench.store.tables import ExerciseVersion
from rigid_bench.web.figures import part_pictures as remembered
from rigid_bench.web.figures.part_pictures import part_pictures
from rigid_bench.web.figures.views import thumbnails


class Version:
    """What is asked of a version; `read` counts how often what was prepared was."""

    def __init__(self, digest: str) -> None:
        self.digest, self.read = digest, 0

    @property
    def prepared(self) -> dict[str, Any]:
        self.read += 1
        return read_graded()[1].prepared

    def pictures(self) -> dict[str, Any]:
        return part_pictures(cast("ExerciseVersion", self))


@pytest.fixture(autouse=True)
def nothing_remembered() -> None:
    remembered._drawn.clear()


def test_the_same_version_is_drawn_once() -> None:
    version = Version("one")
    first, again = version.pictures(), version.pictures()
    assert (version.read, again is first) == (1, True)
    assert first == thumbnails(version.prepared)


def test_the_version_that_was_asked_for_longest_ago_is_forgotten_first(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(remembered, "_MOST", 2)
    one, two, three = (Version(digest) for digest in ("one", "two", "three"))
    for version in (one, two, one, three, one, two):
        version.pictures()
    assert (one.read, two.read, three.read) == (1, 2, 1)
