"""Hints on a bench: who follows each comes from loose parts to the finished build, with the freedom that it has."""

import json
from dataclasses import replace
from functools import cache

import pytest

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.bench import mating, work
from rigid_bench.core.bench.documents import BenchState
from rigid_bench.core.bench.hint import Hint, next_step
from rigid_bench.core.formats.build import Build, read_build
from rigid_bench.demo import weather_mast
from tests.core.bench.mast import assembled, loose
from tests.support.samples import bundle_of
from tests.support.shapes import TOLERANCE


@cache
def reference() -> Build:
    return read_build(bundle_of(weather_mast)["reference.build.json"], name="reference")


def hint(state: BenchState, build: Build | None = None) -> Hint:
    return next_step(state, loose(), build or reference(), tolerance=TOLERANCE)


def doing_of(state: BenchState, own: Hint, a: str, b: str) -> str:
    """What a student chooses for the kind of mate that a hint names."""
    choices = mating.applicable_mates(state, loose(), a, b)
    return next(choice.id for choice, kind in choices if kind.name == own.kind)


def followed(state: BenchState, own: Hint) -> BenchState:
    """The bench once a student has done what was hinted."""
    if own.code == "add":
        return work.place(state, loose(), own.part)
    if own.code == "ground":
        return work.ground(state, own.instances[0])
    a, b = (f"{name}:{number}" for name, number in zip(own.instances, own.features, strict=True))
    request = mating.MateRequest(a=a, b=b, doing=doing_of(state, own, a, b))
    return mating.mate(state, loose(), request, tolerance=TOLERANCE)


@cache
def walked() -> tuple[list[Hint], BenchState]:
    """All hints from the empty bench to the end, and the bench then."""
    state, hints = BenchState(), list[Hint]()
    while (own := hint(state)).code != "done":
        assert len(hints) < 80, "it never comes to an end"
        hints.append(own)
        state = followed(state, own)
    return hints, state


@pytest.mark.thorough
def test_who_follows_all_hints_has_the_finished_build() -> None:
    hints, state = walked()
    codes = [own.code for own in hints]
    assert codes[:2] == ["add", "ground"]
    assert codes.count("ground") == 1
    assert codes.count("add") == len(reference().instances)
    assert codes.count("mate") == len(state.mates) <= len(reference().mates)
    left = freedom(work.bench_build(state), tolerance=TOLERANCE)
    # the base has no wall about its middle: the mate of the two middles cannot be pointed at, and is passed over
    pointed_at = replace(reference(), mates=tuple(own for own in reference().mates if own.id != "mast on its axis"))
    assert left.mobility == freedom(pointed_at, tolerance=TOLERANCE).mobility
    assert left.conflicts == ()


@pytest.mark.thorough
def test_a_part_is_mated_only_once_it_is_there_and_loses_freedom_by_it() -> None:
    hints, _ = walked()
    there = set[str]()
    for own in hints:
        if own.code == "add":
            there.add(own.part)
        elif own.code == "mate":
            assert {name.rsplit("-", 1)[0] for name in own.instances} <= there
            assert len(own.after) <= len(own.before), own
            assert own.kind
    assert any(len(own.after) < len(own.before) for own in hints if own.code == "mate")


def test_first_comes_the_base_and_then_it_is_grounded() -> None:
    assert hint(BenchState()) == Hint(code="add", part="base")
    brought = work.place(BenchState(), loose(), "base")
    assert hint(brought) == Hint(code="ground", instances=("base-1",))
    # another part that was brought in first changes nothing
    other = work.place(BenchState(), loose(), "vane")
    assert hint(other) == Hint(code="add", part="base")


def test_what_was_mated_otherwise_counts_by_how_many_mates_two_parts_have() -> None:
    """The mast, its collar and its vane are together; the bearing is next, in the reference's order."""
    assert hint(assembled()) == Hint(code="add", part="bearing")
    less = work.unmate(assembled(), assembled().mates[-1].id)
    with_bearing = work.place(less, loose(), "bearing")
    assert hint(with_bearing).instances == ("mast-1", "bearing-1")
    # two parts with a mate more than the reference gives them are done, whichever mates they are
    one_left = work.unmate(work.unmate(assembled(), assembled().mates[0].id), assembled().mates[1].id)
    again = hint(one_left)
    assert (again.code, again.instances) == ("mate", ("base-1", "mast-1"))
    assert len(again.after) < len(again.before)


@pytest.mark.thorough
def test_walls_that_fit_each_other_are_named_and_a_kind_that_the_bench_offers() -> None:
    """The reference says axes and a cylindrical pair; a student points at the bore that goes round the mast."""
    own = next(made for made in walked()[0] if made.instances == ("mast-1", "collar-1"))
    models = {part.id: part for part in loose().parts}
    sides = zip(own.instances, own.features, strict=True)
    words = [models[name.rsplit("-", 1)[0]].features[number].words for name, number in sides]
    assert [text.split(",")[0] for text in words] == ["Ø20 round", "Ø20.4 hole"]
    assert own.kind == "coaxial"


def test_parts_that_the_reference_does_not_have_and_a_reference_without_a_base_give_no_hint() -> None:
    nothing_fixed = tuple(replace(instance, grounded=False) for instance in reference().instances)
    assert hint(BenchState(), replace(reference(), instances=nothing_fixed)) == Hint(code="unknown")
    document = json.loads(bundle_of(weather_mast)["reference.build.json"])
    document["parts"].append({"id": "spare", "name": "Spare"})
    document["instances"].append({"id": "spare-1", "part": "spare"})
    stranger = read_build(json.dumps(document).encode(), name="other")
    assert hint(BenchState(), stranger) == Hint(code="unknown")
