"""Mechanisms that STEP files declare: each pair the mate of its kind, on the right instances."""

import io

import numpy as np
import pytest
from build123d import Box, Cylinder, Pos
from OCP.STEPControl import STEPControl_Reader

from rigid_bench.core.assembly.freedom.analysis import freedom
from rigid_bench.core.formats.content.step_records import Records, Reference
from rigid_bench.core.grading.intake.submission import Submission, read_submission
from rigid_bench.core.interchange.step_mechanism import read_mechanism
from rigid_bench.core.interchange.step_occurrences import Named, Occurrences
from rigid_bench.core.values.frames import Pose
from rigid_bench.core.wording.notices import said
from rigid_bench.demo.modelling import Placed, assembly_bytes
from tests.core.interchange.mechanism_files import Pair, with_pairs
from tests.support.shapes import TOLERANCE

PINS = [(-30.0, 0.0), (30.0, 0.0)]
PLATE = Box(100, 40, 6) + [Pos(x, y, 8) * Cylinder(4, 10) for x, y in PINS]
LINK = Pos(0, 25, 0) * Box(12, 62, 4) - Cylinder(4.1, 20) - Pos(0, 50, 0) * Cylinder(4.1, 20)
BAR = Box(72, 12, 4) + [Pos(x, 0, -4) * Cylinder(4, 6) for x in (-30.0, 30.0)]
PLACED = [
    Placed(name="Plate", solid=PLATE.solid()),
    Placed(name="Link", solid=LINK.solid(), position=(-30, 0, 8)),
    Placed(name="Link", solid=LINK.solid(), position=(30, 0, 8)),
    Placed(name="Bar", solid=BAR.solid(), position=(0, 50, 12)),
]
KIT = assembly_bytes(PLACED, "Kit")
POSES = [np.block([[np.eye(3), np.array([placed.position]).T], [np.zeros(3), 1.0]]) for placed in PLACED]
FOUR_BAR = [
    Pair(kind="REVOLUTE_PAIR", uses=(1, 2), at=(-30, 0, 8)),
    Pair(kind="REVOLUTE_PAIR", uses=(1, 3), at=(30, 0, 8)),
    Pair(kind="REVOLUTE_PAIR", uses=(2, 4), at=(-30, 50, 10)),
    Pair(kind="REVOLUTE_PAIR", uses=(3, 4), at=(30, 50, 10)),
]


def read(data: bytes) -> Submission:
    return read_submission({"kit.step": data}, tolerance=TOLERANCE)


@pytest.mark.parametrize(("in_world", "by_use"), [(False, True), (True, True), (False, False)])
def test_a_four_bar_is_read_as_four_mates_and_moves_as_one(in_world: bool, by_use: bool) -> None:
    pairs = FOUR_BAR if by_use else FOUR_BAR[:1]
    submission = read(with_pairs(KIT, pairs, poses=POSES, in_world=in_world, by_use=by_use))
    build = submission.build
    assert build is not None
    assert [mate.kind for mate in build.mates] == ["revolute"] * len(pairs)
    assert [submission.instances[k].grounded for k in range(4)] == [True, False, False, False]
    free = freedom(build, tolerance=TOLERANCE)
    assert not free.conflicts
    if by_use:
        ends = [(mate.a, mate.b) for mate in build.mates]
        assert ends == [(0, 1), (0, 2), (1, 3), (2, 3)]
        # Gruebler: 3 (4 - 1) - 2 * 4 in the plane
        assert free.mobility == 1
    assert [notice.code for notice in submission.notices] == ["mechanism-read"]


