"""What is free, beside one singular value decomposition of the same rows: ratios of one run.

The reference run is `np.linalg.svd(rows)` with both sets of vectors, in the same process, of
the rows on the instances that are not grounded. Making the rows, naming the motions and
following them are timed apart.
"""

import time
from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from scipy.spatial.transform import Rotation

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.freedom.blocks import Free, Rows
from rigid_bench.core.assembly.freedom.freedom_report import freedom_report
from rigid_bench.core.assembly.mates.linearised import linearise
from rigid_bench.core.assembly.mates.system import System
from rigid_bench.core.assembly.solve.solution import solve
from rigid_bench.core.formats.build import Build, Instance, Mate
from rigid_bench.core.values.datums import Feature, PlaneFeature, PointFeature, make_frame
from rigid_bench.core.values.frames import Pose, rotation_by
from rigid_bench.core.values.tolerance import Tolerance

_TOLERANCE = Tolerance()
_KINDS = ("revolute", "cylindrical", "spherical", "prismatic", "planar")


def joint(name: str, kind: str, poses: Sequence[Pose], a: int, b: int, feature: Feature) -> Mate:
    """A mate that holds, its features in one place in the world."""
    if kind == "spherical":
        feature = PointFeature(feature.point)
    own = [feature.moved(poses[k].inverse()) for k in (a, b)]
    return Mate(id=name, kind=kind, a=a, feature_a=own[0], b=b, feature_b=own[1], sense="aligned")


def build(poses: Sequence[Pose], mates: Sequence[Mate]) -> Build:
    """A build whose first instance is grounded."""
    instances = tuple(Instance(id=f"i{k}", part="p", grounded=k == 0, pose=pose) for k, pose in enumerate(poses))
    return Build(parts=(), instances=instances, mates=tuple(mates))


