"""How far parts go, beside the kernel's exact distance of the same pair at 20 poses: ratios of one run.

The reference run is twenty exact distances of the moving part and the one that it runs on, spread
along the way, on the same solids in the same process. Meshes and the kernel are warm in both.

Of a card, numerator: what its two checks of motions add to its grading. Denominator: the grading without them. Both
from the files' bytes, in one process.
"""

import json
import math
import statistics
import time
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from build123d import Axis, Box, Cylinder, Part, Pos, Rot, fillet
from numpy.typing import NDArray

from rigid_bench.core.assembly.contact.clearance import PlacedSolid, place
from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.assembly.freedom.freedom_report import motion_report
from rigid_bench.core.assembly.motion.sweep import nearest_along, run
from rigid_bench.core.exercise.authoring.propose import propose
from rigid_bench.core.exercise.bundle import Exercise, read_exercise
from rigid_bench.core.formats.build import Build, Instance, Mate, read_build
from rigid_bench.core.formats.documents import feature_document
from rigid_bench.core.grading.grade import grade
from rigid_bench.core.kernel.distance import measure_gap
from rigid_bench.core.kernel.feature_reader import read_features
from rigid_bench.core.values.datums import Feature, make_frame
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.values.tolerance import Tolerance
from rigid_bench.demo.modelling import Placed, assembly_bytes, json_bytes

_TOLERANCE = Tolerance()
#: Gradings of a card without and with its checks of motions.
_PAIRS = 15
#: degrees from the dead point at which the crank stands.
_CRANKED = 28.0
_X, _Z = np.eye(3)[0], np.eye(3)[2]


def frame_with_rods() -> Any:
    """Two cheeks and two rods of 8 mm between them."""
    cheeks = Pos(-60, 0, 0) * Box(10, 60, 30) + Pos(60, 0, 0) * Box(10, 60, 30)
    rods = [Pos(0, y, 0) * Rot(0, 90, 0) * Cylinder(4, 120) for y in (-18, 18)]
    return cheeks + rods


def carriage(gap: float, *, is_round: bool = False) -> Any:
    """A block that runs on the rods with a gap all round; its edges rounded or not."""
    block = Box(30, 54, 20)
    block = fillet(block.edges(), 3) if is_round else block
    return block - [Pos(0, y, 0) * Rot(0, 90, 0) * Cylinder(4 + gap, 60) for y in (-18, 18)]


def pillar() -> Any:
    """A base with a pin to turn on and a stop beside it."""
    return Box(80, 80, 6) + Pos(0, 0, 13) * Cylinder(5, 20) + Pos(30, 0, 10) * Cylinder(4, 14)


def arm(*, is_round: bool = False) -> Any:
    """An arm that turns on the pin; its edges rounded or not."""
    bar = Pos(15, 0, 9) * Box(50, 16, 6)
    return (fillet(bar.edges(), 2) if is_round else bar) - Cylinder(5.1, 60)


def solids(fixed: Any, moving: Any) -> tuple[PlacedSolid, PlacedSolid]:
    """Read both shapes where they stand."""
    shapes = [shape.wrapped if isinstance(shape, Part) else shape.solids()[0].wrapped for shape in (fixed, moving)]
    parts = [read_features(shape, tolerance=_TOLERANCE) for shape in shapes]
    one, two = (place(name, part, Pose.identity()) for name, part in zip("ab", parts, strict=True))
    return one, two


def crank_and_slider(*, is_round: bool = False) -> tuple[list[Any], Build]:
    """A plate with a rail, a crank of 20 mm, a rod of 60 mm and a block on the rail; the crank turns all round.

    They stand where the crank has turned by `_CRANKED` degrees from the dead point.
    """
    turn = math.radians(_CRANKED)
    pin = np.array([20 * math.cos(turn), 20 * math.sin(turn), 0.0])
    end = np.array([pin[0] + math.sqrt(60**2 - pin[1] ** 2), 0.0, 0.0])
    plate = Pos(40, 0, -3) * Box(160, 60, 6) + Pos(80, 0, 3) * Box(70, 8, 6)
    crank = Pos(10, 0, 10) * Box(32, 10, 4) - Pos(20, 0, 0) * Cylinder(3.1, 60)
    rod = Pos(30, 0, 14.2) * Box(72, 8, 4) + Pos(0, 0, 11) * Cylinder(3, 10.4) - Pos(60, 0, 0) * Cylinder(3.1, 60)
    block = Pos(0, 0, 7) * Box(20, 20, 9) - Box(30, 8.2, 12.2) + Pos(0, 0, 14) * Cylinder(3, 8)
    if is_round:
        crank, rod = (fillet(shape.edges().filter_by(Axis.Z), 2) for shape in (crank, rod))
    crank, block = Rot(0, 0, _CRANKED) * crank, Pos(*end) * block
    rod = Pos(*pin) * Rot(0, 0, math.degrees(math.atan2(end[1] - pin[1], end[0] - pin[0]))) * rod
    joints = [
        ("revolute", 0, 1, np.zeros(3)),
        ("revolute", 1, 2, pin),
        ("revolute", 2, 3, end),
        ("prismatic", 0, 3, end),
    ]
    mates = tuple(_joint(f"m{number}", *joint) for number, joint in enumerate(joints))
    instances = tuple(Instance(id=str(k), part=str(k), grounded=k == 0, pose=Pose.identity()) for k in range(4))
    return [plate, crank, rod, block], Build(parts=(), instances=instances, mates=mates)


