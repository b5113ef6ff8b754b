"""What is likely next: axes of nearly one size that are parallel, and copies in like holes, mated as the first."""

import pytest

from rigid_bench.core.bench import work
from rigid_bench.core.bench.documents import BenchState
from rigid_bench.core.bench.likely import like_places, likely_axes, likewise
from rigid_bench.core.values.errors import FormRejected
from tests.core.bench.mast import assembled, loose, mated
from tests.support.shapes import TOLERANCE

AT = ("x = -15.56, y = -15.56", "x = 15.56, y = -15.56", "x = -15.56, y = 15.56", "x = 15.56, y = 15.56")


def with_screw(*, is_in_line: bool) -> BenchState:
    state = work.place(assembled(), loose(), "screw")
    state = mated(state, ("mast-1", "top face, z = 8"), ("screw-1", "bottom face, z = 0"), "faces-meet")
    if not is_in_line:
        return state
    return mated(state, ("mast-1", f"Ø5.5 hole, {AT[0]}"), ("screw-1", "Ø5 round, x = 0, y = 0"), "share-an-axis")


def test_a_seated_screw_is_offered_the_holes_that_it_fits() -> None:
    offered = likely_axes(with_screw(is_in_line=False), loose(), "mast-1", "screw-1", tolerance=TOLERANCE)
    words = [mate.words for mate in offered]
    assert len(words) == 4
    assert all("Ø5 round" in text and "Ø5.5 hole" in text for text in words)
    assert {next(at for at in AT if at in text) for text in words} == set(AT)


def test_what_is_in_line_or_held_is_not_offered() -> None:
    state = with_screw(is_in_line=True)
    offered = likely_axes(state, loose(), "mast-1", "screw-1", tolerance=TOLERANCE)
    assert all(AT[0] not in mate.words for mate in offered)
    assert likely_axes(state, loose(), "base-1", "mast-1", tolerance=TOLERANCE) == [], "nothing is free between them"


def test_the_other_screws_go_into_the_like_holes_as_the_first() -> None:
    state = with_screw(is_in_line=True)
    assert len(like_places(state, loose(), "screw-1")) == 3
    after = likewise(state, loose(), "screw-1")
    screws = [own for own in after.placed if own.part == "screw"]
    assert len(screws) == 4
    assert len({tuple(round(value, 3) for value in own.position) for own in screws}) == 4
    assert {round(own.position[2], 6) for own in screws} == {20.0}
    answer = work.answer(after, tolerance=TOLERANCE)
    assert (answer.clashing, answer.redundant) == ((), ())
    assert [answer.instances[own.id].degrees for own in screws] == [1, 1, 1, 1]
    assert len({mate.id for mate in after.mates}) == len(after.mates)
    assert like_places(after, loose(), "screw-1") == []


def test_only_what_is_left_is_brought_in() -> None:
    state = work.place(with_screw(is_in_line=True), loose(), "screw")
    assert len(like_places(state, loose(), "screw-1")) == 2


def test_without_a_like_hole_it_is_refused() -> None:
    for name in ("collar-1", "base-1"):
        assert like_places(assembled(), loose(), name) == []
        with pytest.raises(FormRejected):
            likewise(assembled(), loose(), name)
    assert like_places(with_screw(is_in_line=False), loose(), "screw-1") == [], "its axis is not given yet"