def tangle(count: int, seed: int = 1) -> Build:
    """Instances joined at random, with half as many loops."""
    rng = np.random.default_rng(seed)
    poses = [Pose(Rotation.random(rng=seed + k).as_matrix(), rng.uniform(-200, 200, 3)) for k in range(count)]
    pairs = [(int(rng.integers(0, k)), k) for k in range(1, count)]
    pairs += [tuple(map(int, rng.choice(count, 2, replace=False))) for _ in range(count // 2)]  # type: ignore[misc]
    mates = []
    for k, (a, b) in enumerate(pairs):
        kind, axes = _KINDS[int(rng.integers(0, len(_KINDS)))], Rotation.random(rng=500 + k).as_matrix()
        frame = make_frame((poses[a].position + poses[b].position) / 2, axes[0], axes[1])
        mates.append(joint(f"m{k}", kind, poses, a, b, frame))
    return build(poses, mates)


def chain(count: int) -> Build:
    """A chain of turning joints."""
    rng = np.random.default_rng(2)
    poses = [Pose(np.eye(3), np.array([50.0 * k, 0, 0])) for k in range(count)]
    mates = []
    for k in range(1, count):
        axes = Rotation.random(rng=int(rng.integers(1, 10_000))).as_matrix()
        mates.append(joint(f"m{k}", "revolute", poses, k - 1, k, make_frame(poses[k].position, axes[0], axes[1])))
    return build(poses, mates)


def grid(across: int, up: int) -> Build:
    """Blocks in a wall, each face to face with its neighbours."""
    poses = [Pose(np.eye(3), np.array([20.0 * x, 20.0 * y, 0])) for y in range(up) for x in range(across)]
    mates = []
    for k in range(across * up):
        x, y = k % across, k // across
        for other, has, normal in ((k + 1, x + 1 < across, np.eye(3)[0]), (k + across, y + 1 < up, np.eye(3)[1])):
            if has:
                plane = PlaneFeature(poses[k].position + 10 * normal, normal)
                mates.append(joint(f"m{k}-{other}", "coincident", poses, k, other, plane))
    return build(poses, mates)


def best(run: Callable[[], object], times: int = 5) -> float:
    """The least seconds of a few runs."""
    taken = []
    for _ in range(times):
        started = time.perf_counter()
        run()
        taken.append(time.perf_counter() - started)
    return min(taken)


def answer(system: System, rows: Sequence[Rows]) -> tuple[int, list[int], list[str]]:
    """From finished rows: mobility, freedom of each instance, redundant mates."""
    free = Free(system, system.poses, rows)
    return free.mobility, [span.shape[1] for span in free.spans()], [mate.id for mate in free.useless]


def measured(name: str, asked: Build, *, dense: bool = True) -> float:
    """Print one line, and return the seconds of the answer."""
    system = System(asked, _TOLERANCE)
    started = time.perf_counter()
    rows = system.rows(system.mates, system.poses).by_mate()
    making = time.perf_counter() - started
    times = 5 if len(asked.instances) < 100 else 1
    ours = best(lambda: answer(system, rows), times)
    text = (
        f"{name:22} {len(asked.instances):5} {len(asked.mates):5} {answer(system, rows)[0]:8} {making:8.3f} {ours:8.4f}"
    )
    if dense:
        matrix = linearise(system, system.poses).dense[:, system.free_columns]
        reference = best(lambda: np.linalg.svd(matrix), times)
        text += f" {reference:8.4f} {ours / reference:6.2f}"
    print(text, flush=True)
    return ours


def main() -> None:
    """Print the tables."""
    print("build                  parts mates mobility   rows s  answer s    svd s  ratio")
    for count in (30, 45, 60):
        measured(f"tangle of {count}", tangle(count))
    short, long = measured("chain of 50", chain(50)), measured("chain of 800", chain(800), dense=False)
    print(f"chain of 800 over chain of 50: {long / short:.1f} times")
    measured("wall of 300 blocks", grid(20, 15))
    one_more()
    reported()
    solutions()


def shaken(whole: Build, seed: int = 3) -> Build:
    """The same build, every instance but the ground shifted by about a mm and turned by about half a degree."""
    rng = np.random.default_rng(seed)
    instances = tuple(
        instance
        if instance.grounded
        else replace(instance, pose=Pose(rotation_by(0.01 * rng.normal(size=3)) @ instance.pose.rotation,
                                     instance.pose.position + rng.normal(size=3)))
        for instance in whole.instances
    )  # fmt: skip
    return replace(whole, instances=instances)


def solved(name: str, asked: Build) -> None:
    """Print how long a solution takes beside one step: rows, one factorisation, one solution."""
    system = System(asked, _TOLERANCE)

    def step() -> None:
        linearised = linearise(system, list(system.poses))
        linearised.meeting(-linearised.residuals)

    reference = best(step, 3)
    started = time.perf_counter()
    solution = solve(asked, tolerance=_TOLERANCE)
    ours = time.perf_counter() - started
    state = "holds" if solution.satisfied else f"clash of {len(solution.conflict_set)}"
    print(
        f"{name:24} {len(asked.instances):5} {ours:8.3f} {reference:8.4f} {ours / reference:7.0f}  {state}", flush=True
    )


def clashing(whole: Build) -> Build:
    """The same build with one face asked at two levels."""
    mate = whole.mates[len(whole.mates) // 2]
    assert isinstance(mate.feature_b, PlaneFeature)
    moved = PlaneFeature(mate.feature_b.point + 3 * mate.feature_b.normal, mate.feature_b.normal)
    return replace(whole, mates=(*whole.mates, replace(mate, id="other", feature_b=moved)))


def solutions() -> None:
    """Print how solving grows."""
    print("solve                    parts  solve s   step s   ratio")
    for count in (20, 30, 100, 300, 1000):
        solved(f"shaken chain of {count}", shaken(chain(count)))
    solved("shaken wall of 36", shaken(grid(6, 6)))
    solved("wall of 36 that clashes", clashing(grid(6, 6)))


def reported() -> None:
    """Print how long the whole report takes, motions named and followed, along a chain."""
    taken = {}
    for count in (100, 1000):
        whole = chain(count)
        started = time.perf_counter()
        freedom_report(whole, tolerance=_TOLERANCE)
        taken[count] = time.perf_counter() - started
    print(f"freedom report: chain of 100 {taken[100]:.2f} s, of 1000 {taken[1000]:.2f} s")


def one_more() -> None:
    """Print how long solve and freedom take on thirty instances after one more mate."""
    whole = tangle(30)
    frame = make_frame(whole.instances[7].pose.position, np.eye(3)[2], np.eye(3)[0])
    extra = joint("extra", "spherical", [instance.pose for instance in whole.instances], 7, 19, frame)
    more = Build(parts=(), instances=whole.instances, mates=(*whole.mates, extra))
    system = System(more, _TOLERANCE)
    matrix = linearise(system, system.poses).dense[:, system.free_columns]
    reference = best(lambda: np.linalg.svd(matrix))
    solving, finding = (
        best(lambda: solve(more, tolerance=_TOLERANCE), 1),
        best(lambda: freedom(more, tolerance=_TOLERANCE)),
    )
    free = freedom(more, tolerance=_TOLERANCE)
    naming = best(lambda: [free.motions(k) for k in range(len(free.poses))], 1)
    times = f"solve {solving:.3f} s, freedom {finding:.3f} s, naming and following {naming:.3f} s"
    print(f"one more mate on 30 instances: {times}, one svd {reference:.3f} s")


if __name__ == "__main__":
    main()