@pytest.mark.parametrize(
    ("pair", "kind", "left"),
    [
        (Pair(kind="REVOLUTE_PAIR", uses=(1, 4)), "revolute", ["rotation"]),
        (Pair(kind="REVOLUTE_PAIR", uses=(1, 4), flags="FFFTFF"), "revolute", ["rotation"]),
        (Pair(kind="PRISMATIC_PAIR", uses=(1, 4)), "prismatic", ["translation"]),
        (Pair(kind="PRISMATIC_PAIR", uses=(1, 4), flags="*"), "prismatic", ["translation"]),
        (Pair(kind="CYLINDRICAL_PAIR", uses=(1, 4)), "cylindrical", ["rotation", "translation"]),
        (Pair(kind="PLANAR_PAIR", uses=(1, 4)), "planar", ["rotation", "translation", "translation"]),
        (Pair(kind="SPHERICAL_PAIR", uses=(1, 4)), "spherical", ["rotation"] * 3),
        (Pair(kind="FULLY_CONSTRAINED_PAIR", uses=(1, 4)), "fixed", []),
        (Pair(kind="SCREW_PAIR", uses=(1, 4), more=("2.5",)), "screw", ["screw"]),
    ],
)
def test_each_pair_leaves_what_it_says(pair: Pair, kind: str, left: list[str]) -> None:
    build = read(with_pairs(KIT, [pair], poses=POSES)).build
    assert build is not None
    assert [mate.kind for mate in build.mates] == [kind]
    motions = freedom(build, tolerance=TOLERANCE).motions(3)
    assert [motion.kind for motion in motions] == left
    turned = "FFFTFF" in pair.flags
    for motion in motions:
        if kind == "prismatic" or turned:
            assert abs(motion.direction[0]) == pytest.approx(1)
        elif kind in ("revolute", "screw", "cylindrical"):
            assert abs(motion.direction[2]) == pytest.approx(1)
    if kind == "screw":
        assert motions[0].pitch == pytest.approx(2.5)


def test_a_slide_that_has_gone_some_way_lies_where_its_parts_have_it() -> None:
    """Both frames lie alike in their parts, and not in the world: 30 mm along x."""
    placed = [PLACED[0], Placed(name="Peg", solid=Cylinder(3, 20).solid(), position=(30, 0, 10))]
    poses = [np.eye(4), np.eye(4)]  # the frames are written where the parts have them
    pair = Pair(kind="PRISMATIC_PAIR", uses=(1, 2), at=(0, 0, 0))
    build = read(with_pairs(assembly_bytes(placed, "Kit"), [pair], poses=poses)).build
    assert build is not None
    assert [list(feature.point) for feature in (build.mates[0].feature_a, build.mates[0].feature_b)] == [[0, 0, 0]] * 2
    assert not freedom(build, tolerance=TOLERANCE).conflicts


def test_ranges_become_limits() -> None:
    turn = Pair(kind="REVOLUTE_PAIR_WITH_RANGE", uses=(1, 2), at=(-30, 0, 8), more=("-0.5", "1.25"))
    slide = Pair(kind="PRISMATIC_PAIR_WITH_RANGE", uses=(1, 4), more=("-3.", "12."))
    half = Pair(kind="REVOLUTE_PAIR_WITH_RANGE", uses=(1, 3), at=(30, 0, 8), more=("$", "1."))
    build = read(with_pairs(KIT, [turn, slide, half], poses=POSES)).build
    assert build is not None
    limits = {mate.b: mate.limits for mate in build.mates}
    assert limits[1] is not None
    assert limits[1].rotation == pytest.approx((-0.5, 1.25))
    assert limits[3] is not None
    assert limits[3].translation == pytest.approx((-3, 12))
    assert limits[2] is None


def test_what_no_mate_says_is_left_out_and_said() -> None:
    gear = Pair(kind="GEAR_PAIR", uses=(2, 3), more=("1.", "2.", "0.", "0.", "2."))
    itself = Pair(kind="REVOLUTE_PAIR", uses=(2, 2), at=(-30, 0, 8))
    submission = read(with_pairs(KIT, [FOUR_BAR[0], gear, itself], poses=POSES))
    assert submission.build is not None
    assert len(submission.build.mates) == 1
    texts = [message.text for message in said(submission.notices)]
    assert sum("was left out: no mate says this" in text for text in texts) == 2
    assert any("gear pair" in text for text in texts)


def test_a_pair_lies_where_its_part_stands_turned() -> None:
    """A peg turned by a quarter about x: its own z is the world's y."""
    placed = [PLACED[0], Placed(name="Peg", solid=Cylinder(3, 20).solid(), position=(5, 6, 30), turn=(90, 0, 0))]
    pose = np.eye(4)
    pose[:3, :3], pose[:3, 3] = [[1, 0, 0], [0, 0, -1], [0, 1, 0]], (5, 6, 30)
    pair = Pair(kind="CYLINDRICAL_PAIR", uses=(1, 2), at=(5, 6, 30), z=(0, 1, 0))
    data = with_pairs(assembly_bytes(placed, "Kit"), [pair], poses=[np.eye(4), pose])
    build = read(data).build
    assert build is not None
    motions = freedom(build, tolerance=TOLERANCE).motions(1)
    assert [motion.kind for motion in motions] == ["rotation", "translation"]
    assert all(abs(motion.direction[1]) == pytest.approx(1) for motion in motions)


