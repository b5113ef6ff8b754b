"""Suggestions: mates that parts look as if they had where they stand."""

import pytest

from rigid_bench.core.bench import mating, work
from rigid_bench.core.bench.documents import BenchState, Suggestion
from rigid_bench.core.bench.suggest import suggest
from rigid_bench.core.kernel.meshes.collision_meshes import unpack_collision_meshes
from rigid_bench.demo import seed_drawer
from tests.core.bench.mast import assembled, collision_meshes, loose, mated, submitted
from tests.support.shapes import TOLERANCE


def seen(state: BenchState) -> list[Suggestion]:
    """What the weather mast's parts suggest."""
    return suggest(state, loose(), collision_meshes(), work.answer(state, tolerance=TOLERANCE), tolerance=TOLERANCE)


def test_a_positioned_model_becomes_a_declared_build() -> None:
    laid_out = submitted(seed_drawer)
    parts = laid_out.parts
    base = next(instance for instance in parts.placed if instance.part == "housing")
    state = work.ground(BenchState(placed=parts.placed), base.id)
    assert {instance.part for instance in state.placed} == {"housing", "drawer", "knob"}
    answer = work.answer(state, tolerance=TOLERANCE)
    suggestions = suggest(state, parts, unpack_collision_meshes(laid_out.collision_meshes), answer, tolerance=TOLERANCE)
    assert suggestions
    for number, suggestion in enumerate(suggestions):
        mate = suggestion.mate.model_copy(update={"id": f"m{number}"})
        state = mating.with_mate(state, mate, tolerance=TOLERANCE)
    assert [instance.position for instance in state.placed] == [
        pytest.approx(instance.position, abs=1e-6) for instance in parts.placed
    ]
    answer = work.answer(state, tolerance=TOLERANCE)
    assert not answer.clashing
    assert answer.mobility < 12
    again = suggest(state, parts, unpack_collision_meshes(laid_out.collision_meshes), answer, tolerance=TOLERANCE)
    assert not {suggestion.words for suggestion in again} & {suggestion.words for suggestion in suggestions}


def test_they_come_from_where_parts_stand_now_and_go_once_they_are_held() -> None:
    apart = work.place(work.ground(work.place(BenchState(), loose(), "base"), "base-1"), loose(), "mast")
    assert seen(apart) == []
    over = mated(apart, ("base-1", "Ø4 hole, x = 22, y = 0"), ("mast-1", "Ø4 hole, x = 22, y = 0"), "share-an-axis")
    met = mated(over, ("base-1", "top face, z = 12"), ("mast-1", "bottom face, z = 0"), "faces-meet")
    assert {suggestion.words for suggestion in seen(met)} == {
        "share an axis: Base and Mast"
    }  # of the other holes in line
    assert {suggestion.words for suggestion in seen(work.unmate(met, "m2"))} == {
        "faces meet: Base and Mast",
        "share an axis: Base and Mast",
    }
    pinned = mated(
        work.place(met, loose(), "dowel"),
        ("base-1", "Ø4 hole, x = 22, y = 0"),
        ("dowel-1", "Ø4 round, x = 0, y = 0"),
        "share-an-axis",
    )
    # nor what the mates that there are hold already
    assert not any(
        "Dowel" in suggestion.words for suggestion in seen(pinned) if suggestion.words.startswith("share an axis")
    )
    words = [suggestion.words for suggestion in seen(work.unmate(pinned, "m3"))]
    assert "share an axis: Dowel (1) in Base, Ø4 in Ø4, no room" in words


def test_parts_that_are_held_to_each_other_suggest_nothing() -> None:
    words = [suggestion.words for suggestion in seen(assembled())]
    assert not any("Base" in word and "Mast" in word for word in words)