def _joint(name: str, kind: str, a: int, b: int, at: NDArray[np.float64]) -> Mate:
    z, x = (_Z, _X) if kind == "revolute" else (_X, _Z)
    frame = make_frame(at, z, x)
    return Mate(id=name, kind=kind, a=a, b=b, feature_a=frame, feature_b=frame)


def jointed(kind: str, z: Any, x: Any) -> Build:
    """Two instances at the origin and the joint between them."""
    frame = make_frame(np.zeros(3), z, x)
    instances = tuple(Instance(id=name, part=name, grounded=name == "a", pose=Pose.identity()) for name in "ab")
    return Build(
        parts=(), instances=instances, mates=(Mate(id="m", kind=kind, a=0, feature_a=frame, b=1, feature_b=frame),)
    )


def seconds(run: Callable[[], object]) -> float:
    """CPU seconds of one run."""
    started = time.process_time()
    run()
    return time.process_time() - started


def measured(name: str, fixed: Any, moving: Any, kind: str, z: Any, x: Any, reach: float) -> None:
    """Print one line for the travel both ways, and one for the least gap along it."""
    one, two = solids(fixed, moving)
    free = freedom(jointed(kind, z, x), tolerance=_TOLERANCE)
    (motion,) = free.motions(1, 0)
    places = {0: one, 1: two}
    run(free, motion, 1, 0, places, way=1, tolerance=_TOLERANCE)  # meshes are warm

    def poses() -> list[Pose]:
        amounts = np.linspace(-reach, reach, 20)
        if kind == "prismatic":
            return [Pose(np.eye(3), amount * z) for amount in amounts]
        return [Pose.from_rotation_vector(amount * z, np.zeros(3)) for amount in amounts]

    reference = seconds(lambda: [measure_gap(one.shape, place("b", two.part, pose).shape) for pose in poses()])
    stops: list[Any] = []
    ours = seconds(
        lambda: stops.extend(run(free, motion, 1, 0, places, way=way, tolerance=_TOLERANCE) for way in (-1, 1))
    )
    gone = [math.degrees(stop.amount) if kind == "revolute" else stop.amount for stop in stops]
    gap = seconds(lambda: nearest_along(free, motion, 1, 0, (one, two), (0, 1), tolerance=_TOLERANCE))
    line(name, ours, gap, reference, gone)


def linked(name: str, *, is_round: bool) -> None:
    """Print one line for a block that a crank drives, both ways to where it comes back."""
    shapes, build = crank_and_slider(is_round=is_round)
    parts = [read_features(shape.solids()[0].wrapped, tolerance=_TOLERANCE) for shape in shapes]
    places = {k: place(str(k), part, Pose.identity()) for k, part in enumerate(parts)}
    free = freedom(build, tolerance=_TOLERANCE)
    (motion,) = free.motions(3, 0)
    run(free, motion, 3, 0, places, way=1, tolerance=_TOLERANCE)  # meshes are warm
    plate, block = places[0], places[3]

    def at(amount: float) -> PlacedSolid:
        return place("3", block.part, Pose(np.eye(3), amount * motion.direction))

    reference = seconds(lambda: [measure_gap(plate.shape, at(amount).shape) for amount in np.linspace(-20, 4, 20)])
    stops: list[Any] = []
    ours = seconds(
        lambda: stops.extend(run(free, motion, 3, 0, places, way=way, tolerance=_TOLERANCE) for way in (-1, 1))
    )
    gap = seconds(lambda: nearest_along(free, motion, 3, 0, (plate, block), (0, 3), tolerance=_TOLERANCE))
    line(name, ours, gap, reference, [stop.amount for stop in stops])