def test_placements_are_in_the_files_unit() -> None:
    records = Records(
        b"#1=CARTESIAN_POINT('',(1.,2.,3.));#2=DIRECTION('',(0.,3.,0.));#3=AXIS2_PLACEMENT_3D('',#1,#2,$);"
        b"#4=AXIS2_PLACEMENT_3D('',#1,#9,$);"
    )
    frame = Occurrences(records, [], mm=25.4).frame(Reference(3))
    assert frame is not None
    assert frame.point == pytest.approx([25.4, 50.8, 76.2])
    assert frame.direction == pytest.approx([0, 1, 0])
    assert Occurrences(records, [], mm=1.0).frame(Reference(7)) is None


def test_the_kernels_own_reader_takes_the_records_as_they_are_written() -> None:
    """The kernel knows the records of ISO 10303-105 and checks them, number and kind of every value."""
    pairs = [*FOUR_BAR, Pair(kind="PRISMATIC_PAIR_WITH_RANGE", uses=(1, 4), more=("-3.", "12.")),
             Pair(kind="SCREW_PAIR", uses=(1, 4), more=("2.5",)), Pair(kind="SPHERICAL_PAIR", uses=(1, 4))]  # fmt: skip
    data = with_pairs(KIT, pairs, poses=POSES)
    reader = STEPControl_Reader()
    reader.ReadStream("kit.step", io.BytesIO(data))
    model = reader.WS().Model()
    faults = []
    for number in range(1, model.NbEntities() + 1):
        kind = model.Value(number).DynamicType().Name()
        if "Pair" in kind or kind.endswith(("KinematicJoint", "KinematicLink")):
            faults.append(model.Check(number, True).NbFails())
    assert len(faults) == 2 * len(pairs) + len(PLACED)
    assert not any(faults)


def test_records_are_read_as_the_standard_writes_them() -> None:
    """ISO 10303-21, 6.4: texts with quotes and letters by number, enumerations, values with a type, comments."""
    records = Records(
        b"/* #1=A(); */ #2=B('it''s \\X2\\03A9\\X0\\ \\X\\F6;(',.T.,.MILLI.,-1.5E-3,LENGTH_MEASURE(2.5),(#3,$),*);"
        b"#3=(C()D(#2,'x'));"
    )
    assert records.get(2) == {"B": ["it's Ω ö;(", True, "MILLI", -0.0015, 2.5, [3, None], None]}
    assert records.get(3) == {"C": [], "D": [2, "x"]}
    assert (records.get(1), records.get(99)) == ({}, {})
    assert list(records.of("D")) == [(3, [2, "x"])]


@pytest.mark.parametrize("seed", range(60))
def test_broken_records_declare_less_and_end_in_no_error(seed: int) -> None:
    """Values left out, records that are gone, numbers where texts should be: what can be read is read."""
    random = np.random.default_rng(seed)
    text = with_pairs(KIT, FOUR_BAR, poses=POSES).decode()
    added = text.index("KINEMATIC_LINK")
    lines = text[added - 10 :].split("\n")
    for _ in range(6):
        k = int(random.integers(len(lines) - 3))
        cut = int(random.integers(1, max(len(lines[k]), 2)))
        broken = [lines[k][:cut] + ");", "", lines[k].replace("#", "#9"), lines[k].replace("(", "(7.,")]
        lines[k] = str(random.choice(broken))
    data = (text[: added - 10] + "\n".join(lines)).encode()
    named = [
        Named(part=own.name, name=own.name, pose=Pose(pose[:3, :3], pose[:3, 3]))
        for own, pose in zip(PLACED, POSES, strict=True)
    ]
    mechanism = read_mechanism(data, named, mm=1.0)
    assert mechanism is None or len(mechanism.mates) <= len(FOUR_BAR)
