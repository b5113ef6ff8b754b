"""Mating two features: what they can do, which part comes, turned how, and what cannot be."""

import pytest

from rigid_bench.core.bench import mating, work
from rigid_bench.core.bench.documents import BenchState
from rigid_bench.core.values.errors import FormRejected
from tests.core.bench.mast import assembled, at, loose, mated
from tests.support.shapes import TOLERANCE


def test_the_part_that_stands_stays_and_the_other_comes() -> None:
    state = assembled()
    mast, vane = state.instance("mast-1"), state.instance("vane-1")
    assert mast
    assert vane
    assert mast.position == pytest.approx([0, 0, 12], abs=1e-6)
    collar = state.instance("collar-1")
    assert collar
    assert vane.position[2] - collar.position[2] == pytest.approx(20, abs=1e-6)


def test_what_two_features_can_do_begins_with_the_nearest() -> None:
    state, parts = assembled(), loose()
    top, under = at(parts, "base-1", "top face, z = 12"), at(parts, "mast-1", "bottom face, z = 0")
    for other, nearest in (
        (under, "faces-meet"),
        (at(parts, "mast-1", "top face, z = 8"), "faces-level"),
        (at(parts, "mast-1", "Ø20 round, x = 0, y = 0"), "touch"),
    ):
        assert mating.applicable_mates(state, parts, top, other)[0][0].id == nearest
    assert mating.applicable_mates(state, parts, top, at(parts, "base-1", "bottom face, z = 0")) == []
    with pytest.raises(FormRejected):
        mating.mate(state, parts, mating.MateRequest(a=top, b=under, doing="share-an-axis"), tolerance=TOLERANCE)
    with pytest.raises(FormRejected):
        mating.mate(state, parts, mating.MateRequest(a="base-1:999", b=under, doing="faces-meet"), tolerance=TOLERANCE)


def test_a_flip_turns_it_over_and_a_gap_keeps_its_value() -> None:
    parts = loose()
    state = work.place(work.ground(work.place(BenchState(), parts, "base"), "base-1"), parts, "collar")
    a, b = ("base-1", "top face, z = 12"), ("collar-1", "bottom face, z = 0")
    met, over = mated(state, a, b, "faces-meet"), mated(state, a, b, "faces-meet", is_flipped=True)
    for placed, way in ((met, 1.0), (over, -1.0)):
        collar = placed.instance("collar-1")
        assert collar
        assert collar.pose.direction([0, 0, 1])[2] == pytest.approx(way)
    gap = mated(state, a, b, "keep-a-gap", value=2.5).instance("collar-1")
    assert gap
    assert gap.position[2] == pytest.approx(14.5)


def test_a_mate_that_clashes_is_kept_and_named_and_nothing_moves() -> None:
    state = assembled()
    clash = mated(state, ("base-1", "top face, z = 12"), ("mast-1", "top face, z = 8"), "faces-level")
    assert [instance.position for instance in clash.placed] == [instance.position for instance in state.placed]
    assert work.answer(clash, tolerance=TOLERANCE).clashing == ("m7",)
    back = work.unmate(clash, "m7")
    assert back == state
    again = mated(state, ("base-1", "top face, z = 12"), ("mast-1", "bottom face, z = 0"), "faces-meet")
    assert work.answer(again, tolerance=TOLERANCE).redundant == ("m7",)
    # named with the mates that they meet: the seat, and not the two dowels' axes
    assert mating.conflicting_mates(clash, clash.mates[-1], tolerance=TOLERANCE) == ["m3"]
    assert mating.conflicting_mates(again, again.mates[-1], tolerance=TOLERANCE) == ["m3"]


def turned(state: BenchState, name: str) -> list[float]:
    """The direction of a part's own x in the world."""
    own = state.instance(name)
    assert own
    return [float(coordinate) for coordinate in own.pose.direction([1, 0, 0])]


def begun(part: str) -> BenchState:
    return work.place(work.ground(work.place(BenchState(), loose(), "base"), "base-1"), loose(), part)