def line(name: str, ours: float, gap: float, reference: float, amounts: Sequence[float]) -> None:
    """Print one line of the table."""
    words = f"{amounts[0]:8.3f} {amounts[1]:8.3f}"
    print(
        f"{name:28} {ours:8.3f} {gap:8.3f} {reference:8.3f} {ours / reference:7.2f} {gap / reference:7.2f}  {words}",
        flush=True,
    )


def card(name: str, placed: Sequence[Placed], asked: Sequence[dict[str, Any]], joints: Build | None = None) -> None:
    """Print what checks of motions add to the grading of an assembly; with joints where its contacts are not enough."""
    files = propose(assembly_bytes(placed, "Motion"), name="motion.step", title="Motion", tolerance=_TOLERANCE)
    if joints:
        files = {**files, "reference.build.json": _with_joints(files["reference.build.json"], joints)}
    document = json.loads(files["exercise.json"])
    if joints:
        _ask_freedom(document["checks"], files["reference.build.json"])
    checks = [{"id": f"motion-{number}", "title": "Motion", "marks": 2} | fields for number, fields in enumerate(asked)]
    plain, full = (
        read_exercise({**files, "exercise.json": json_bytes({**document, "checks": document["checks"] + more})})
        for more in ([], checks)
    )
    handed_in = {name: content for name, content in files.items() if name.endswith(".step")}
    handed_in["motion.build.json"] = files["reference.build.json"]

    def grading(exercise: Exercise) -> float:
        return seconds(lambda: grade(exercise, handed_in, tolerance=_TOLERANCE))

    # in turns, so that a slower machine is slower for both; the median, as its speed may change between the two
    pairs = [(grading(plain), grading(full)) for _ in range(_PAIRS)]
    ratio, rest = statistics.median(whole / rest - 1 for rest, whole in pairs), min(rest for rest, _ in pairs)
    verdicts = [row.verdict for row in grade(full, handed_in, tolerance=_TOLERANCE).checks][-len(checks) :]
    print(f"{name:28} {ratio * rest:8.3f} {rest:8.3f} {ratio:8.2f}  {' '.join(verdicts)}", flush=True)


def _with_joints(reference: bytes, joints: Build) -> bytes:
    """Return a build file with other mates: joints in the world's coordinates, between the same instances."""
    placed = read_build(reference, name="reference.build.json").instances

    def side(index: int, feature: Feature) -> dict[str, Any]:
        return {"instance": placed[index].id, **feature_document(feature.moved(placed[index].pose.inverse()))}

    mates = [
        {"id": mate.id, "kind": mate.kind, "a": side(mate.a, mate.feature_a), "b": side(mate.b, mate.feature_b)}
        for mate in joints.mates
    ]
    return json_bytes(json.loads(reference) | {"mates": mates})


def _ask_freedom(checks: Sequence[dict[str, Any]], reference: bytes) -> None:
    """Let checks of freedom ask for what a reference build leaves free, as the contacts did not say it."""
    build = read_build(reference, name="reference.build.json")
    free = freedom(build, tolerance=_TOLERANCE)
    places = {instance.id: place for place, instance in enumerate(build.instances)}
    for check in checks:
        if check["kind"] == "freedom":
            base = places[check["to"]]
            motions = free.motions(places[check["instance"]], base)
            back = build.instances[base].pose.inverse()
            check["motions"] = [
                motion_report(motion.moved(back)).model_dump(mode="json", exclude_none=True) for motion in motions
            ]


def slides(stations: Sequence[float], *, is_round: bool = False) -> None:
    """Print the card of carriages on rods, with two checks of travel."""
    frame, block = frame_with_rods().solids()[0], carriage(0.1, is_round=is_round).solids()[0]
    placed = [Placed(name="Frame", solid=frame)]
    placed += [Placed(name="Carriage", solid=block, position=(station, 0, 0)) for station in stations]
    slide = {"kind": "translation", "direction": [1, 0, 0]}
    names = [f"carriage-{number}" for number, _ in enumerate(stations, 1)]
    asked = [
        {"kind": "travel", "instance": names[0], "motion": slide, "min": 20},
        {"kind": "travel", "instance": names[-1], "motion": slide, "max": 200},
    ]
    words = f"{len(stations)} carriage{'s' if len(stations) > 1 else ''}{', rounded edges' if is_round else ' on rods'}"
    card(words, placed, asked)


