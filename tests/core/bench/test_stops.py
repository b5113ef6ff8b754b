"""Other parts stop one that is moved: just where their faces touch, and nowhere else."""

from functools import cache
from typing import Any

import numpy as np
import pytest
from build123d import Box, Cylinder, Pos
from hypothesis import given, settings
from hypothesis import strategies as st

from rigid_bench.core.bench import moving
from rigid_bench.core.bench.collision_limits import CollisionLimits
from rigid_bench.core.bench.documents import BenchFeature, BenchPart, BenchParts, BenchState, Placed
from rigid_bench.core.exercise.authoring.pointable import pointables
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.kernel.meshes.collision_meshes import (
    CollisionMesh,
    pack_collision_meshes,
    unpack_collision_meshes,
)
from tests.core.bench.mast import assembled, collision_meshes, loose
from tests.support.shapes import TOLERANCE

#: A floor, a block on it, a post, and a ring that just fits the post.
SHAPES: dict[str, Any] = {
    "floor": Pos(0, 0, -5) * Box(200, 100, 10),
    "block": Pos(0, 0, 10) * Box(20, 20, 20),
    "post": Pos(0, 0, 40) * Cylinder(8, 80),
    "ring": Pos(0, 0, 5) * (Cylinder(14, 10) - Cylinder(8, 10)),
}


@cache
def bench() -> tuple[BenchParts, dict[str, CollisionMesh]]:
    parts, read = [], {}
    for name, shape in SHAPES.items():
        features = read_features(shape.solid().wrapped, tolerance=TOLERANCE)
        listed = pointables(features, mm=1.0)
        read[name] = (features, {face: k for k, pointable in enumerate(listed) for face in pointable.faces})
        named = [BenchFeature(words=pointable.words, kind="flat", feature=pointable.feature) for pointable in listed]
        parts.append(BenchPart(id=name, name=name, count=2, features=named, box=features.box.tolist()))
    return BenchParts(parts=parts), unpack_collision_meshes(pack_collision_meshes(read))


def standing(**at: tuple[float, float, float]) -> BenchState:
    """The floor is the base; the rest stands where it is said."""
    placed = [Placed(id="floor-1", part="floor", grounded=True)]
    placed += [Placed(id=f"{part}-1", part=part.rstrip("2"), position=list(where)) for part, where in at.items()]
    return BenchState(placed=placed)


def pulled(state: BenchState, name: str, *by: float) -> tuple[list[float], set[str]]:
    """Pull a part by its origin; return where it comes to rest, and the features that stopped it, in words."""
    parts, known = bench()
    own = state.instance(name)
    assert own
    stops = CollisionLimits(state, parts, known, tolerance=TOLERANCE)
    end = (np.array(own.position) + by).tolist()
    moved = moving.drag(state, name, start=own.position, end=end, stops=stops, tolerance=TOLERANCE)
    rest = moved.states[-1].instance(name)
    assert rest
    said = set()
    for known_side in (side for pair in moved.touching for side in pair):
        instance, _, number = known_side.rpartition(":")
        placed = state.instance(instance)
        assert placed
        part = next(part for part in parts.parts if part.id == placed.part)
        said.add(f"{part.id}: {part.features[int(number)].words}")
    return rest.position, said


def test_a_falling_block_lies_on_the_floor() -> None:
    where, said = pulled(standing(block=(0, 0, 37)), "block-1", 0, 0, -60)
    assert where == pytest.approx([0, 0, 0], abs=2e-3)
    assert said == {"floor: top face, z = 0", "block: bottom face, z = 0"}


def test_a_block_that_lies_on_the_floor_slides_and_cannot_sink() -> None:
    where, said = pulled(standing(block=(0, 0, 0)), "block-1", 0, 0, -5)
    assert where == pytest.approx([0, 0, 0], abs=1e-3)
    assert said == {"floor: top face, z = 0", "block: bottom face, z = 0"}
    where, said = pulled(standing(block=(0, 0, 0)), "block-1", 30, 0, 0)
    assert where == pytest.approx([30, 0, 0], abs=0.1)
    assert said == set()


@settings(max_examples=15)
@given(far=st.floats(25, 85), fall=st.floats(0.0, 12.0))
def test_blocks_stop_each_other_side_by_side(far: float, fall: float) -> None:
    state = standing(block=(-60, 0, 0.5 + fall), block2=(-60 + far, 3, 0.5))
    where, said = pulled(state, "block-1", far + 40, 0, 0)
    assert where[0] == pytest.approx(-60 + far - 20, abs=2e-3)
    assert said == {"block: right face, x = 10", "block: left face, x = -10"}


def test_a_ring_that_just_fits_slides_and_turns_on_its_post_and_ends_on_the_floor() -> None:
    where, said = pulled(standing(post=(0, 0, 0), ring=(0, 0, 50)), "ring-1", 0, 0, 20)
    assert where == pytest.approx([0, 0, 70], abs=0.1)
    assert said == set()
    where, said = pulled(standing(post=(0, 0, 0), ring=(0, 0, 50)), "ring-1", 0, 0, -80)
    assert where[2] == pytest.approx(0, abs=2e-3)
    assert "floor: top face, z = 0" in said
    # sideways the post holds it, to within the facets of what is round
    where, said = pulled(standing(post=(0, 0, 0), ring=(0, 0, 50)), "ring-1", 9, 0, 0)
    assert abs(where[0]) < 0.2
    assert any("Ø16" in sentence for sentence in said)


def test_what_runs_into_each_other_from_the_start_is_let_by() -> None:
    where, said = pulled(standing(block=(0, 0, 0.5), block2=(5, 0, 0.5)), "block-1", -50, 0, 0)
    assert where[0] == pytest.approx(-50, abs=0.1)
    assert said == set()


def test_the_collar_of_the_mast_comes_down_to_the_flange_and_a_nudge_stops_there() -> None:
    low = assembled().instance("collar-1")
    assert low
    up: Any = {"start": low.position, "end": [*low.position[:2], 120.0], "tolerance": TOLERANCE}
    state = moving.drag(assembled(), "collar-1", **up).states[-1]
    collar = state.instance("collar-1")
    assert collar
    assert collar.position[2] == pytest.approx(120, abs=0.1)
    stops = CollisionLimits(state, loose(), collision_meshes(), tolerance=TOLERANCE)
    start = collar.pose.point([0, 0, 10])
    moved = moving.drag(
        state, "collar-1", start=start.tolist(), end=(start - [0, 0, 400]).tolist(), stops=stops, tolerance=TOLERANCE
    )
    rest = moved.states[-1].instance("collar-1")
    assert rest
    assert rest.position[2] == pytest.approx(12 + 8, abs=2e-3)  # on the flange, which is 8 thick, on the base of 12
    assert moved.touching
