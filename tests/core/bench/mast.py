"""The weather mast put together on a bench, as far as its vane: for the tests of the bench."""

from functools import cache
from typing import Any

from rigid_bench.core.bench import mating, work
from rigid_bench.core.bench.documents import BenchParts, BenchState, LaidOut
from rigid_bench.core.bench.parts import handed_parts, supplied_parts
from rigid_bench.core.exercise.bundle import read_exercise
from rigid_bench.core.kernel.meshes.collision_meshes import CollisionMesh, unpack_collision_meshes
from rigid_bench.demo import weather_mast
from tests.support.samples import bundle_of, files_of
from tests.support.shapes import TOLERANCE


@cache
def laid_out() -> LaidOut:
    return supplied_parts(read_exercise(bundle_of(weather_mast)), tolerance=TOLERANCE)


def loose() -> BenchParts:
    return laid_out().parts


@cache
def collision_meshes() -> dict[str, CollisionMesh]:
    return unpack_collision_meshes(laid_out().collision_meshes)


@cache
def submitted(module: Any) -> LaidOut:
    """A right sample of an exercise as it comes from STEP files alone."""
    files = files_of(module.SAMPLES[0])
    return handed_parts({name: data for name, data in files.items() if name.endswith(".step")}, tolerance=TOLERANCE)


def at(parts: BenchParts, instance: str, words: str) -> str:
    """Find a feature by its words, as a student reads them; a hole's depth may be left out."""
    part = next(part for part in parts.parts if part.id == instance.rsplit("-", 1)[0])
    number = next(k for k, feature in enumerate(part.features) if f"{feature.words}, ".startswith(f"{words}, "))
    return f"{instance}:{number}"


def mated(state: BenchState, a: tuple[str, str], b: tuple[str, str], doing: str, **more: Any) -> BenchState:
    parts = loose()
    wish = mating.MateRequest(a=at(parts, *a), b=at(parts, *b), doing=doing, **more)
    return mating.mate(state, parts, wish, tolerance=TOLERANCE)


#: The mast on its base, the collar, the vane and the rotor: what stands, what comes, on which axis and seat.
STEPS = [
    ("mast", ("base-1", "Ø4 hole, x = 22, y = 0"), ("mast-1", "Ø4 hole, x = 22, y = 0"), "share-an-axis"),
    ("", ("base-1", "Ø4 hole, x = -22, y = 0"), ("mast-1", "Ø4 hole, x = -22, y = 0"), "share-an-axis"),
    ("", ("base-1", "top face, z = 12"), ("mast-1", "bottom face, z = 0"), "faces-meet"),
    ("collar", ("mast-1", "Ø20 round, x = 0, y = 0"), ("collar-1", "Ø20.4 hole, x = 0, y = 0"), "share-an-axis"),
    ("vane", ("collar-1", "Ø20.4 hole, x = 0, y = 0"), ("vane-1", "Ø20.4 hole, x = 0, y = 0"), "share-an-axis"),
    ("", ("collar-1", "top face, z = 20"), ("vane-1", "bottom face, z = 0"), "faces-meet"),
]


@cache
def assembled() -> BenchState:
    state = work.ground(work.place(BenchState(), loose(), "base"), "base-1")
    for part, a, b, doing in STEPS:
        if part:
            state = work.place(state, loose(), part)
        state = mated(state, a, b, doing)
    return state