def turns(*, is_round: bool = False) -> None:
    """Print the card of an arm on a pin, with a check of its travel and one of the gap on its way."""
    base, turning = pillar(), Rot(0, 0, 90) * arm(is_round=is_round)
    placed = [Placed(name="Base", solid=base.solids()[0]), Placed(name="Arm", solid=turning.solids()[0])]
    turn = {"kind": "rotation", "axis": {"point": [0, 0, 0], "direction": [0, 0, 1]}}
    asked = [
        {"kind": "travel", "instance": "arm-1", "motion": turn, "min": 90},
        {"kind": "gap", "a": "base-1", "b": "arm-1", "max": 0.2, "through": {"instance": "arm-1", "motion": turn}},
    ]
    card("arm, rounded edges" if is_round else "arm on a pin, with a stop", placed, asked)


def passes(*, is_round: bool = False) -> None:
    """Print the card of an arm that turns past a post beside its way, with a check of the gap on its way."""
    base = Box(80, 80, 6) + Pos(0, 0, 13) * Cylinder(5, 20) + Pos(34, 30, 10) * Cylinder(2, 14)
    placed = [Placed(name="Base", solid=base.solids()[0])]
    placed.append(Placed(name="Arm", solid=(Rot(0, 0, 90) * arm(is_round=is_round)).solids()[0]))
    turn = {"kind": "rotation", "axis": {"point": [0, 0, 0], "direction": [0, 0, 1]}}
    through = {"instance": "arm-1", "motion": turn}
    words = "rounded arm past a post" if is_round else "arm past a post"
    card(words, placed, [{"kind": "gap", "a": "base-1", "b": "arm-1", "min": 0.05, "through": through}])


def slides_past(*, is_round: bool = False) -> None:
    """Print the card of a block on a rail that slides past a post beside it, with a check of the gap on its way."""
    base = Box(160, 60, 6) + Pos(0, 0, 6) * Box(160, 10, 6) + Pos(40, 22, 8) * Box(12, 10, 10)
    block = Pos(-40, 0, 8) * Box(30, 30, 9) - Pos(-40, 0, 6) * Box(40, 10.2, 6.2)
    block = fillet(block.edges().filter_by(Axis.Z), 3) if is_round else block
    placed = [Placed(name="Base", solid=base.solids()[0]), Placed(name="Block", solid=block.solids()[0])]
    through = {"instance": "block-1", "motion": {"kind": "translation", "direction": [1, 0, 0]}}
    words = "rounded block past a post" if is_round else "block on a rail past a post"
    card(words, placed, [{"kind": "gap", "a": "base-1", "b": "block-1", "min": 0.05, "through": through}])


def links() -> None:
    """Print the card of a block that a crank drives, with checks of the travel of both."""
    names = ("Plate", "Crank", "Rod", "Block")
    shapes, build = crank_and_slider()
    placed = [Placed(name=name, solid=shape.solids()[0]) for name, shape in zip(names, shapes, strict=True)]
    turn = {"kind": "rotation", "axis": {"point": [0, 0, 0], "direction": [0, 0, 1]}}
    slide = {"kind": "translation", "direction": [1, 0, 0]}
    asked = [
        {"kind": "travel", "instance": "crank-1", "motion": turn, "min": 20},
        {"kind": "travel", "instance": "block-1", "motion": slide, "min": 20},
    ]
    card("block driven by a crank", placed, asked, build)


def main() -> None:
    """Print the tables."""
    print("both ways                    travel s    gap s 20 gaps s  travel     gap   back and forth, mm or degrees")
    measured("carriage on rods", frame_with_rods(), carriage(0.1), "prismatic", _X, _Z, 38)
    measured("carriage, rounded edges", frame_with_rods(), carriage(0.1, is_round=True), "prismatic", _X, _Z, 38)
    measured("carriage that just fits", frame_with_rods(), carriage(0.0), "prismatic", _X, _Z, 38)
    measured("arm on a pin, with a stop", pillar(), Rot(0, 0, 90) * arm(), "revolute", _Z, _X, 1.2)
    measured("arm, rounded edges", pillar(), Rot(0, 0, 90) * arm(is_round=True), "revolute", _Z, _X, 1.2)
    linked("block driven by a crank", is_round=False)
    linked("the same, rounded edges", is_round=True)
    print("card with two motions        motions s   rest s    ratio")
    slides((0.0,))
    slides((-20.0, 25.0))
    slides((-20.0, 25.0), is_round=True)
    turns()
    turns(is_round=True)
    passes()
    passes(is_round=True)
    slides_past()
    slides_past(is_round=True)
    links()


if __name__ == "__main__":
    main()