@pytest.mark.parametrize(("quarters", "x"), [(0, [1, 0, 0]), (1, [0, 1, 0]), (2, [-1, 0, 0]), (3, [0, -1, 0])])
def test_a_part_is_turned_by_quarters_before_it_is_mated(quarters: int, x: list[float]) -> None:
    a, b = ("base-1", "top face, z = 12"), ("collar-1", "bottom face, z = 0")
    state = mated(begun("collar"), a, b, "faces-meet", quarters=quarters)
    assert turned(state, "collar-1") == pytest.approx(x, abs=1e-9)
    assert not work.answer(state, tolerance=TOLERANCE).clashing


def test_a_quarter_that_the_other_mates_forbid_changes_nothing() -> None:
    a, b = ("base-1", "top face, z = 12"), ("mast-1", "bottom face, z = 0")
    state = mated(assembled(), a, b, "faces-meet", quarters=1)
    assert [instance.position for instance in state.placed] == [
        pytest.approx(instance.position, abs=1e-9) for instance in assembled().placed
    ]


#: What a joint leaves of six, after ISO 10303-105: revolute and prismatic one, screw one, fixed none.
@pytest.mark.parametrize(
    ("doing", "value", "left"),
    [("turn-about", None, ["rotation"]), ("slide-along", None, ["translation"]), ("screw-into", 2.0, ["screw"]),
     ("fix-together", None, []), ("share-an-axis", None, ["rotation", "translation"])],
)  # fmt: skip
def test_a_joint_leaves_what_its_name_says(doing: str, value: float | None, left: list[str]) -> None:
    a, b = ("base-1", "Ø4 hole, x = 22, y = 0"), ("collar-1", "Ø20.4 hole, x = 0, y = 0")
    state = mated(begun("collar"), a, b, doing, value=value)
    answer = work.answer(state, tolerance=TOLERANCE)
    assert not answer.clashing
    assert sorted(motion.kind for motion in answer.motions("collar-1")) == left
    if doing != "fix-together":
        collar = state.instance("collar-1")
        assert collar
        assert collar.position[:2] == pytest.approx([22, 0], abs=1e-6)


def test_fixed_parts_stay_as_they_stand_or_turn_over() -> None:
    a, b = ("base-1", "top face, z = 12"), ("collar-1", "bottom face, z = 0")
    start = begun("collar")
    assert mated(start, a, b, "fix-together").placed == start.placed
    over = mated(start, a, b, "fix-together", is_flipped=True).instance("collar-1")
    assert over
    assert over.pose.direction([0, 0, 1])[2] == pytest.approx(-1)


def test_faces_slide_along_their_normals_and_a_flip_turns_the_part_round() -> None:
    a, b = ("base-1", "top face, z = 12"), ("collar-1", "bottom face, z = 0")
    for is_flipped, z in ((False, 1.0), (True, -1.0)):
        state = mated(begun("collar"), a, b, "slide-along", is_flipped=is_flipped)
        answer = work.answer(state, tolerance=TOLERANCE)
        collar = state.instance("collar-1")
        assert collar
        assert collar.pose.direction([0, 0, 1])[2] == pytest.approx(z)
        assert [motion.kind for motion in answer.motions("collar-1")] == ["translation"]
        assert abs(answer.motions("collar-1")[0].direction[2]) == pytest.approx(1)


def test_a_joint_may_have_limits_and_a_pair_of_faces_may_not() -> None:
    a, b = ("base-1", "Ø4 hole, x = 22, y = 0"), ("collar-1", "Ø20.4 hole, x = 0, y = 0")
    state = mated(begun("collar"), a, b, "turn-about", limits=(-30.0, 60.0))
    assert state.mates[0].limits
    assert state.mates[0].limits.rotation == [-30, 60]
    with pytest.raises(FormRejected, match="has none"):
        mated(begun("collar"), a, b, "share-an-axis", limits=(0.0, 1.0))
    with pytest.raises(FormRejected, match="a screw needs one"):
        mated(begun("collar"), a, b, "screw-into")
